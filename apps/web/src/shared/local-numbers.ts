import { type Exact, readExact, writeExact } from '@ypomet/core';
import { numberMarks } from './local-dates.ts';

const escaped = (mark: string): string => mark.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/**
 * Reads a number as somebody of a locale writes it: "1,250.50" or "1.250,50", spaces and apostrophes between groups. The other
 * mark counts as the decimal one too, where it can't be meant to part groups: "1250.5" in German, never "1.250". `decimal`: the
 * mark of whoever wrote it, where it isn't the locale's.
 */
export function readLocalNumber(text: string, locale: string, decimal = numberMarks(locale).decimal): Exact | null {
  const other = decimal === ',' ? '.' : ',';
  const plain = text
    .trim()
    .replace(/^−/, '-')
    .replace(/[\s'’]/g, '');
  const [point, group] = [escaped(decimal), escaped(other)];
  const isLocal = new RegExp(`^-?(\\d{1,3}(${group}\\d{3})+|\\d+)(${point}\\d+)?$`).test(plain);
  if (isLocal) return readExact(plain.split(other).join('').replace(decimal, '.'));
  const isOther = new RegExp(`^-?\\d+${group}\\d+$`).test(plain);
  return isOther ? readExact(plain.replace(other, '.')) : null;
}

/** An exact number in a locale's figures, all of its places kept. */
export function writeLocalNumber(value: Exact, locale: string): string {
  const text = writeExact(value);
  const places = text.split('.')[1]?.length ?? 0;
  const options = { minimumFractionDigits: places, maximumFractionDigits: places };
  // Decimal text is formatted digit for digit (ECMA-402).
  return new Intl.NumberFormat(locale, options).format(text as unknown as number);
}
