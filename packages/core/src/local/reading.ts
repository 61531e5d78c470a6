/**
 * What a text that a person wrote means as a value of a type. `either`: the text has several meanings, so the person must
 * be asked which one is meant. `unread`: the text means no value, for the reason given.
 */
export type Reading<T> =
  | { readonly kind: 'nothing' }
  | { readonly kind: 'value'; readonly value: T }
  | { readonly kind: 'either'; readonly values: readonly [T, T] }
  | { readonly kind: 'unread'; readonly why: WhyUnread };

/**
 * Why a text means no value. `no-such-day`: the calendar has no such day (31 April). `skipped`: the clocks were put forward
 * over that time of that day. `currency`: the amount names another currency than the field's. `by-hand`: values of the type are
 * chosen, never written.
 */
export type WhyUnread =
  | 'number'
  | 'digits'
  | 'currency'
  | 'day'
  | 'no-such-day'
  | 'time'
  | 'moment'
  | 'skipped'
  | 'yes-no'
  | 'option'
  | 'options'
  | 'by-hand';

export const NOTHING: Reading<never> = { kind: 'nothing' };
export const reads = <T>(value: T): Reading<T> => ({ kind: 'value', value });
export const unread = (why: WhyUnread): Reading<never> => ({ kind: 'unread', why });

/** One meaning or two: equal values are one. Without any, the text is unread for the reason given. */
export function oneOf<T>(values: readonly T[], why: WhyUnread): Reading<T> {
  const [first, second] = [...new Set(values)];
  if (first === undefined) return unread(why);
  return second === undefined ? reads(first) : { kind: 'either', values: [first, second] };
}

/** The reading's values through a function; a reading without values stays as it is. */
export function mapReading<T, U>(reading: Reading<T>, change: (value: T) => U): Reading<U> {
  if (reading.kind === 'value') return reads(change(reading.value));
  if (reading.kind === 'either') return { kind: 'either', values: [change(reading.values[0]), change(reading.values[1])] };
  return reading;
}

/** The value of a text with one meaning; null for every other text. */
export const onlyValue = <T>(reading: Reading<T>): T | null => (reading.kind === 'value' ? reading.value : null);
