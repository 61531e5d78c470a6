import type { Diagnostic } from '../shared/diagnostic.ts';
import type { Truth, Value } from '../values/value.ts';
import { type CheckedExpression, checkExpression } from './check.ts';
import { compileExpression, type Evaluate } from './compile.ts';
import { parseExpression } from './parse.ts';
import type { Scope } from './scope.ts';
import { TYPES, type Type } from './types.ts';

/** An expression of a workflow, ready to evaluate and to explain. `checked` is null when the text has errors: it yields null. */
export type CompiledExpression = {
  readonly text: string;
  /** Where it stands in the definition. */
  readonly path: string;
  readonly checked: CheckedExpression | null;
  readonly evaluate: Evaluate;
};

/** A condition; `expression` is null for "always". */
export type CompiledCondition = {
  readonly expression: CompiledExpression | null;
  readonly holds: Evaluate<Truth>;
};

/** Compiles the expressions of one workflow and gathers what is wrong with them, each under its path. */
export class ExpressionCompiler {
  readonly diagnostics: Diagnostic[] = [];

  compile(text: string, path: string, scope: Scope, expected?: Type): CompiledExpression {
    const parsed = parseExpression(text);
    if (!parsed.ok) return this.fail(text, path, parsed.diagnostics);
    const checked = checkExpression(parsed.value, scope, expected);
    if (checked.diagnostics.length > 0) return this.fail(text, path, checked.diagnostics);
    return { text, path, checked, evaluate: compileExpression(checked) };
  }

  compileCondition(text: string | null, path: string, scope: Scope): CompiledCondition {
    if (text === null) return ALWAYS;
    const expression = this.compile(text, path, scope, TYPES.boolean);
    return { expression, holds: (frame) => asTruth(expression.evaluate(frame)) };
  }

  private fail(text: string, path: string, diagnostics: readonly Diagnostic[]): CompiledExpression {
    this.diagnostics.push(...diagnostics.map((one) => ({ ...one, path })));
    return { text, path, checked: null, evaluate: () => null };
  }
}

export const ALWAYS: CompiledCondition = { expression: null, holds: () => true };

const asTruth = (value: Value): Truth => (value === true ? true : value === false ? false : null);
