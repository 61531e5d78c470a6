import { civilOf } from '../values/calendar.ts';
import { DAY_MS, dateOf, readDate, writeDate } from '../values/temporal.ts';
import { dateFormat, numberFormat } from './formats.ts';
import { plainText } from './plain-text.ts';
import { NOTHING, oneOf, type Reading, reads, unread } from './reading.ts';
import { type DayPart, foldWord, wordsOf } from './words.ts';

/** What days are read by: a BCP 47 language tag, and the present day where the text is read, as ISO 8601. */
export type DayStyle = { readonly locale: string; readonly today: string };

/** A day as it is shown everywhere: "12 Mar 2027", "12. März 2027", "2027年3月12日". A text that is no ISO day stays as it is. */
export function writeLocalDay(iso: string, locale: string): string {
  const date = readDate(iso);
  if (date === null) return iso;
  const format = dateFormat(locale, { day: 'numeric', month: 'short', year: 'numeric' });
  const { year } = civilOf(date.day);
  if (year >= 1000) return format.format(date.day * DAY_MS);
  // A year of fewer than four digits would be read as one of this century.
  const digits = numberFormat(locale, { minimumIntegerDigits: 4, useGrouping: false }).format(year);
  return format
    .formatToParts(date.day * DAY_MS)
    .map((part) => (part.type === 'year' ? digits : part.value))
    .join('');
}

/**
 * Reads a day as people of a locale write it, as ISO 8601: "2027-03-12", "12/3/2027", "12032027", "12 March 2027", "1er janvier
 * 2027", "today", "+3" (days from today). A day without a year is the next one, asked about where this year's has passed. A
 * year of two digits is the nearest one within 20 years; every other one is asked about.
 */
export function readLocalDay(text: string, { locale, today }: DayStyle): Reading<string> {
  const written = plainText(text);
  if (written === '') return NOTHING;
  if (/^\d{4}-\d{2}-\d{2}$/.test(written)) return readDate(written) === null ? unread('no-such-day') : reads(written);
  const relative = readRelative(written, locale, today);
  if (relative !== null) return reads(relative);
  const parts = partsIn(written, locale);
  return parts === null ? unread('day') : dayOfParts(parts, today);
}

function readRelative(written: string, locale: string, today: string): string | null {
  const word = foldWord(written, locale);
  const days = /^[+-]\d{1,4}$/.test(written) ? Number(written) : wordsOf(locale).relative.find(([name]) => name === word)?.[1];
  const from = readDate(today);
  return days === undefined || from === null ? null : writeDate({ kind: 'date', day: from.day + days });
}

/** Stops of abbreviations ("มี.ค.", "p.m.") are dropped, as in the names they are compared with; other stops and commas part. */
const withoutStops = (text: string): string =>
  text
    .replace(/(?<=[\p{L}\p{M}])\./gu, '')
    .replace(/[.,،、]/g, ' ')
    .replace(/\s+/g, ' ');

type Parts = { readonly day: string; readonly month: number; readonly year: string | null; readonly weekday: number | null };

/** The parts of a written day: numbers in the locale's order, or a month's name between them; null where anything is left over. */
function partsIn(written: string, locale: string): Parts | null {
  const { order, fillers } = wordsOf(locale);
  const named = takeName(foldWord(withoutStops(written), locale), locale);
  if (named === null) return null;
  const { rest, month, weekday } = named;
  const tokens = rest.match(/\d+|[\p{L}\p{M}ºª]+|[^\s\d\p{L}\p{M}]/gu) ?? [];
  const numbers = tokens.filter((token) => /^\d+$/.test(token));
  const isRest = (token: string): boolean => /^\d+$/.test(token) || /^[/\-()']$/.test(token) || fillers.has(token);
  if (!tokens.every(isRest) || numbers.some((number) => number.length > 8)) return null;
  const given = spread(numbers, order, month !== null);
  if (given === null) return null;
  const parts = month === null ? inOrder(given, order) : besideName(given, order);
  return parts && { day: parts.day ?? '', month: month ?? Number(parts.month), year: parts.year ?? null, weekday };
}

/** Digits written together are a day: "12032027" in the locale's order, "120327" likewise with a short year. */
function spread(numbers: readonly string[], order: readonly DayPart[], hasName: boolean): readonly string[] | null {
  const [only = ''] = numbers;
  if (numbers.length !== 1 || hasName) return numbers;
  if (only.length !== 8 && only.length !== 6) return null;
  const yearLength = only.length - 4;
  const parts: string[] = [];
  let at = 0;
  for (const part of order) {
    const length = part === 'year' ? yearLength : 2;
    parts.push(only.slice(at, at + length));
    at += length;
  }
  return parts;
}

type ByPart = Partial<Record<DayPart, string>>;

/** Numbers alone: a year of four digits in front means year, month, day; else the locale's own order, with a year or without. */
function inOrder(numbers: readonly string[], order: readonly DayPart[]): ByPart | null {
  if (numbers.length === 2) {
    const [first = '', second = ''] = numbers;
    const isDayFirst = order.indexOf('day') < order.indexOf('month');
    if (first.length > 2 || second.length > 2) return null;
    return isDayFirst ? { day: first, month: second } : { day: second, month: first };
  }
  if (numbers.length !== 3) return null;
  const isYearFirst = (numbers[0] ?? '').length === 4;
  // A year at the end of a date whose locale writes it in front: only day, month, year is common then.
  const isYearLast = (numbers[2] ?? '').length === 4;
  const own: readonly DayPart[] = isYearFirst
    ? ['year', 'month', 'day']
    : isYearLast && order[0] === 'year'
      ? ['day', 'month', 'year']
      : order;
  const parts: ByPart = Object.fromEntries(own.map((part, index) => [part, numbers[index] ?? '']));
  const isYear = /^(\d{2}|\d{4})$/.test(parts.year ?? '');
  return isYear && (parts.day ?? '').length <= 2 && (parts.month ?? '').length <= 2 ? parts : null;
}

/** Numbers beside a month's name: a day, and a year of four digits or, in the locale's order, of two. */
function besideName(numbers: readonly string[], order: readonly DayPart[]): ByPart | null {
  const [first = '', second] = numbers;
  if (numbers.length === 0 || numbers.length > 2) return null;
  if (second === undefined) return first.length <= 2 ? { day: first } : null;
  const isYearFirst = first.length === 4 || (second.length <= 2 && order[0] === 'year');
  const [year, day] = isYearFirst ? [first, second] : [second, first];
  return /^(\d{2}|\d{4})$/.test(year) && day.length <= 2 ? { day, year } : null;
}

type Named = { readonly rest: string; readonly month: number | null; readonly weekday: number | null };

/** Takes a month's name and a weekday's out of a text. Null where a word could be several months ("ju"). */
function takeName(folded: string, locale: string): Named | null {
  const { months, weekdays, fillers } = wordsOf(locale);
  let rest = ` ${folded} `;
  const take = (name: string): void => {
    rest = rest.replace(name, ' ');
  };
  let weekday: number | null = null;
  for (const [day, names] of weekdays.entries()) {
    const name = names.filter((one) => isWordIn(rest, one) && !isBesideDigit(rest, one)).sort((a, b) => b.length - a.length)[0];
    if (name === undefined || weekday !== null || months.some((all) => all.includes(name))) continue;
    take(name);
    weekday = day;
  }
  const whole = months
    .flatMap((names, index) => names.map((name) => ({ name, month: index + 1 })))
    .filter(({ name }) => isWordIn(rest, name))
    .sort((a, b) => b.name.length - a.name.length);
  if (whole[0]) {
    take(whole[0].name);
    return { rest, month: whole[0].month, weekday };
  }
  const word = (rest.match(/[\p{L}\p{M}]{3,}/gu) ?? []).find((one) => !fillers.has(one));
  if (word === undefined) return { rest, month: null, weekday };
  const begun = months.flatMap((names, index) => (names.some((name) => name.startsWith(word)) ? [index + 1] : []));
  if (begun.length !== 1) return null;
  take(word);
  return { rest, month: begun[0] as number, weekday };
}

const isWordIn = (text: string, word: string): boolean => {
  const at = text.indexOf(word);
  if (word === '' || at < 0) return false;
  const isLetter = (character: string | undefined): boolean => character !== undefined && /[\p{L}\p{M}]/u.test(character);
  return !isLetter(text[at - 1]) && !isLetter(text[at + word.length]);
};

/** The Japanese short name of Sunday is the word for "day" behind a day's number too. */
const isBesideDigit = (text: string, word: string): boolean => {
  const at = text.indexOf(word);
  return /\d/.test(text[at - 1] ?? '') || /\d/.test(text[at + word.length] ?? '');
};

const SUNDAY = Date.UTC(2001, 6, 1) / DAY_MS;

function dayOfParts({ day, month, year, weekday }: Parts, today: string): Reading<string> {
  const now = readDate(today);
  const thisYear = now === null ? 1970 : civilOf(now.day).year;
  const isPast = (iso: string): boolean => iso < today;
  const on = (own: number): string | null => {
    const date = dateOf(own, month, Number(day));
    if (date === null) return null;
    const isThatWeekday = weekday === null || (((date.day - SUNDAY) % 7) + 7) % 7 === weekday;
    return isThatWeekday ? writeDate(date) : null;
  };
  const days = (years: readonly number[]): Reading<string> =>
    oneOf(
      years.map(on).filter((iso) => iso !== null),
      'no-such-day',
    );
  if (year === null) {
    const own = on(thisYear);
    return own !== null && !isPast(own) ? reads(own) : days([thisYear, thisYear + 1]);
  }
  if (year.length === 4) return days([Number(year)]);
  const century = Math.floor(thisYear / 100) * 100;
  const near = [century - 100, century, century + 100].map((start) => start + Number(year));
  const nearest = near.filter((own) => Math.abs(own - thisYear) <= NEAR_YEARS);
  return nearest.length === 1 ? days(nearest) : days(near.filter((own) => Math.abs(own - thisYear) < 100).slice(0, 2));
}

/** Years this far from now are meant by their last two digits; common practice has 20 years ahead and 80 back, unasked. */
const NEAR_YEARS = 20;
