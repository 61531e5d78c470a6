import {
  addExact,
  checkExpression,
  compareExact,
  compileCondition,
  type Exact,
  makeFrame,
  makeScope,
  multiplyExact,
  ORDINARY_CALENDAR,
  parseExpression,
  readExact,
  runProgram,
  TYPES,
  type Typing,
  typing,
  type Value,
  writeExact,
} from '@ypomet/core';
import Big from 'big.js';
import { Decimal } from 'decimal.js';
import { makeRandom } from './random.ts';
import { type Line, measureLines } from './report.ts';

const AMOUNTS = 10_000;

type Sum = { readonly field: number } | { readonly operator: '+' | '-' | '*'; readonly left: Sum; readonly right: Sum | number };
type MoneyTest = { readonly left: Sum; readonly operator: '<' | '>='; readonly right: Sum };
const MONEY_FIELDS = 10;
const MONEY_TESTS = 50;

const toText = (sum: Sum | number): string =>
  typeof sum === 'number'
    ? String(sum)
    : 'field' in sum
      ? `f${sum.field}`
      : `(${toText(sum.left)} ${sum.operator} ${toText(sum.right)})`;

type Row = readonly number[];
function toClosure(sum: Sum | number): (row: Row) => number {
  if (typeof sum === 'number') return () => sum;
  if ('field' in sum) {
    const { field } = sum;
    return (row) => row[field] as number;
  }
  const [left, right] = [toClosure(sum.left), toClosure(sum.right)];
  if (sum.operator === '+') return (row) => left(row) + right(row);
  return sum.operator === '-' ? (row) => left(row) - right(row) : (row) => left(row) * right(row);
}
const toCode = (sum: Sum | number): string => toText(sum).replace(/f(\d+)/g, 'r[$1]');

/**
 * Amounts of money as a workflow decides by them: 50 conditions such as `(f1 + f2 * 3) - f4 >= f5 + f6` over records, compiled,
 * beside what a programmer would write by hand on doubles, and the same turned into code.
 */
export function benchMoneyConditions(): readonly Line[] {
  const random = makeRandom(17);
  const pick = (below: number): number => Math.floor(random() * below);
  const field = (): Sum => ({ field: pick(MONEY_FIELDS) });
  const makeSum = (depth: number): Sum => {
    if (depth === 0) return field();
    if (random() < 0.3) return { operator: '*', left: field(), right: 1 + pick(20) };
    return { operator: random() < 0.5 ? '+' : '-', left: makeSum(depth - 1), right: makeSum(depth - 1) };
  };
  const tests = Array.from(
    { length: MONEY_TESTS },
    (): MoneyTest => ({
      left: makeSum(2),
      operator: random() < 0.5 ? '<' : '>=',
      right: makeSum(1),
    }),
  );
  const rows: readonly Row[] = Array.from({ length: 2000 }, () =>
    Array.from({ length: MONEY_FIELDS }, () => Math.floor(random() * 100_000) / 100),
  );
  const slots = rows.map((row) => row.map((value): Value => readExact(value.toFixed(2))));
  const names = Array.from({ length: MONEY_FIELDS }, (_, index): [string, Typing] => [`f${index}`, typing(TYPES.number, true)]);
  const scope = makeScope(Object.fromEntries(names));
  const compiled = tests.map(({ left, operator, right }) => {
    const parsed = parseExpression(`${toText(left)} ${operator} ${toText(right)}`);
    if (!parsed.ok) throw new Error('a generated condition does not parse');
    return compileCondition(checkExpression(parsed.value, scope));
  });
  const closures = tests.map(({ left, operator, right }) => {
    const [a, b] = [toClosure(left), toClosure(right)];
    return operator === '<' ? (row: Row) => a(row) < b(row) : (row: Row) => a(row) >= b(row);
  });
  const generated = tests.map(
    ({ left, operator, right }) =>
      new Function('r', `return ${toCode(left)} ${operator} ${toCode(right)}`) as (row: Row) => boolean,
  );
  const frame = makeFrame([], { now: 0, zone: 'UTC', calendar: ORDINARY_CALENDAR });
  // Doubles are a hair off where both sides come to the same: elsewhere the answers are the same.
  let others = 0;
  rows.forEach((row, index) => {
    frame.slots = slots[index] as Value[];
    compiled.forEach((condition, at) => {
      if (runProgram(condition, frame) !== closures[at]?.(row) || closures[at]?.(row) !== generated[at]?.(row)) others += 1;
    });
  });
  if (others > (rows.length * MONEY_TESTS) / 1000) throw new Error(`${others} answers differ`);
  const count = rows.length * MONEY_TESTS;
  return measureLines([
    {
      what: 'compiled, exact',
      count,
      run: () => {
        for (const values of slots) {
          frame.slots = values;
          for (const condition of compiled) runProgram(condition, frame);
        }
      },
    },
    {
      what: 'closures by hand (doubles)',
      count,
      run: () => {
        for (const row of rows) for (const closure of closures) closure(row);
      },
      times: { above: 1 / 3 },
    },
    {
      what: 'generated code (doubles)',
      count,
      run: () => {
        for (const row of rows) for (const condition of generated) condition(row);
      },
    },
  ]);
}

/** Adds, multiplies and compares amounts of money with cents: `total = total + amount * 3` while below a limit. */
export function benchMoney(): readonly Line[] {
  const random = makeRandom(11);
  const texts = Array.from({ length: AMOUNTS }, () => (Math.floor(random() * 100_000) / 100).toFixed(2));
  const doubles = texts.map(Number);
  const exacts = texts.map((text) => readExact(text) as Exact);
  const bigs = texts.map((text) => new Big(text));
  const decimals = texts.map((text) => new Decimal(text));
  const three = readExact('3') as Exact;
  const limit = readExact('1000000000000') as Exact;
  const bigLimit = new Big('1000000000000');
  const decimalLimit = new Decimal('1000000000000');
  let kept: unknown = null;

  const ours = (): void => {
    let total = readExact('0.00') as Exact;
    for (const amount of exacts) {
      const more = addExact(total, multiplyExact(amount, three) as Exact) as Exact;
      if (compareExact(more, limit) < 0) total = more;
    }
    kept = total;
  };
  const withDoubles = (): void => {
    let total = 0;
    for (const amount of doubles) {
      const more = total + amount * 3;
      if (more < 1e12) total = more;
    }
    kept = total;
  };
  /** As doubles must be handled so that cents don't go astray. */
  const withRounding = (): void => {
    let total = 0;
    for (const amount of doubles) {
      const more = Math.round((total + amount * 3) * 100) / 100;
      if (more < 1e12) total = more;
    }
    kept = total;
  };
  const withBig = (): void => {
    let total = new Big(0);
    for (const amount of bigs) {
      const more = total.plus(amount.times(3));
      if (more.lt(bigLimit)) total = more;
    }
    kept = total;
  };
  const withDecimal = (): void => {
    let total = new Decimal(0);
    for (const amount of decimals) {
      const more = total.plus(amount.times(3));
      if (more.lt(decimalLimit)) total = more;
    }
    kept = total;
  };
  ours();
  const exact = writeExact(kept as Exact);
  withBig();
  if ((kept as Big).toFixed() !== exact) throw new Error('big.js comes to another sum');
  withDecimal();
  if ((kept as Decimal).toFixed() !== exact) throw new Error('decimal.js comes to another sum');
  const lines = measureLines([
    { what: 'exact decimals', count: AMOUNTS * 20, run: () => repeat(20, ours) },
    { what: 'doubles', count: AMOUNTS * 20, run: () => repeat(20, withDoubles) },
    { what: 'doubles, rounded to cents', count: AMOUNTS * 20, run: () => repeat(20, withRounding) },
    { what: 'big.js', count: AMOUNTS, run: withBig },
    { what: 'decimal.js', count: AMOUNTS, run: withDecimal },
  ]);
  if (kept === null) throw new Error('nothing was reckoned');
  return lines;
}

function repeat(times: number, run: () => void): void {
  for (let index = 0; index < times; index++) run();
}
