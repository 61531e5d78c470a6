import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  numberMarks,
  orderOf,
  readLocalClock,
  readLocalDay,
  readLocalTime,
  writeLocalClock,
  writeLocalDay,
} from './local-dates.ts';

const LOCALES = ['en-GB', 'en-US', 'de-AT', 'fr-FR', 'hu-HU', 'sv-SE', 'cs-CZ', 'pt-BR'];

describe('days', () => {
  // The orders are those of the Unicode CLDR, through ECMA-402.
  test.each([
    ['en-GB', ['day', 'month', 'year']],
    ['en-US', ['month', 'day', 'year']],
    ['hu-HU', ['year', 'month', 'day']],
  ])('%s writes them %j', (locale, order) => {
    expect(orderOf(locale)).toEqual(order);
  });

  test.each([
    ['2027-03-12', 'en-US', '2027-03-12'],
    ['12/03/2027', 'en-GB', '2027-03-12'],
    ['03/12/2027', 'en-US', '2027-03-12'],
    ['12.3.2027', 'de-AT', '2027-03-12'],
    ['2027. 03. 12.', 'hu-HU', '2027-03-12'],
    ['12/3/27', 'en-GB', '2027-03-12'],
    ['12 Mar 2027', 'en-GB', '2027-03-12'],
    ['March 12th, 2027', 'en-US', '2027-03-12'],
    ['12. März 2027', 'de-AT', '2027-03-12'],
    ['29 Feb 2028', 'en-GB', '2028-02-29'],
    ['29 Feb 2027', 'en-GB', null],
    ['31/04/2027', 'en-GB', null],
    ['2027-13-01', 'en-GB', null],
    ['12 Mar', 'en-GB', null],
    ['soon', 'en-GB', null],
    ['', 'en-GB', null],
  ])('%j in %s is %j', (text, locale, day) => {
    expect(readLocalDay(text, locale)).toBe(day);
  });

  test('what is shown is read back, in every locale', () => {
    const day = fc
      .date({ min: new Date('1900-01-01'), max: new Date('2199-12-31'), noInvalidDate: true })
      .map((date) => date.toISOString().slice(0, 10));
    fc.assert(
      fc.property(day, fc.constantFrom(...LOCALES), (iso, locale) => {
        expect(readLocalDay(writeLocalDay(iso, locale), locale)).toBe(iso);
      }),
    );
  });

  test('what is no day is shown as it is', () => {
    for (const text of ['soon', '2027-02-30', '']) expect(writeLocalDay(text, 'en-GB')).toBe(text);
  });
});

describe('times', () => {
  test.each([
    ['9:30', '09:30'],
    ['09:30:15', '09:30:15'],
    ['2.30 pm', '14:30'],
    ['12:00 am', '00:00'],
    ['12:05 pm', '12:05'],
    ['24:00', null],
    ['9:60', null],
    ['13:00 pm', null],
    ['noon', null],
  ])('%j is %j', (text, time) => {
    expect(readLocalTime(text)).toBe(time);
  });

  test('a day and a time are read back as they are shown', () => {
    for (const locale of LOCALES)
      expect(readLocalClock(writeLocalClock('2027-01-02T00:30', locale), locale)).toBe('2027-01-02T00:30');
    expect(readLocalClock('2027-01-02T00:30', 'en-GB')).toBe('2027-01-02T00:30');
    expect(readLocalClock('2 Jan 2027 2:05 pm', 'en-GB')).toBe('2027-01-02T14:05');
    expect(readLocalClock('2 Jan 2027', 'en-GB')).toBeNull();
    expect(readLocalClock('32 Jan 2027, 10:00', 'en-GB')).toBeNull();
    expect(writeLocalClock('2 Jan', 'en-GB')).toBe('2 Jan');
  });
});

test.each([
  ['en-GB', ',', '.'],
  ['de-DE', '.', ','],
])('%s groups figures with %j and parts places with %j', (locale, group, decimal) => {
  expect(numberMarks(locale)).toEqual({ group, decimal });
});
