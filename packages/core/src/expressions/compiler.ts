import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { isRounded, PRECISION } from '../values/exact.ts';
import type { Value } from '../values/value.ts';
import { type CheckedExpression, checkExpression } from './check.ts';
import { compileCondition, compileExpression, type Evaluate } from './compile.ts';
import { type ConditionProgram, NEVER, runProgram } from './condition-program.ts';
import type { Frame } from './frame.ts';
import { parseExpression } from './parse.ts';
import type { Scope } from './scope.ts';
import { childrenOf, type Node } from './tree.ts';
import { TYPES, type Type } from './types.ts';

/** An expression of a workflow, ready to evaluate and to explain. `checked` is null when the text has errors: it yields null. */
export type CompiledExpression = {
  readonly text: string;
  /** Where it stands in the definition. */
  readonly path: string;
  readonly checked: CheckedExpression | null;
  readonly evaluate: Evaluate;
  /** What a condition made of it asks; made when it is first asked. */
  readonly program: ConditionProgram;
};

/** A condition; `expression` is null for "always". */
export interface CompiledCondition {
  readonly expression: CompiledExpression | null;
  /** Whether it is true, which is all that a condition needs to know: false and unknown don't satisfy it. */
  holds(frame: Frame): boolean;
}

/**
 * `whole` reads every expression at once, so that all that is wrong is known. `as needed` reads each when it is first
 * evaluated: for definitions that were found sound before, of which one record needs a small part.
 */
export type Compiling = 'whole' | 'as-needed';

type Known<T> = { readonly value: T; readonly diagnostics: readonly Diagnostic[] };
type Remembered = Known<unknown> & { readonly of: readonly unknown[] };

/**
 * What was compiled before: a draft is compiled at each edit, and nearly all of it is the same as before. Expressions are
 * known by text, scope and expected type; other parts by name, as long as what they are made of is the same objects.
 */
export class CompilationMemory {
  private readonly expressions = new WeakMap<Scope, Map<Type | undefined, Map<string, Known<CompiledExpression>>>>();
  private readonly others = new WeakMap<Scope, Map<string, Known<unknown>>>();
  private readonly parts = new Map<string, Remembered>();

  expression(scope: Scope, expected: Type | undefined, key: string, make: () => Known<CompiledExpression>) {
    const byType = this.expressions.get(scope) ?? new Map<Type | undefined, Map<string, Known<CompiledExpression>>>();
    this.expressions.set(scope, byType);
    const byText = byType.get(expected) ?? new Map<string, Known<CompiledExpression>>();
    byType.set(expected, byText);
    const found = byText.get(key) ?? make();
    byText.set(key, found);
    return found;
  }

  made<T>(scope: Scope, key: string, make: () => Known<T>): Known<T> {
    const known = this.others.get(scope) ?? new Map<string, Known<unknown>>();
    this.others.set(scope, known);
    const found = known.get(key) ?? make();
    known.set(key, found);
    return found as Known<T>;
  }

  part<T>(name: string, of: readonly unknown[], make: () => Known<T>): Known<T> {
    const known = this.parts.get(name);
    if (known && known.of.length === of.length && known.of.every((one, index) => one === of[index])) return known as Known<T>;
    const made = make();
    this.parts.set(name, { ...made, of });
    return made;
  }
}

/** Compiles the expressions of one workflow and gathers what is wrong with them, each under its path. */
export class ExpressionCompiler {
  readonly diagnostics: Diagnostic[] = [];

  constructor(
    readonly compiling: Compiling = 'whole',
    private readonly memory: CompilationMemory | null = null,
  ) {}

  /** A part as it was made before from the same things, with what was found wrong with it; else made now. */
  reuse<T>(name: string, of: readonly unknown[], make: () => T): T {
    if (!this.memory) return make();
    const before = this.diagnostics.length;
    let isMade = false;
    const { value, diagnostics } = this.memory.part(name, of, () => {
      isMade = true;
      const made = make();
      return { value: made, diagnostics: this.diagnostics.slice(before) };
    });
    if (!isMade) this.diagnostics.push(...diagnostics);
    return value;
  }

  /** What is made from a text in a scope, as it was made before; `key` tells it from what else is made from the same text. */
  remember<T>(scope: Scope, key: string, make: () => Known<T>): T {
    const { value, diagnostics } = this.memory?.made(scope, key, make) ?? make();
    this.diagnostics.push(...diagnostics);
    return value;
  }

  compile(text: string, path: string, scope: Scope, expected?: Type): CompiledExpression {
    if (this.compiling === 'whole') return this.compileNow(text, path, scope, expected);
    return new ExpressionAsNeeded(text, path, () => this.compileNow(text, path, scope, expected));
  }

  compileCondition(text: string | null, path: string, scope: Scope): CompiledCondition {
    if (text === null) return ALWAYS;
    const expression = this.compile(text, path, scope, TYPES.boolean);
    return new Condition(expression);
  }

  private compileNow(text: string, path: string, scope: Scope, expected: Type | undefined): CompiledExpression {
    const make = () => compileText(text, path, scope, expected);
    const { value, diagnostics } = this.memory?.expression(scope, expected, `${path}\n${text}`, make) ?? make();
    this.diagnostics.push(...diagnostics);
    return value;
  }
}

function compileText(text: string, path: string, scope: Scope, expected: Type | undefined): Known<CompiledExpression> {
  const parsed = parseExpression(text);
  const checked = parsed.ok ? checkExpression(parsed.value, scope, expected) : null;
  const diagnostics = parsed.ok ? (checked?.diagnostics ?? []) : parsed.diagnostics;
  if (!checked || diagnostics.length > 0) {
    const placed = diagnostics.map((one) => ({ ...one, path }));
    return { value: { text, path, checked: null, evaluate: () => null, program: NEVER }, diagnostics: placed };
  }
  return { value: new CheckedText(text, path, checked), diagnostics: findRounded(text, checked.node, path) };
}

/** Returns a warning for each literal number with more digits than are kept. The rounding itself is unchanged: published versions decide as before. */
function findRounded(text: string, node: Node, path: string): readonly Diagnostic[] {
  if (text.length <= PRECISION) return [];
  const found: Diagnostic[] = [];
  const look = (one: Node): void => {
    const written = one.kind === 'number' ? text.slice(one.span.start, one.span.end) : '';
    if (isRounded(written)) found.push(diagnostic('expression/rounded', path, { found: written, limit: PRECISION }, one.span));
    childrenOf(one).forEach(look);
  };
  look(node);
  return found;
}

/** A sound expression. Of some the value is asked, of others whether they hold: each is compiled when it is first asked. */
class CheckedText implements CompiledExpression {
  private value: Evaluate | null = null;
  private condition: ConditionProgram | null = null;

  constructor(
    readonly text: string,
    readonly path: string,
    readonly checked: CheckedExpression,
  ) {}

  readonly evaluate = (frame: Frame): Value => {
    this.value ??= compileExpression(this.checked, this.path);
    return this.value(frame);
  };

  get program(): ConditionProgram {
    this.condition ??= compileCondition(this.checked, this.path);
    return this.condition;
  }
}

/** Holds its program itself: where thousands are asked, each object on the way costs as much as a test. */
class Condition implements CompiledCondition {
  private program: ConditionProgram | null = null;

  constructor(readonly expression: CompiledExpression) {}

  holds(frame: Frame): boolean {
    this.program ??= this.expression.program;
    return runProgram(this.program, frame);
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

  get program(): ConditionProgram {
    return this.compiled().program;
  }

  private compiled(): CompiledExpression {
    this.made ??= this.make();
    return this.made;
  }
}

export const ALWAYS: CompiledCondition = { expression: null, holds: () => true };

/** Of an adjustment over cells alone, which is asked for each row by the conditions of its table. */
export const UNASKED: CompiledCondition = { expression: null, holds: () => false };
