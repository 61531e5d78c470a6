import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { civilOf, dayNumber, daysInMonth, weekdayOf, weekOf } from './calendar.ts';
import {
  addMonths,
  addMonthsToDateTime,
  type DateTimeValue,
  type DateValue,
  isZone,
  joinDateTime,
  monthsBetween,
  readDate,
  readDateTime,
  readDuration,
  readTime,
  writeDate,
  writeDateTime,
  writeDuration,
  writeInstant,
  writeTime,
} from './temporal.ts';

const date = (text: string): DateValue => readDate(text) as DateValue;

describe('dates (ISO 8601)', () => {
  test.each(['2027-02-29', '2026-13-01', '2026-00-10', '2026-04-31', '26-01-01', '2026-1-1', '0000-01-01', '2026-01-01T', ''])(
    '“%s” is none',
    (text) => {
      expect(readDate(text)).toBeNull();
    },
  );

  test.each([
    ['2024-01-31', 1, '2024-02-29'],
    ['2023-01-31', 1, '2023-02-28'],
    ['2024-02-29', 12, '2025-02-28'],
    ['2024-03-31', -1, '2024-02-29'],
    ['2024-12-15', 1, '2025-01-15'],
    ['2024-01-15', -1, '2023-12-15'],
    ['2024-05-31', -3, '2024-02-29'],
  ])('%s and %d months: %s', (from, months, expected) => {
    expect(writeDate(addMonths(date(from), months) as DateValue)).toBe(expected);
  });

  test('months beyond the calendar are nothing', () => {
    expect(addMonths(date('9999-12-01'), 1)).toBeNull();
    expect(addMonths(date('0001-01-01'), -1)).toBeNull();
  });

  test.each([
    ['2024-01-31', '2024-02-29', 0],
    ['2024-01-29', '2024-02-29', 1],
    ['2024-02-29', '2025-02-28', 11],
    ['2025-02-28', '2024-02-29', -11],
    ['2011-12-22', '2013-08-24', 20],
  ])('whole months from %s to %s: %d', (from, to, months) => {
    expect(monthsBetween(date(from), date(to))).toBe(months);
  });
});

// The reference is the Temporal proposal's polyfill (ECMA-262 proposal).
describe('the calendar agrees with the reference', () => {
  const anyDay = fc.integer({ min: dayNumber(1, 1, 1), max: dayNumber(9999, 12, 31) });

  test('day numbers, weekdays and weeks', () => {
    fc.assert(
      fc.property(anyDay, (day) => {
        const civil = civilOf(day);
        const reference = Temporal.PlainDate.from(civil);
        expect(dayNumber(civil.year, civil.month, civil.day)).toBe(day);
        expect(Temporal.PlainDate.from('1970-01-01').until(reference).days).toBe(day);
        expect(weekdayOf(day)).toBe(reference.dayOfWeek);
        expect(weekOf(day)).toBe(reference.weekOfYear);
        expect(daysInMonth(civil.year, civil.month)).toBe(reference.daysInMonth);
      }),
      { numRuns: 400 },
    );
  });

  test('adding months', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40_000 }), fc.integer({ min: -600, max: 600 }), (day, months) => {
        const reference = Temporal.PlainDate.from('1970-01-01').add({ days: day }).add({ months });
        expect(writeDate(addMonths({ kind: 'date', day }, months) as DateValue)).toBe(reference.toString());
      }),
      { numRuns: 400 },
    );
  });
});

describe('times', () => {
  test.each([
    ['09:30', '09:30:00'],
    ['09:30:15.250', '09:30:15.25'],
    ['23:59:59Z', '23:59:59Z'],
    ['11:00:00+01:30', '11:00:00+01:30'],
    ['11:00:00-05:00', '11:00:00-05:00'],
    ['00:00:00.123456789', '00:00:00.123'],
  ])('%s is written %s', (text, written) => {
    const value = readTime(text);
    expect(value && writeTime(value)).toBe(written);
  });

  test.each(['24:00', '9:30', '12:60', '12:00:60', '12:00+19:00', 'noon'])('“%s” is none', (text) => {
    expect(readTime(text)).toBeNull();
  });
});

describe('date-times are instants', () => {
  const read = (text: string, zone = 'Europe/Vienna'): DateTimeValue => readDateTime(text, zone) as DateTimeValue;

  test.each([
    ['2027-03-12T09:30:00Z', '2027-03-12T09:30:00Z'],
    ['2027-03-12T09:30:00+02:00', '2027-03-12T07:30:00Z'],
    ['2027-03-12T09:30', '2027-03-12T08:30:00Z'],
    ['2027-07-12T09:30', '2027-07-12T07:30:00Z'],
    ['2027-03-12T09:30:00[America/New_York]', '2027-03-12T14:30:00Z'],
    ['2027-03-12T09:30:00@Asia/Tokyo', '2027-03-12T00:30:00Z'],
  ])('%s is the instant %s', (text, instant) => {
    expect(writeInstant(read(text).ms)).toBe(instant);
  });

  test('the hour that a zone change skips is read as the one after, the repeated one as the earlier', () => {
    expect(writeInstant(read('2027-03-28T02:30:00').ms)).toBe('2027-03-28T01:30:00Z');
    expect(writeInstant(read('2027-10-31T02:30:00').ms)).toBe('2027-10-31T00:30:00Z');
  });

  test('a month later is at the same wall clock, across a zone change', () => {
    const later = addMonthsToDateTime(read('2027-03-12T09:30:00'), 1) as DateTimeValue;
    expect(writeDateTime(later)).toBe('2027-04-12T09:30:00+02:00');
  });

  test.each(['2027-03-12', '2027-02-30T10:00', '2027-03-12T25:00', '2027-03-12T10:00[Nowhere/Land]', 'tomorrow'])(
    '“%s” is none',
    (text) => {
      expect(readDateTime(text, 'UTC')).toBeNull();
    },
  );

  test('a date and a time with an offset make an instant', () => {
    const joined = joinDateTime(date('2027-03-12'), { kind: 'time', ms: 3_600_000, offsetMs: 3_600_000 }, 'UTC') as DateTimeValue;
    expect(writeInstant(joined.ms)).toBe('2027-03-12T00:00:00Z');
  });

  test('zones are known by the time zone database', () => {
    expect(isZone('Europe/Vienna')).toBe(true);
    expect(isZone('Atlantis/Capital')).toBe(false);
  });
});

describe('durations (ISO 8601, in FEEL’s two kinds)', () => {
  test.each([
    ['P1Y6M', 'P1Y6M'],
    ['P18M', 'P1Y6M'],
    ['-P2M', '-P2M'],
    ['P0M', 'P0M'],
    ['P3DT4H', 'P3DT4H'],
    ['PT90M', 'PT1H30M'],
    ['PT0.5S', 'PT0.5S'],
    ['P0D', 'PT0S'],
    ['-PT36H', '-P1DT12H'],
  ])('%s is written %s', (text, written) => {
    const value = readDuration(text);
    expect(value && writeDuration(value)).toBe(written);
  });

  test.each(['P', 'PT', 'P1Y2D', '1D', 'P1.5D', 'P-1D', 'P1W'])('“%s” is none', (text) => {
    expect(readDuration(text)).toBeNull();
  });
});
