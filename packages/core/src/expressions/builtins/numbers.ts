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
  call: (value: Exact) => Value,
  options: { partial?: true; result?: Type; steps?: number } = {},
): Builtin => ({
  name,
  clause: CLAUSE,
  ...(options.partial ? { partial: true as const } : {}),
  steps: options.steps ?? 1,
  signatures: [{ parameters: [parameter('n', number)], result: options.result ?? number }],
  call: ([value]) => call(asExact(value)),
});

const rounding = (name: string, how: Rounding, clause = CLAUSE, needsScale = true): Builtin => ({
  name,
  clause,
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
  rounding('decimal', 'half-even'),
  rounding('floor', 'floor', CLAUSE, false),
  rounding('ceiling', 'ceiling', CLAUSE, false),
  rounding('round up', 'up', `${CLAUSE} (DMN 1.4)`),
  rounding('round down', 'down', `${CLAUSE} (DMN 1.4)`),
  rounding('round half up', 'half-up', `${CLAUSE} (DMN 1.4)`),
  rounding('round half down', 'half-down', `${CLAUSE} (DMN 1.4)`),
  {
    name: 'abs',
    clause: CLAUSE,
    signatures: [number, TYPES.daysDuration, TYPES.monthsDuration].map((type) => ({
      parameters: [parameter('n', type)],
      result: type === number ? sameAmount : type,
    })),
    call: ([value]) => absolute(value as Exact | DaysDuration | MonthsDuration),
  },
  unary('sqrt', squareRootExact, { partial: true, steps: 1000 }),
  unary('log', logarithmExact, { partial: true, steps: 3000 }),
  unary('exp', exponentialExact, { partial: true, steps: 4000 }),
  unary('odd', isOdd, {
    partial: true,
    result: boolean,
  }),
  unary('even', (value) => notTruth(isOdd(value)), {
    partial: true,
    result: boolean,
  }),
  {
    name: 'modulo',
    clause: CLAUSE,
    partial: true,
    signatures: [{ parameters: [parameter('dividend', number), parameter('divisor', number)], result: sameAmount }],
    call: ([a, b]) => moduloExact(asExact(a), asExact(b)),
  },
  {
    name: 'number',
    clause: '10.3.4.1',
    partial: true,
    takesNull: true,
    signatures: [
      {
        parameters: [parameter('from', text), optional('grouping separator', text), optional('decimal separator', text)],
        result: number,
      },
    ],
    call: (given) => (given[0] === null ? null : readGrouped(given)),
  },
];
