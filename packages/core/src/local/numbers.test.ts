import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Exact } from '../values/exact.ts';
import { readExact, writeExact, writeFixed } from '../values/exact.ts';
import { LOCALES } from './locales.ts';
import { type NumberStyle, numberMarks, readLocalCount, readLocalNumber, writeLocalAmount, writeLocalNumber } from './numbers.ts';

/** What a text comes to: its decimal, two decimals, or why it is none. */
function told(text: string, style: NumberStyle): string {
  const reading = readLocalNumber(text, style);
  if (reading.kind === 'value') return writeExact(reading.value);
  if (reading.kind === 'either') return reading.values.map(writeExact).join(' or ');
  return reading.kind === 'nothing' ? 'nothing' : `unread: ${reading.why}`;
}

const EUR = { currency: 'EUR', places: 2 } as const;

// The marks are those of Unicode CLDR, by the platform's Intl. Bookkeeping's parentheses are common practice.
describe('amounts as people write them', () => {
  test.each<[string, string, string]>([
    ['18.5', 'en-GB', '18.5'],
    ['18.', 'en-GB', '18'],
    ['.5', 'en-GB', '0.5'],
    ['1,250.50', 'en-GB', '1250.5'],
    ['62,400', 'en-GB', '62400'],
    ['€1,250.50', 'en-GB', '1250.5'],
    ['1,234,567.89', 'en-GB', '1234567.89'],
    ['1.250,50', 'en-GB', '1250.5'],
    ['1e3', 'en-GB', '1000'],
    ['12.345', 'en-GB', '12.345 or 12345'],
    ['-1,250.50', 'en-GB', '-1250.5'],
    ['−€1,250.50', 'en-GB', '-1250.5'],
    ['(1,250.50)', 'en-GB', '-1250.5'],
    ['1,250.50-', 'en-GB', '-1250.5'],
    ['+5', 'en-GB', '5'],
    ['1 250,50', 'en-GB', '1250.5'],
    ["1'250.50", 'de-CH', '1250.5'],
    ['1’250.50', 'de-CH', '1250.5'],
    ['1.250', 'de-DE', '1250'],
    ['1,250', 'de-DE', '1.25 or 1250'],
    ['1.250', 'fr-FR', '1.25 or 1250'],
    ['1.25', 'fr-FR', '1.25'],
    ['0,250', 'en-GB', '0.25'],
    ['62,40', 'en-GB', '62.4'],
    ['1.250,50 €', 'de-DE', '1250.5'],
    ['EUR 1.250,50', 'de-AT', '1250.5'],
    ['1 250.50', 'fr-CH', '1250.5'],
    ['1,00,000', 'hi-IN', '100000'],
    ['12,34,567.5', 'hi-IN', '1234567.5'],
    ['١٬٢٥٠٫٥٠', 'ar-EG', '1250.5'],
    ['１，２５０．５０', 'ja-JP', '1250.5'],
    ['१,२५०.५', 'hi-IN', '1250.5'],
    ['', 'en-GB', 'nothing'],
    ['  ', 'en-GB', 'nothing'],
    ['-', 'en-GB', 'unread: number'],
    ['--5', 'en-GB', 'unread: number'],
    ['-(5)', 'en-GB', 'unread: number'],
    ['.', 'en-GB', 'unread: number'],
    [',', 'en-GB', 'unread: number'],
    ['1,25,0', 'en-GB', 'unread: number'],
    ['1.2.3', 'en-GB', 'unread: number'],
    ['12 34', 'en-GB', 'unread: number'],
    ["1'250 000", 'en-GB', 'unread: number'],
    ['12 lux', 'en-GB', 'unread: number'],
    ['12abc', 'en-GB', 'unread: number'],
    ['$5', 'en-GB', 'unread: currency'],
    ['5 CHF', 'en-GB', 'unread: currency'],
    ['1/2', 'en-GB', 'unread: number'],
    ['12345678901234567890123456789012345', 'en-GB', 'unread: digits'],
  ])('“%s” in %s is %s', (text, locale, expected) => {
    expect(told(text, { locale, ...EUR })).toBe(expected);
  });

  test.each<[string, NumberStyle, string]>([
    ['1,250', { locale: 'de-DE', places: 3 }, '1.25'],
    ['1.125', { locale: 'de-DE', decimal: '.', places: 3 }, '1.125'],
    ['1,125', { locale: 'en-GB', decimal: ',', places: 3 }, '1.125'],
    ['50 lux', { locale: 'en-GB', unit: 'lux' }, '50'],
    ['€40,000', { locale: 'en-GB', currency: 'EUR' }, '40000'],
    ['€40,000', { locale: 'en-GB' }, 'unread: currency'],
    ['kr 1 250', { locale: 'nb-NO', currency: 'NOK', places: 2 }, '1250'],
  ])('“%s” with %j is %s', (text, style, expected) => {
    expect(told(text, style)).toBe(expected);
  });

  test('counts are whole numbers', () => {
    const counted = (text: string): unknown => {
      const reading = readLocalCount(text, 'en-GB');
      return reading.kind === 'value' ? reading.value : reading.kind === 'either' ? reading.values : reading.kind;
    };
    expect(['1,000', '007', '0', '1.5', '1.250', 'x', ''].map(counted)).toEqual([
      1000,
      7,
      0,
      'unread',
      1250,
      'unread',
      'nothing',
    ]);
  });
});

const decimals = fc
  .tuple(fc.boolean(), fc.bigInt({ min: 0n, max: 10n ** 18n }), fc.integer({ min: 0, max: 4 }))
  .map(([isNegative, digits, places]) => {
    const text = digits.toString().padStart(places + 1, '0');
    const whole = places === 0 ? text : `${text.slice(0, -places)}.${text.slice(-places)}`;
    return readExact(`${isNegative ? '-' : ''}${whole}`) as Exact;
  });

describe('laws over locales, forms and ways of writing', () => {
  test('a number that is shown is read back as the same number, or asked about, never as another', () => {
    fc.assert(
      fc.property(decimals, fc.constantFrom(...LOCALES), fc.integer({ min: 0, max: 4 }), (value, locale, places) => {
        const shown = writeLocalNumber(value, locale, places);
        const reading = readLocalNumber(shown, { locale, places });
        const meant = writeExact(value);
        if (reading.kind === 'either') expect(reading.values.map(writeExact)).toContain(meant);
        else expect([shown, told(shown, { locale, places })]).toEqual([shown, meant]);
      }),
    );
  });

  test('an amount with its currency, as every locale writes it, is read back', () => {
    fc.assert(
      fc.property(
        decimals,
        fc.constantFrom(...LOCALES),
        fc.constantFrom('EUR', 'USD', 'JPY', 'CHF', 'INR', 'BRL'),
        (value, locale, currency) => {
          const text = writeFixed(readExact(writeFixed(value, 2)) as Exact, 2);
          const shown = writeLocalAmount(readExact(text) as Exact, locale, currency, 2);
          expect([shown, told(shown, { locale, currency, places: 2 })]).toEqual([shown, writeExact(readExact(text) as Exact)]);
        },
      ),
    );
  });

  test('no text is read as a number a thousand times another of its meanings without being asked about', () => {
    // Written in one locale's marks and read in another's.
    fc.assert(
      fc.property(decimals, fc.constantFrom(...LOCALES), fc.constantFrom(...LOCALES), (value, writer, reader) => {
        const places = 2;
        const meant = readExact(writeFixed(value, places)) as Exact;
        const shown = writeLocalNumber(meant, writer, places);
        const reading = readLocalNumber(shown, { locale: reader, places });
        if (reading.kind === 'value') expect([shown, writeExact(reading.value)]).toEqual([shown, writeExact(meant)]);
      }),
    );
  });
});

test.each([
  ['en-GB', ',', '.'],
  ['de-DE', '.', ','],
  ['fr-FR', '', ','],
])('%s groups digits with %j and writes %j before places', (locale, group, decimal) => {
  expect(numberMarks(locale)).toEqual({ group, decimal });
});
