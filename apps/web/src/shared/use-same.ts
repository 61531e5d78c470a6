import { replaceEqualDeep } from '@tanstack/react-query';
import { useRef } from 'react';

/** The value, or the one that was given before as long as both say the same: what depends on it isn't drawn anew for nothing. */
export function useSame<T>(value: T, isSame: (before: T, now: T) => boolean): T {
  const kept = useRef(value);
  if (!isSame(kept.current, value)) kept.current = value;
  return kept.current;
}

/** Whether two lists hold the same objects in the same order. */
export const isSameList = (a: readonly unknown[], b: readonly unknown[]): boolean =>
  a.length === b.length && a.every((one, index) => Object.is(one, b[index]));

/** Whether two sets have the same members. */
export const isSameSet = (a: ReadonlySet<unknown>, b: ReadonlySet<unknown>): boolean =>
  a.size === b.size && [...a].every((one) => b.has(one));

/** Whether two values of plain objects, lists, texts and numbers are equal to the bottom. */
export const isSameData = <T>(a: T, b: T): boolean => replaceEqualDeep(a, b) === a;
