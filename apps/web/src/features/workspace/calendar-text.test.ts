import { expect, test } from '@jest/globals';
import { CalendarSettings } from '@ypomet/core';
import { readHours, readTyped, toTyped, writeHours } from './calendar-text.ts';

const ordinary = CalendarSettings.parse({ holidays: [{ date: '2026-12-25', name: 'Winter feast' }, { date: '2027-01-01' }] });

test.each<[string, string | null]>([
  ['', ''],
  ['9-17', '09:00–17:00'],
  ['09:00–12:00, 13:00–17:30', '09:00–12:00, 13:00–17:30'],
  ['8.15 to 12; 13-24', '08:15–12:00, 13:00–24:00'],
  ['nine to five', null],
  ['9', null],
  ['09:00–12:00 13:00–17:00', null],
])('hours typed as “%s”', (typed, expected) => {
  const read = readHours(typed);
  expect(read && writeHours(read)).toBe(expected);
});

test('what is written is read back the same', () => {
  const read = readTyped(toTyped(ordinary));
  expect(read).toEqual({ ok: true, calendar: ordinary });
});

test('holidays are put in order, each day once; separators may stand before the name', () => {
  const read = readTyped({ ...toTyped(ordinary), holidays: '2027-01-01; New year\n\n2026-12-25  Winter\n2027-01-01 Again' });
  expect(read.ok && read.calendar.holidays).toEqual([
    { date: '2026-12-25', name: 'Winter' },
    { date: '2027-01-01', name: 'Again' },
  ]);
});

test.each<[string, string, string, RegExp]>([
  ['hours that end before they begin', 'monday', '17:00–09:00', /end after it begins/],
  ['hours past midnight', 'friday', '20:00–25:00', /within the day/],
  ['words', 'sunday', 'closed', /like 09:00/],
])('%s are told beside their day', (_, day, hours, told) => {
  const typed = toTyped(ordinary);
  const read = readTyped({ ...typed, week: { ...typed.week, [day]: hours } });
  expect(read.ok ? null : read.days.get(day as 'monday')).toMatch(told);
});

test('a week without work, and a line that is no day, are told', () => {
  const typed = toTyped(ordinary);
  const none = Object.fromEntries(Object.keys(typed.week).map((day) => [day, ''])) as typeof typed.week;
  const read = readTyped({ week: none, holidays: '2026-02-30 No such day' });
  expect(read).toMatchObject({ ok: false, holidays: expect.stringContaining('2026-02-30') });
  expect(read.ok ? null : read.days.get('monday')).toMatch(/at least one day/);
});

test.each(['2026-12-250', '2026-12-25Christmas', '2026-12-25-26'])('a slip of the keys, “%s”, is told and no holiday', (line) => {
  const read = readTyped({ ...toTyped(ordinary), holidays: line });
  expect(read.ok ? read.calendar.holidays : read.holidays).toBe(`“${line}” doesn’t begin with a date like 2026-12-25.`);
});
