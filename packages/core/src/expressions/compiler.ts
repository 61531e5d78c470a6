import type { Diagnostic } from '../shared/diagnostic.ts';
import type { Truth, Value } from '../values/value.ts';
import { type CheckedExpression, checkExpression } from './check.ts';
import { compileExpression, type Evaluate } from './compile.ts';
import type { Frame } from './frame.ts';
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

/**
 * `whole` reads every expression at once, so that all that is wrong is known. `as needed` reads each when it is first
 * evaluated: for definitions that were found sound before, of which one record needs a small part.
 */
export type Compiling = 'whole' | 'as-needed';

/** Compiles the expressions of one workflow and gathers what is wrong with them, each under its path. */
export class ExpressionCompiler {
  readonly diagnostics: Diagnostic[] = [];

  constructor(readonly compiling: Compiling = 'whole') {}

  compile(text: string, path: string, scope: Scope, expected?: Type): CompiledExpression {
    if (this.compiling === 'whole') return this.compileNow(text, path, scope, expected);
    return new ExpressionAsNeeded(text, path, () => this.compileNow(text, path, scope, expected));
  }

  compileCondition(text: string | null, path: string, scope: Scope): CompiledCondition {
    if (text === null) return ALWAYS;
    const expression = this.compile(text, path, scope, TYPES.boolean);
    return { expression, holds: (frame) => asTruth(expression.evaluate(frame)) };
  }

  private compileNow(text: string, path: string, scope: Scope, expected: Type | undefined): CompiledExpression {
    const parsed = parseExpression(text);
    if (!parsed.ok) return this.fail(text, path, parsed.diagnostics);
    const checked = checkExpression(parsed.value, scope, expected);
    if (checked.diagnostics.length > 0) return this.fail(text, path, checked.diagnostics);
    return { text, path, checked, evaluate: compileExpression(checked, path) };
  }

  private fail(text: string, path: string, diagnostics: readonly Diagnostic[]): CompiledExpression {
    this.diagnostics.push(...diagnostics.map((one) => ({ ...one, path })));
    return { text, path, checked: null, evaluate: () => null };
  }
}

class ExpressionAsNeeded implements CompiledExpression {
  private made: CompiledExpression | null = null;

  constructor(
    readonly text: string,
    readonly path: string,
    private readonly make: () => CompiledExpression,
  ) {}

  get checked(): CheckedExpression | null {
    return this.compiled().checked;
  }

  readonly evaluate = (frame: Frame): Value => (this.made ?? this.compiled()).evaluate(frame);

  private compiled(): CompiledExpression {
    this.made ??= this.make();
    return this.made;
  }
}

export const ALWAYS: CompiledCondition = { expression: null, holds: () => true };

const asTruth = (value: Value): Truth => (value === true ? true : value === false ? false : null);
