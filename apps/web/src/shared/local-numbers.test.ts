import { describe, expect, test } from '@jest/globals';
import { writeExact } from '@ypomet/core';
import { readLocalNumber, writeLocalNumber } from './local-numbers.ts';

const read = (text: string, locale: string): string | null => {
  const value = readLocalNumber(text, locale);
  return value && writeExact(value);
};

// The marks are those of Unicode CLDR, by the language's own Intl.
describe('numbers as people write them', () => {
  test.each<[string, string, string | null]>([
    ['1,250.50', 'en-GB', '1250.5'],
    ['1250', 'en-GB', '1250'],
    ['12,5', 'en-GB', '12.5'],
    ['1,250', 'en-GB', '1250'],
    ['1,25,0', 'en-GB', null],
    ['1.250,50', 'de-DE', '1250.5'],
    ['1250.5', 'de-DE', '1250.5'],
    ['1.250', 'de-DE', '1250'],
    ['1 250,5', 'fr-FR', '1250.5'],
    ['1’250.50', 'de-CH', '1250.5'],
    ['−3', 'en-GB', '-3'],
    ['0.10', 'en-GB', '0.1'],
    ['', 'en-GB', null],
    ['12 lux', 'en-GB', null],
    ['totalValue', 'en-GB', null],
  ])('%s in %s', (text, locale, expected) => {
    expect(read(text, locale)).toBe(expected);
  });

  test('they are written with all their places, and read back as they were', () => {
    for (const locale of ['en-GB', 'de-DE', 'de-CH', 'fr-FR'])
      for (const text of ['1234567.89', '-0.1', '12345678901234567890.123', '7']) {
        const value = readLocalNumber(text, 'en-GB');
        expect(value && read(writeLocalNumber(value, locale), locale)).toBe(text);
      }
  });
});
