import {
  compareExact,
  type Exact,
  exactInteger,
  exponentialExact,
  findInteger,
  logarithmExact,
  moduloExact,
  negateExact,
  type Rounding,
  readExact,
  roundExact,
  squareRootExact,
  ZERO,
} from '../../values/exact.ts';
import type { DaysDuration, MonthsDuration } from '../../values/temporal.ts';
import { notTruth, type Value } from '../../values/value.ts';
import { TYPES, type Type, type Typing } from '../types.ts';
import { type Builtin, optional, parameter } from './builtin.ts';

const CLAUSE = '10.3.4.5';
const TWO = exactInteger(2);
const { number, boolean, text } = TYPES;

/** The type of what is given first: an amount stays one in its currency. */
const sameAmount = (given: readonly Typing[]): Type => (given[0]?.type.kind === 'number' ? given[0].type : number);

const asExact = (value: Value | undefined): Exact => value as Exact;

const unary = (
  name: string,
  summary: string,
  call: (value: Exact) => Value,
  options: { partial?: true; result?: Type; steps?: number } = {},
): Builtin => ({
  name,
  clause: CLAUSE,
  summary,
  ...(options.partial ? { partial: true as const } : {}),
  steps: options.steps ?? 1,
  signatures: [{ parameters: [parameter('n', number)], result: options.result ?? number }],
  call: ([value]) => call(asExact(value)),
});

const rounding = (name: string, summary: string, how: Rounding, clause = CLAUSE, needsScale = true): Builtin => ({
  name,
  clause,
  summary,
  partial: true,
  signatures: [
    {
      parameters: [parameter('n', number), needsScale ? parameter('scale', number) : optional('scale', number)],
      result: sameAmount,
    },
  ],
  call: ([value, places]) => {
    const scale = places === undefined ? 0 : findInteger(asExact(places));
    return scale === null ? null : roundExact(asExact(value), scale, how);
  },
});

function absolute(value: Exact | DaysDuration | MonthsDuration): Value {
  if (value.kind === 'number') return compareExact(value, ZERO) < 0 ? negateExact(value) : value;
  return value.kind === 'days-duration' ? { ...value, ms: Math.abs(value.ms) } : { ...value, months: Math.abs(value.months) };
}

/** Whether a whole number, of any size, is odd; null for others. */
function isOdd(value: Exact): boolean | null {
  const half = moduloExact(value, TWO);
  const rest = half && findInteger(half);
  return rest === null ? null : rest === 1;
}

/** FEEL's `number(from, grouping separator, decimal separator)`. */
function readGrouped(given: readonly Value[]): Value {
  const [from, grouping, decimal] = given as readonly [string, string | null | undefined, string | null | undefined];
  const separators = [' ', ',', '.', null, undefined];
  if (!separators.includes(grouping) || !['.', ',', null, undefined].includes(decimal)) return null;
  if (grouping && grouping === decimal) return null;
  const plain = grouping ? from.replaceAll(grouping, '') : from;
  return readExact(decimal && decimal !== '.' ? plain.replaceAll(decimal, '.') : plain);
}

export const numberBuiltins: readonly Builtin[] = [
  rounding('decimal', 'The number rounded half even to a number of places.', 'half-even'),
  rounding('floor', 'The greatest number with the given places (0) that is not above.', 'floor', CLAUSE, false),
  rounding('ceiling', 'The least number with the given places (0) that is not below.', 'ceiling', CLAUSE, false),
  rounding('round up', 'Rounded away from zero.', 'up', `${CLAUSE} (DMN 1.4)`),
  rounding('round down', 'Rounded towards zero.', 'down', `${CLAUSE} (DMN 1.4)`),
  rounding('round half up', 'Rounded to the nearest, halves away from zero.', 'half-up', `${CLAUSE} (DMN 1.4)`),
  rounding('round half down', 'Rounded to the nearest, halves towards zero.', 'half-down', `${CLAUSE} (DMN 1.4)`),
  {
    name: 'abs',
    clause: CLAUSE,
    summary: 'The number or duration without its sign.',
    signatures: [number, TYPES.daysDuration, TYPES.monthsDuration].map((type) => ({
      parameters: [parameter('n', type)],
      result: type === number ? sameAmount : type,
    })),
    call: ([value]) => absolute(value as Exact | DaysDuration | MonthsDuration),
  },
  unary('sqrt', 'The square root; null for a negative number.', squareRootExact, { partial: true, steps: 1000 }),
  unary('log', 'The natural logarithm; null unless the number is above 0.', logarithmExact, { partial: true, steps: 3000 }),
  unary('exp', 'e to the power of the number.', exponentialExact, { partial: true, steps: 4000 }),
  unary('odd', 'Whether a whole number is odd.', isOdd, {
    partial: true,
    result: boolean,
  }),
  unary('even', 'Whether a whole number is even.', (value) => notTruth(isOdd(value)), {
    partial: true,
    result: boolean,
  }),
  {
    name: 'modulo',
    clause: CLAUSE,
    partial: true,
    summary: 'The remainder of a division, with the sign of the divisor.',
    signatures: [{ parameters: [parameter('dividend', number), parameter('divisor', number)], result: sameAmount }],
    call: ([a, b]) => moduloExact(asExact(a), asExact(b)),
  },
  {
    name: 'number',
    clause: '10.3.4.1',
    partial: true,
    takesNull: true,
    summary: 'A text read as a number; null when it is none.',
    signatures: [
      {
        parameters: [parameter('from', text), optional('grouping separator', text), optional('decimal separator', text)],
        result: number,
      },
    ],
    call: (given) => (given[0] === null ? null : readGrouped(given)),
  },
];
