import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { weekdayOf } from './calendar.ts';
import { readDate, writeDate, writeInstant } from './temporal.ts';
import {
  addWorkingDays,
  addWorkingTime,
  CalendarSettings,
  endOfDay,
  MAX_WORKING_DAYS,
  MAX_WORKING_HOURS,
  makeCalendar,
  ORDINARY_CALENDAR,
  WEEKDAYS,
} from './working-calendar.ts';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const dayOf = (text: string): number => readDate(text)?.day ?? Number.NaN;
const days = (from: string, count: number, calendar = ORDINARY_CALENDAR): string | null => {
  const day = addWorkingDays(calendar, dayOf(from), count);
  return day === null ? null : writeDate({ kind: 'date', day });
};
const hours = (from: string, count: number, zone = 'Europe/Vienna', calendar = ORDINARY_CALENDAR): string | null => {
  const at = addWorkingTime(calendar, Date.parse(from), count * HOUR, zone);
  return at === null ? null : writeInstant(at);
};
const week = (spans: Partial<Record<(typeof WEEKDAYS)[number], readonly (readonly [string, string])[]>>) =>
  Object.fromEntries(WEEKDAYS.map((day) => [day, (spans[day] ?? []).map(([from, to]) => ({ from, to }))]));
const calendarOf = (settings: object) => makeCalendar(CalendarSettings.parse(settings));

// 27 November 2026 is a Friday.
describe('working days, Monday to Friday', () => {
  test.each<[string, number, string]>([
    ['2026-11-27', 1, '2026-11-30'],
    ['2026-11-27', 5, '2026-12-04'],
    ['2026-11-27', 0, '2026-11-27'],
    ['2026-11-28', 0, '2026-11-30'],
    ['2026-11-28', 1, '2026-11-30'],
    ['2026-11-29', -1, '2026-11-27'],
    ['2026-11-30', -1, '2026-11-27'],
    ['2026-11-30', -6, '2026-11-20'],
  ])('%s and %i', (from, count, expected) => {
    expect(days(from, count)).toBe(expected);
  });

  test('holidays are none, wherever they stand', () => {
    const calendar = calendarOf({
      holidays: [{ date: '2026-12-08', name: 'A feast' }, { date: '2026-12-25' }, { date: '2026-12-26' }],
    });
    expect(days('2026-12-07', 1, calendar)).toBe('2026-12-09');
    expect(days('2026-12-08', 0, calendar)).toBe('2026-12-09');
    expect(days('2026-12-24', 1, calendar)).toBe('2026-12-28');
    expect(days('2026-12-28', -1, calendar)).toBe('2026-12-24');
  });

  test('past its bound counting comes to nothing, and so it does where every day is a holiday', () => {
    expect(days('2026-11-27', MAX_WORKING_DAYS)).toBe('2065-03-27');
    expect(days('2026-11-27', MAX_WORKING_DAYS + 1)).toBeNull();
    const never = { ...ORDINARY_CALENDAR, week: WEEKDAYS.map(() => []) };
    expect(addWorkingDays(never, 20_000, 1)).toBeNull();
    expect(addWorkingTime(never, 0, HOUR, 'UTC')).toBeNull();
  });

  test('forth and back again is where one was, from a working day', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40_000 }), fc.integer({ min: 1, max: 400 }), (from, count) => {
        const start = addWorkingDays(ORDINARY_CALENDAR, from, 0) as number;
        const there = addWorkingDays(ORDINARY_CALENDAR, start, count) as number;
        expect(weekdayOf(there)).toBeLessThan(6);
        expect(addWorkingDays(ORDINARY_CALENDAR, there, -count)).toBe(start);
      }),
    );
  });
});

describe('working hours, nine to five, in Vienna', () => {
  test.each<[string, number, string]>([
    ['2026-11-27T15:00:00Z', 1, '2026-11-27T16:00:00Z'],
    // Exactly at closing is still that day.
    ['2026-11-27T08:00:00Z', 8, '2026-11-27T16:00:00Z'],
    ['2026-11-27T15:30:00Z', 1, '2026-11-30T08:30:00Z'],
    ['2026-11-27T22:00:00Z', 2, '2026-11-30T10:00:00Z'],
    ['2026-11-28T12:00:00Z', 0, '2026-11-30T08:00:00Z'],
    ['2026-11-27T10:10:00Z', 0, '2026-11-27T10:10:00Z'],
    ['2026-11-30T08:00:00Z', -1, '2026-11-27T15:00:00Z'],
    ['2026-11-29T12:00:00Z', -0.5, '2026-11-27T15:30:00Z'],
    ['2026-11-27T10:00:00Z', 1.25, '2026-11-27T11:15:00Z'],
  ])('%s and %d', (from, count, expected) => {
    expect(hours(from, count)).toBe(expected);
  });

  test('over the change to summer time and back the clock on the wall counts', () => {
    // Clocks go forward on 28 March 2027, a Sunday: Friday 16:00 is 15:00Z, Monday 10:00 is 08:00Z.
    expect(hours('2027-03-26T15:00:00Z', 2)).toBe('2027-03-29T08:00:00Z');
    const nights = calendarOf({ week: week({ sunday: [['00:00', '06:00']] }) });
    // Of six hours on the wall there are five that night.
    expect(hours('2027-03-27T20:00:00Z', 5, 'Europe/Vienna', nights)).toBe('2027-03-28T04:00:00Z');
    expect(hours('2026-10-24T20:00:00Z', 7, 'Europe/Vienna', nights)).toBe('2026-10-25T05:00:00Z');
  });

  test('hours that begin in an hour that is repeated begin the first time', () => {
    // In New York clocks go back from two to one on 1 November 2026, a Sunday: from the first 1:30 to 3:30 it is three hours.
    const early = calendarOf({ week: week({ sunday: [['01:30', '03:30']] }) });
    expect(hours('2026-11-01T04:00:00Z', 0, 'America/New_York', early)).toBe('2026-11-01T05:30:00Z');
    expect(hours('2026-11-01T04:00:00Z', 3, 'America/New_York', early)).toBe('2026-11-01T08:30:00Z');
  });

  test('past its bound it comes to nothing', () => {
    expect(hours('2026-11-27T08:00:00Z', MAX_WORKING_HOURS)).not.toBeNull();
    expect(hours('2026-11-27T08:00:00Z', MAX_WORKING_HOURS + 1)).toBeNull();
  });
});

/**
 * Minute by minute, as somebody with a watch would count: whether work is done in a minute is read off the wall clock that
 * Intl (ECMA-402, with the zones of CLDR) shows for it.
 */
function countMinutes(from: number, minutes: number, zone: string, isOpen: (weekday: string, clock: string) => boolean): number {
  const wall = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    weekday: 'long',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  });
  const by = minutes < 0 ? -1 : 1;
  let left = Math.abs(minutes);
  for (let at = from; ; at += by * MINUTE) {
    const parts = new Map(wall.formatToParts(by > 0 ? at : at - MINUTE).map(({ type, value }) => [type, value]));
    if (!isOpen((parts.get('weekday') ?? '').toLowerCase(), `${parts.get('hour')}:${parts.get('minute')}`)) continue;
    left -= 1;
    if (left === 0) return at + by * MINUTE;
  }
}

test('counts as somebody with a watch does, minute by minute, in zones of every kind', () => {
  const spans = {
    monday: [
      ['08:15', '12:00'],
      ['13:00', '17:45'],
    ],
    wednesday: [['00:00', '24:00']],
    sunday: [['00:30', '04:30']],
  } as const;
  const settings = { week: week(spans) };
  const isOpen = (weekday: string, clock: string): boolean =>
    ((spans as Record<string, readonly (readonly [string, string])[]>)[weekday] ?? []).some(
      ([from, to]) => clock >= from && clock < to,
    );
  const around = fc.constantFrom('2027-03-27T09:00:00Z', '2026-10-24T09:00:00Z', '2026-11-25T22:00:00Z');
  const zones = fc.constantFrom('Europe/Vienna', 'America/New_York', 'Asia/Kathmandu', 'UTC', 'Australia/Lord_Howe');
  fc.assert(
    fc.property(
      around,
      fc.integer({ min: 0, max: 4000 }),
      fc.integer({ min: 1, max: 2500 }),
      fc.boolean(),
      zones,
      (date, offset, count, isBack, zone) => {
        const from = Date.parse(date) + offset * MINUTE;
        const minutes = isBack ? -count : count;
        const counted = addWorkingTime(calendarOf(settings), from, minutes * MINUTE, zone);
        expect(counted).toBe(countMinutes(from, minutes, zone, isOpen));
      },
    ),
    { numRuns: 60 },
  );
});

test('a day that is due is over with its last second', () => {
  const endOf = (day: string, zone = 'Europe/Vienna'): number => endOfDay(dayOf(day), zone) ?? Number.NaN;
  expect(writeInstant(endOf('2026-11-27'))).toBe('2026-11-27T22:59:59Z');
  // The day on which clocks go forward has 23 hours.
  expect(endOf('2027-03-28') - endOf('2027-03-27')).toBe(23 * HOUR);
  // 9999-12-31 has an end although there is no day after it. West of Greenwich its end lies in the year 10000 of UTC: there is none.
  expect(writeInstant(endOf('9999-12-31'))).toBe('9999-12-31T22:59:59Z');
  expect(endOfDay(dayOf('9999-12-31'), 'Pacific/Niue')).toBeNull();
  expect(endOfDay(dayOf('9999-12-31') + 1, 'UTC')).toBeNull();
});

test.each<[string, object, string]>([
  ['hours that end before they begin', { week: week({ monday: [['17:00', '09:00']] }) }, 'shape/spans'],
  [
    'hours that overlap',
    {
      week: week({
        monday: [
          ['09:00', '12:00'],
          ['11:00', '17:00'],
        ],
      }),
    },
    'shape/spans',
  ],
  ['a time that is none', { week: week({ monday: [['9', '17:00']] }) }, 'shape/clock'],
  ['a week without work', { week: week({}) }, 'shape/no-working-day'],
  ['a day that is none', { holidays: [{ date: '2026-02-30' }] }, 'shape/date'],
])('a calendar with %s is refused', (_, settings, message) => {
  const parsed = CalendarSettings.safeParse(settings);
  expect(parsed.error?.issues.map((issue) => issue.message)).toContain(message);
});
