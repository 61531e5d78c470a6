import { KEY_PATTERN, RESERVED_KEYS } from '../shared/identifiers.ts';

const MAX_WORDS = 6;
const MAX_LENGTH = 40;

/** Letters that don't fall apart into a base letter and marks. */
const PLAIN: Readonly<Record<string, string>> = { ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', đ: 'd', ł: 'l', þ: 'th', ð: 'd', ı: 'i' };

const wordsOf = (name: string): readonly string[] =>
  name
    .normalize('NFKD')
    .replace(/\p{Mark}/gu, '')
    .toLowerCase()
    .replace(/[ßæœøđłþðı]/g, (letter) => PLAIN[letter] ?? '')
    .match(/[a-z0-9]+/g)
    ?.slice(0, MAX_WORDS) ?? [];

/**
 * A key for what people call something: "Venue country" is `venueCountry`. It is a name of the expression language and none of
 * `taken`: numbers follow where it would be. Names without a Latin letter or digit are called by `fallback`.
 */
export function makeKey(name: string, taken: ReadonlySet<string>, fallback: string): string {
  const words = wordsOf(name);
  const joined = words.map((word, index) => (index === 0 ? word : `${word.charAt(0).toUpperCase()}${word.slice(1)}`)).join('');
  const begun = /^[a-z]/.test(joined) ? joined : `${fallback}${joined.charAt(0).toUpperCase()}${joined.slice(1)}`;
  const base = begun.slice(0, MAX_LENGTH);
  const isFree = (key: string): boolean => KEY_PATTERN.test(key) && !RESERVED_KEYS.has(key) && !taken.has(key);
  for (let number = 1; ; number++) {
    const key = number === 1 ? base : `${base}${number}`;
    if (isFree(key)) return key;
  }
}

/** A code for an option's label: the key it would have; `taken` are the codes there are. */
export const makeCode = (label: string, taken: ReadonlySet<string>): string => makeKey(label, taken, 'option');
