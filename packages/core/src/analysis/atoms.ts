import type { Type } from '../expressions/types.ts';
import type { Field, SubField } from '../model/field.ts';
import { addExact, compareExact, type Exact, exactInteger, multiplyExact, readExact, subtractExact } from '../values/exact.ts';
import { DAY_MS, type DateTimeValue, type DateValue, makeDate, type TimeValue } from '../values/temporal.ts';
import { compareValues, equalValues, type Value } from '../values/value.ts';

/** What an atom stands for: nothing, one value, all values between two ends (null: no end), or every text not named. */
export type Extent =
  | { readonly kind: 'empty' }
  | { readonly kind: 'value'; readonly value: Value }
  | {
      readonly kind: 'range';
      readonly low: Value;
      readonly high: Value;
      readonly includesLow: boolean;
      readonly includesHigh: boolean;
    }
  | { readonly kind: 'other' };

/** Values that no condition with the given constants tells apart: their extent, and one of them. */
export type Atom = { readonly extent: Extent; readonly value: Value };

const EMPTY: Atom = { extent: { kind: 'empty' }, value: null };
const exactly = (value: Value): Atom => ({ extent: { kind: 'value', value }, value });

/**
 * Cuts a type's values at the constants they are compared with: nothing first, then in order each constant and what lies between.
 * Numbers step by the field's scale where they are entered; a range in which no value fits is left out. Null for types
 * whose values can't be cut so (lists, rows, records).
 */
export function atomsOf(type: Type, constants: readonly Value[], field: Field | SubField | null = null): readonly Atom[] | null {
  switch (type.kind) {
    case 'boolean':
      return [EMPTY, exactly(true), exactly(false)];
    case 'choice':
      return [EMPTY, ...type.options.map(({ code }) => exactly(code))];
    case 'text':
      return [EMPTY, ...distinct(constants).map(exactly), { extent: { kind: 'other' }, value: otherText(constants) }];
    case 'number':
      return [EMPTY, ...cut(distinct(constants).filter(isExact), numberSteps(field))];
    case 'date':
      return [EMPTY, ...cut(distinct(constants).filter(isDate), DAYS)];
    case 'time':
      return [EMPTY, ...cut(distinct(constants).filter(isTime), TIMES)];
    case 'date-time':
      return [EMPTY, ...cut(distinct(constants).filter(isDateTime), INSTANTS)];
    default:
      return null;
  }
}

/** Values that have an order and a step: `null` where there is none beyond. */
type Steps<T extends Value> = {
  readonly before: (value: T) => T | null;
  readonly after: (value: T) => T | null;
  /** One between the two; null where none fits. */
  readonly between: (low: T, high: T) => T | null;
  /** One where there are no constants at all. */
  readonly any: T;
};

function cut<T extends Value>(constants: readonly T[], steps: Steps<T>): readonly Atom[] {
  const sorted = [...constants].sort((a, b) => compareValues(a, b) ?? 0);
  const range = (low: T | null, high: T | null, value: T | null): readonly Atom[] =>
    value === null ? [] : [{ extent: { kind: 'range', low, high, includesLow: false, includesHigh: false }, value }];
  const [first] = sorted;
  const last = sorted.at(-1);
  if (first === undefined || last === undefined) return range(null, null, steps.any);
  return [
    ...range(null, first, steps.before(first)),
    ...sorted.flatMap((own, index) => {
      const next = sorted[index + 1];
      return [exactly(own), ...(next === undefined ? [] : range(own, next, steps.between(own, next)))];
    }),
    ...range(last, null, steps.after(last)),
  ];
}

const distinct = (values: readonly Value[]): readonly Value[] =>
  values.filter((value, index) => values.findIndex((own) => equalValues(own, value) === true) === index);

const kindOf = (value: Value): string | null =>
  typeof value === 'object' && value !== null && 'kind' in value ? value.kind : null;
const isExact = (value: Value): value is Exact => kindOf(value) === 'number';
const isDate = (value: Value): value is DateValue => kindOf(value) === 'date';
const isTime = (value: Value): value is TimeValue => kindOf(value) === 'time';
const isDateTime = (value: Value): value is DateTimeValue => kindOf(value) === 'date-time';

const HALF = readExact('0.5') as Exact;

/** What is entered has the field's places and limits; what is computed can be anything. */
function numberSteps(field: Field | SubField | null): Steps<Exact> {
  const isEntered = (field?.type === 'number' || field?.type === 'money') && field.expression === null;
  const step = (isEntered && readExact(field.scale === 0 ? '1' : `0.${'0'.repeat(field.scale - 1)}1`)) || exactInteger(1);
  const [min, max] = isEntered ? [field.min, field.max].map((text) => (text === null ? null : readExact(text))) : [null, null];
  const within = (value: Exact | null): Exact | null =>
    value && (!min || compareExact(value, min) >= 0) && (!max || compareExact(value, max) <= 0) ? value : null;
  return {
    before: (value) => within(subtractExact(value, step)),
    after: (value) => within(addExact(value, step)),
    between: (low, high) => {
      const sum = addExact(low, isEntered ? step : high);
      const next = sum && (isEntered ? sum : multiplyExact(sum, HALF));
      return next && compareExact(next, high) < 0 ? within(next) : null;
    },
    any: within(exactInteger(0)) ?? min ?? max ?? exactInteger(0),
  };
}

const DAYS: Steps<DateValue> = {
  before: ({ day }) => makeDate(day - 1),
  after: ({ day }) => makeDate(day + 1),
  between: (low, high) => (high.day - low.day > 1 ? makeDate(low.day + 1) : null),
  any: { kind: 'date', day: 20_000 },
};

const TIMES: Steps<TimeValue> = {
  before: (value) => (value.ms > 0 ? { ...value, ms: value.ms - 1 } : null),
  after: (value) => (value.ms < DAY_MS - 1 ? { ...value, ms: value.ms + 1 } : null),
  between: (low, high) => (high.ms - low.ms > 1 ? { ...low, ms: low.ms + 1 } : null),
  any: { kind: 'time', ms: 0, offsetMs: null },
};
const INSTANTS: Steps<DateTimeValue> = {
  before: (value) => ({ ...value, ms: value.ms - 1 }),
  after: (value) => ({ ...value, ms: value.ms + 1 }),
  between: (low, high) => (high.ms - low.ms > 1 ? { ...low, ms: low.ms + 1 } : null),
  any: { kind: 'date-time', ms: 0, zone: 'UTC' },
};

/** A text that is none of some. */
function otherText(constants: readonly Value[]): string {
  let text = 'another';
  while (constants.includes(text)) text += '…';
  return text;
}
