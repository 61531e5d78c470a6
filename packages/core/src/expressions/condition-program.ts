import { compareExact, type Exact, negateExact, POWERS } from '../values/exact.ts';
import type { Value } from '../values/value.ts';
import type { CheckedExpression } from './check.ts';
import type { Frame } from './frame.ts';
import type { CompareNode, ComparisonOperator, InNode, Node, RangeNode, UnaryTest } from './tree.ts';

/**
 * A condition as a flat program. Only true satisfies a condition, so each part is asked either "is it true?" or "is it
 * false?", and asking needs no third truth: `a and b` is true where both are, false where one is, and under `not` the two
 * questions change places. What is left is a row of tests, each with the row to go on at when it is met and when it isn't.
 *
 * The rows lie in one array of small integers: a workflow with thousands of conditions asks all of them again and again, and
 * as closures and objects they didn't fit the processor's cache. Measured at 1,500 adjustments of four clauses: a third of
 * the time.
 */
export type ConditionProgram = {
  /** The first row. */
  readonly entry: number;
  /** Rows of {@link ROW} integers: what is tested, what meets it, slot, constant, scale, next row if met, next row if not. */
  readonly rows: readonly number[];
  /** Texts to be equal to, numbers that are no small integers, and whatever isn't a plain test. */
  readonly constants: readonly (string | Exact | ((frame: Frame) => Value))[];
};

const ROW = 7;
/** Where a program ends. */
const [HOLDS, FAILS] = [-1, -2] as const;

/** What a row tests: a slot's number against a small integer or a constant, its text against a constant, or anything else. */
const [SMALL_NUMBER, NUMBER, TEXT, TRUTH, ANYTHING] = [0, 1, 2, 3, 4] as const;
/** Greatest integer that is kept in a row. */
const SMALL = 2 ** 30;

/** What meets a test, as a set: a value below, equal to or above; none; for anything else true, false and unknown. */
const [BELOW, EQUAL, ABOVE, EMPTY] = [1, 2, 4, 8] as const;
const [TRUE, FALSE] = [EQUAL, BELOW] as const;

/** What makes a comparison true; what makes it false is the rest, save that an order with nothing is neither. */
const MADE_TRUE: Readonly<Record<ComparisonOperator, number>> = {
  '=': EQUAL,
  '!=': BELOW | ABOVE | EMPTY,
  '<': BELOW,
  '<=': BELOW | EQUAL,
  '>': ABOVE,
  '>=': ABOVE | EQUAL,
};
const MIRRORED: Readonly<Record<ComparisonOperator, ComparisonOperator>> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<=',
};

const metBy = (operator: ComparisonOperator, asked: boolean): number => {
  const met = MADE_TRUE[operator];
  if (asked) return met;
  const rest = (BELOW | EQUAL | ABOVE | EMPTY) & ~met;
  return operator === '=' || operator === '!=' ? rest : rest & ~EMPTY;
};

/** Runs a program: whether the condition holds. */
export function runProgram({ entry, rows, constants }: ConditionProgram, frame: Frame): boolean {
  const { slots } = frame;
  let row = entry;
  while (row >= 0) {
    const isMet = ((rows[row + 1] as number) & found(rows, row, constants, slots, frame)) !== 0;
    row = rows[isMet ? row + 5 : row + 6] as number;
  }
  return row === HOLDS;
}

function found(
  rows: readonly number[],
  row: number,
  constants: ConditionProgram['constants'],
  slots: readonly Value[],
  frame: Frame,
): number {
  const kind = rows[row] as number;
  if (kind === ANYTHING) return truthFound((constants[rows[row + 3] as number] as (frame: Frame) => Value)(frame));
  const value = slots[rows[row + 2] as number] as Value;
  if (value === null) return EMPTY;
  if (kind === TRUTH) return truthFound(value);
  if (kind === TEXT) return value === constants[rows[row + 3] as number] ? EQUAL : ABOVE;
  const difference =
    kind === SMALL_NUMBER
      ? differenceFrom(value as Exact, rows[row + 3] as number, rows[row + 4] as number)
      : compareExact(value as Exact, constants[rows[row + 3] as number] as Exact);
  return difference < 0 ? BELOW : difference > 0 ? ABOVE : EQUAL;
}

const truthFound = (value: Value): number => (value === true ? TRUE : value === false ? FALSE : EMPTY);

/** The sign of a number's difference from a literal: as a rule one subtraction, the literal brought to the number's scale. */
function differenceFrom(value: Exact, coefficient: number, scale: number): number {
  const shift = value.scale - scale;
  // A small integer times a million is a safe one.
  if (value.big === null && shift >= 0 && shift <= 6) return value.coefficient - coefficient * (POWERS[shift] as number);
  return compareExact(value, { kind: 'number', coefficient, scale, big: null });
}

/** A condition that never holds. */
export const NEVER: ConditionProgram = { entry: FAILS, rows: [], constants: [] };

/** The program of a condition that is evaluated whole. */
export const programOf = (evaluate: (frame: Frame) => Value): ConditionProgram => ({
  entry: 0,
  rows: [ANYTHING, TRUE, 0, 0, 0, HOLDS, FAILS],
  constants: [evaluate],
});

/** Where to go on: a row, {@link HOLDS} or {@link FAILS}. */
type Next = { readonly ifMet: number; readonly ifNot: number };

/**
 * Makes the program of a condition. `compile` makes a closure of a part that is no plain test. None of the parts may count
 * steps: a part that isn't needed isn't evaluated.
 */
export function makeProgram(checked: CheckedExpression, compile: (node: Node) => (frame: Frame) => Value): ConditionProgram {
  const writer = new ProgramWriter(checked, compile);
  const entry = writer.ask(checked.node, true, { ifMet: HOLDS, ifNot: FAILS });
  return { entry, rows: writer.rows, constants: writer.constants };
}

/** A literal that a slot is compared with. */
type Literal = { readonly number: Exact } | { readonly text: string };

/** Texts have no order here, only equality. */
const canTest = (operator: ComparisonOperator, literal: Literal): boolean =>
  'number' in literal || operator === '=' || operator === '!=';

/** What `in (…)` tests for equality, items of a list written out each for itself; null for any other test. */
const literalTests = (tests: readonly UnaryTest[]): readonly (Node | null)[] =>
  tests.flatMap((test): readonly (Node | null)[] => {
    if (test.kind !== 'matches') return [null];
    return test.node.kind === 'list' ? test.node.of : [test.node];
  });

class ProgramWriter {
  readonly rows: number[] = [];
  readonly constants: (string | Exact | ((frame: Frame) => Value))[] = [];

  constructor(
    private readonly checked: CheckedExpression,
    private readonly compile: (node: Node) => (frame: Frame) => Value,
  ) {}

  /** Writes the rows that ask whether a part is `asked`, from the last to the first; what comes back is the first. */
  ask(node: Node, asked: boolean, next: Next): number {
    switch (node.kind) {
      case 'null':
        return next.ifNot;
      case 'boolean':
        return node.value === asked ? next.ifMet : next.ifNot;
      case 'all':
      case 'any':
        return this.askEach(
          node.of.map((part) => (to: Next) => this.ask(part, asked, to)),
          (node.kind === 'all') === asked,
          next,
        );
      case 'if': {
        const ifMet = this.ask(node.then, asked, next);
        const ifNot = this.ask(node.otherwise, asked, next);
        return this.ask(node.test, true, { ifMet, ifNot });
      }
      case 'call': {
        const [only] = node.of;
        return node.name === 'not' && only ? this.ask(only, !asked, next) : this.askAnything(node, asked, next);
      }
      case 'compare':
        return this.askComparison(node, asked, next) ?? this.askAnything(node, asked, next);
      case 'between':
        return (
          this.askRange(node.value, { ...node, includesLow: true, includesHigh: true }, asked, next) ??
          this.askAnything(node, asked, next)
        );
      case 'in':
        return this.askTests(node, asked, next) ?? this.askAnything(node, asked, next);
      default:
        return this.askAnything(node, asked, next);
    }
  }

  /** All of several, or any of them. */
  private askEach(parts: readonly ((next: Next) => number)[], isAll: boolean, { ifMet, ifNot }: Next): number {
    return parts.reduceRight(
      (after, part) => part(isAll ? { ifMet: after, ifNot } : { ifMet, ifNot: after }),
      isAll ? ifMet : ifNot,
    );
  }

  private askComparison({ operator, left, right }: CompareNode, asked: boolean, next: Next): number | null {
    const [slot, literal] = [this.slotOf(left), this.literalFor(left, right)];
    if (slot !== null && literal) return this.askSlots(slot, [[operator, literal]], asked, asked, next);
    const [other, first] = [this.slotOf(right), this.literalFor(right, left)];
    return other !== null && first ? this.askSlots(other, [[MIRRORED[operator], first]], asked, asked, next) : null;
  }

  private askRange(
    value: Node,
    range: Pick<RangeNode, 'low' | 'high' | 'includesLow' | 'includesHigh'>,
    asked: boolean,
    next: Next,
  ) {
    const slot = this.slotOf(value);
    const [low, high] = [this.literalFor(value, range.low), this.literalFor(value, range.high)];
    if (slot === null || !low || !high) return null;
    const ends = [
      [range.includesLow ? '>=' : '>', low],
      [range.includesHigh ? '<=' : '<', high],
    ] as const;
    return this.askSlots(slot, ends, asked, asked, next);
  }

  private askTests({ value, tests }: InNode, asked: boolean, next: Next): number | null {
    const slot = this.slotOf(value);
    const literals = literalTests(tests).map((node) => node && this.literalFor(value, node));
    if (slot === null || !literals.every((literal) => literal !== null)) return null;
    return this.askSlots(
      slot,
      literals.map((literal) => ['=', literal]),
      asked,
      !asked,
      next,
    );
  }

  private askSlots(
    slot: number,
    tests: readonly (readonly [ComparisonOperator, Literal])[],
    asked: boolean,
    isAll: boolean,
    next: Next,
  ): number | null {
    if (!tests.every(([operator, literal]) => canTest(operator, literal))) return null;
    const parts = tests.map((test) => (to: Next) => this.askSlot(slot, ...test, asked, to));
    return this.askEach(parts, isAll, next);
  }

  private askSlot(slot: number, operator: ComparisonOperator, literal: Literal, asked: boolean, next: Next): number {
    const met = metBy(operator, asked);
    if ('text' in literal) return this.write([TEXT, met, slot, this.keep(literal.text), 0], next);
    const { coefficient, scale, big } = literal.number;
    return big === null && Math.abs(coefficient) <= SMALL
      ? this.write([SMALL_NUMBER, met, slot, coefficient, scale], next)
      : this.write([NUMBER, met, slot, this.keep(literal.number), 0], next);
  }

  private askAnything(node: Node, asked: boolean, next: Next): number {
    const met = asked ? TRUE : FALSE;
    const slot = this.slotOf(node);
    return slot === null
      ? this.write([ANYTHING, met, 0, this.keep(this.compile(node)), 0], next)
      : this.write([TRUTH, met, slot, 0, 0], next);
  }

  /** The slot that a node reads directly; null for anything but a name of the scope. */
  private slotOf(node: Node): number | null {
    const reference = node.kind === 'name' ? this.checked.references.get(node) : undefined;
    return reference?.kind === 'slot' ? reference.slot : null;
  }

  /** The literal that a node is, where it has the type of what stands beside it. */
  private literalFor(beside: Node, node: Node): Literal | null {
    const kind = this.checked.typings.get(beside)?.type.kind;
    if (node.kind === 'negate' && node.of.kind === 'number' && kind === 'number') return { number: negateExact(node.of.value) };
    if (node.kind === 'number' && kind === 'number') return { number: node.value };
    return node.kind === 'text' && (kind === 'text' || kind === 'choice') ? { text: node.value } : null;
  }

  private keep(constant: string | Exact | ((frame: Frame) => Value)): number {
    return this.constants.push(constant) - 1;
  }

  private write(test: readonly number[], { ifMet, ifNot }: Next): number {
    return this.rows.push(...test, ifMet, ifNot) - ROW;
  }
}
