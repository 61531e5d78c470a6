import { type Exact, isRounded, placesOf, readExact, writeExact } from '../values/exact.ts';
import { numberFormat } from './formats.ts';
import { plainText } from './plain-text.ts';
import { NOTHING, oneOf, type Reading, reads, unread } from './reading.ts';

/** The marks of a locale's numbers: between groups of digits, and before the decimal places. */
export type NumberMarks = { readonly group: string; readonly decimal: string };

function marksOf(locale: string, options: Intl.NumberFormatOptions): NumberMarks {
  const parts = numberFormat(locale, { useGrouping: true, ...options }).formatToParts(1234567.5);
  const of = (type: string): string => plainMark(parts.find((part) => part.type === type)?.value ?? '');
  return { group: of('group'), decimal: of('decimal') || '.' };
}

/** Arabic numbers have marks of their own (U+066B, U+066C); they are read as the point and the apostrophe. */
const ARABIC_DECIMAL = '\u066b';
const ARABIC_GROUP = '\u066c';
const plainMark = (mark: string): string => (mark === ARABIC_DECIMAL ? '.' : mark === ARABIC_GROUP ? "'" : plainText(mark));

/** What parts groups of digits, and what stands before decimal places, in a locale's plain numbers. Spaces are empty text. */
export const numberMarks = (locale: string): NumberMarks => marksOf(locale, {});

export type NumberStyle = {
  /** A BCP 47 language tag. */
  readonly locale: string;
  /** The decimal mark of the text, where it is known to differ from the locale's (a sheet from another country). */
  readonly decimal?: string | undefined;
  /** Decimal places that are expected. With three or more, three digits after a decimal mark are nothing unusual. */
  readonly places?: number | undefined;
  /** An ISO 4217 currency, whose code and symbols may stand beside the number. */
  readonly currency?: string | undefined;
  /** A unit that may stand beside the number. */
  readonly unit?: string | undefined;
};

const MINUS = /^[-‐‑‒–−⁻]/;
const EXPONENT = /^(.*\d)[eE]([+-]?\d{1,3})$/;

/**
 * Reads a number as people of a locale write it: "1,250.50", "€1,250.50", "-1.250,50", "1 250,5", "(12)", "١٬٢٥٠٫٥٠". A mark
 * is read as the locale uses it. The other marks are understood where they can have one meaning only ("1.250,50" in English).
 * A text that can mean a thousandfold of its other meaning ("1,250" in German: 1.25 or 1250) is `either`.
 */
export function readLocalNumber(text: string, style: NumberStyle): Reading<Exact> {
  const written = plainText(text).replaceAll(ARABIC_DECIMAL, '.').replaceAll(ARABIC_GROUP, "'");
  if (written === '') return NOTHING;
  const { amount, isNegative, hasOtherMark } = withoutSigns(written, style);
  if (hasOtherMark) return unread('currency');
  const [, mantissa, exponent] = EXPONENT.exec(amount) ?? [];
  const read = readUnsigned(mantissa ?? amount, style);
  const values = read.map((decimal) => readExact(`${isNegative ? '-' : ''}${decimal}${exponent ? `e${exponent}` : ''}`));
  const found = values.filter((value) => value !== null);
  const [value, other] = found;
  if (value === undefined) return unread('number');
  if (read.some(isRounded)) return unread('digits');
  return other === undefined ? reads(value) : { kind: 'either', values: [value, other] };
}

type Signed = { readonly amount: string; readonly isNegative: boolean; readonly hasOtherMark: boolean };

/** Takes the sign, the parentheses of bookkeeping, and the field's own currency or unit from both ends, in any order. */
function withoutSigns(written: string, { locale, currency, unit = '' }: NumberStyle): Signed {
  const names = currency === undefined ? [unit] : currencyNames(currency, locale);
  let amount = written;
  let minuses = 0;
  const parted = /^\((.+)\)$/.exec(amount);
  if (parted) {
    amount = parted[1] as string;
    minuses += 1;
  }
  let isNamed = false;
  for (let before = ''; before !== amount; ) {
    before = amount;
    amount = amount.trim();
    if (MINUS.test(amount)) {
      amount = amount.slice(1);
      minuses += 1;
    } else if (/^\+/.test(amount) && minuses === 0) amount = amount.slice(1);
    else if (/\d.*[-−]$/.test(amount) && minuses === 0) {
      amount = amount.slice(0, -1);
      minuses += 1;
    } else if (!isNamed) {
      const shorter = withoutName(amount, names);
      isNamed = shorter !== amount;
      amount = shorter;
    }
  }
  // Two signs mean no number.
  const isBroken = minuses > 1;
  return { amount: isBroken ? '' : amount, isNegative: minuses === 1, hasOtherMark: /\p{Sc}|[A-Z]{3}/u.test(amount) };
}

function withoutName(amount: string, names: readonly string[]): string {
  const folded = amount.toLowerCase();
  for (const name of names.map((one) => one.toLowerCase())) {
    if (name === '') continue;
    if (folded.startsWith(name)) return amount.slice(name.length);
    if (folded.endsWith(name)) return amount.slice(0, -name.length);
  }
  return amount;
}

/** The code and the symbols of a currency, as a locale and as its own countries write it; longest first. */
function currencyNames(currency: string, locale: string): readonly string[] {
  const symbols = (['symbol', 'narrowSymbol'] as const).flatMap((currencyDisplay) =>
    [locale, 'en'].map(
      (own) =>
        numberFormat(own, { style: 'currency', currency, currencyDisplay })
          .formatToParts(0)
          .find(({ type }) => type === 'currency')?.value ?? '',
    ),
  );
  return [...new Set([currency, ...symbols.map(plainText)])].sort((a, b) => b.length - a.length);
}

/** What digits and marks without a sign can mean, as plain decimals: none, one, or two meanings. */
function readUnsigned(amount: string, style: NumberStyle): readonly string[] {
  const body = amount.replaceAll('’', "'").replaceAll('ʼ', "'");
  if (!/^[\d.,' ]+$/.test(body) || !/\d/.test(body)) return [];
  const commas = body.split(',').length - 1;
  const points = body.split('.').length - 1;
  const isSpaced = /[' ]/.test(body);
  if (commas === 0 && points === 0) return joined(body, isSpaced ? spacing(body) : '');
  if (commas > 0 && points > 0) {
    const decimal = body.lastIndexOf(',') > body.lastIndexOf('.') ? ',' : '.';
    return isSpaced ? [] : parted(body, decimal, decimal === ',' ? '.' : ',');
  }
  const mark = commas > 0 ? ',' : '.';
  if (commas + points > 1) return isSpaced ? [] : joined(body, mark);
  if (isSpaced) return parted(body, mark, spacing(body));
  return readOneMark(body, mark, style);
}

/** Spaces or apostrophes part groups; both in one number mean nothing. */
const spacing = (body: string): string => (body.includes("'") ? (body.includes(' ') ? '\0' : "'") : ' ');

/** "1,250", "1,25", ".5", "18.": one comma or one point, which parts a group or stands before decimal places. */
function readOneMark(body: string, mark: string, style: NumberStyle): readonly string[] {
  const [whole = '', places = ''] = body.split(mark);
  const asDecimal = parted(body, mark, '');
  const canGroup = /^[1-9]\d{0,2}$/.test(whole) && places.length === 3;
  if (!canGroup) return asDecimal;
  const asGroups = [whole + places];
  if (style.decimal !== undefined) return mark === style.decimal ? asDecimal : asGroups;
  const all = marksInUse(style);
  const isDecimal = all.some(({ decimal }) => decimal === mark);
  const isGroup = all.some(({ group }) => group === mark);
  if (isGroup && !isDecimal) return asGroups;
  // With as many places in the field, three digits after the locale's decimal mark are what is expected.
  if (isDecimal && !isGroup && (style.places === undefined || style.places >= 3)) return asDecimal;
  return [...asDecimal, ...asGroups];
}

/** A locale can have other marks in amounts of money than in plain numbers (fr-CH: "1 250,50" and "1 250.50 CHF"). */
function marksInUse({ locale, currency }: NumberStyle): readonly NumberMarks[] {
  return currency === undefined ? [numberMarks(locale)] : [marksOf(locale, {}), marksOf(locale, { style: 'currency', currency })];
}

/** A number with places after a decimal mark, the digits before it in groups or not. */
function parted(body: string, decimal: string, group: string): readonly string[] {
  const [whole = '', places = '', ...more] = body.split(decimal);
  if (more.length > 0 || !/^\d*$/.test(places)) return [];
  const [digits] = whole === '' ? ['0'] : joined(whole, group);
  if (digits === undefined || (whole === '' && places === '')) return [];
  return [places === '' ? digits : `${digits}.${places}`];
}

/** Digits in groups of three (12,345,678) or, as in India, two and a last one of three (1,23,45,678). */
function joined(whole: string, group: string): readonly string[] {
  if (group === '' || !whole.includes(group)) return /^\d+$/.test(whole) ? [whole] : [];
  const groups = whole.split(group);
  const [first = '', ...others] = groups;
  const last = others.at(-1) ?? '';
  const middle = others.slice(0, -1);
  const isWestern = /^\d{1,3}$/.test(first) && others.every((one) => /^\d{3}$/.test(one));
  const isIndian = /^\d{1,2}$/.test(first) && /^\d{3}$/.test(last) && middle.every((one) => /^\d{2}$/.test(one));
  return isWestern || isIndian ? [groups.join('')] : [];
}

/**
 * An exact number in a locale's digits and marks, with all of its places; with at least `places` of them.
 * `writeLocalNumber(readExact('1250.5'), 'de-DE', 2)` is "1.250,50".
 */
export const writeLocalNumber = (value: Exact, locale: string, places = 0): string =>
  formatDecimal(numberFormat(locale, placesFor(value, places)), writeExact(value));

/** As {@link writeLocalNumber}, with the sign of an ISO 4217 currency where the locale has it: "€1,250.50", "1.250,50 €". */
export const writeLocalAmount = (value: Exact, locale: string, currency: string, places: number): string =>
  formatDecimal(numberFormat(locale, { style: 'currency', currency, ...placesFor(value, places) }), writeExact(value));

function placesFor(value: Exact, places: number): Intl.NumberFormatOptions {
  const shown = Math.min(MAX_PLACES, Math.max(places, placesOf(value)));
  return { minimumFractionDigits: shown, maximumFractionDigits: shown };
}

/** The platform formats no more decimal places (ECMA-402, 2023). */
const MAX_PLACES = 100;

/** Formats a decimal's own digits, not those of the nearest double (ECMA-402 takes decimal text). */
const formatDecimal = (format: Intl.NumberFormat, text: string): string => format.format(text as unknown as number);

/** Reads a whole number as people of a locale write it. */
export function readLocalCount(text: string, locale: string): Reading<number> {
  const reading = readLocalNumber(text, { locale, places: 0 });
  const whole = (value: Exact): number | null =>
    placesOf(value) === 0 && Number.isSafeInteger(Number(writeExact(value))) ? Number(writeExact(value)) : null;
  if (reading.kind === 'value') {
    const count = whole(reading.value);
    return count === null ? unread('number') : reads(count);
  }
  if (reading.kind !== 'either') return reading;
  return oneOf(
    reading.values.map(whole).filter((count) => count !== null),
    'number',
  );
}
