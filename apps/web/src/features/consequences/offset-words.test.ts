import { expect, test } from '@jest/globals';
import type { Offset } from '@ypomet/core';
import { formatDue } from '../../shared/due.ts';
import { OFFSET_UNITS, sayOffset } from './offset-words.ts';

const offset = (count: number, unit: Offset['unit'], side: Offset['side']): Offset => ({ count, unit, side });

test.each<[Offset, string]>([
  [offset(2, 'working-days', 'before'), '2 working days before it is due'],
  [offset(1, 'days', 'after'), '1 day after it is due'],
  [offset(1, 'working-hours', 'before'), '1 working hour before it is due'],
  [offset(90, 'minutes', 'after'), '90 minutes after it is due'],
  [offset(0, 'days', 'before'), 'on the day it is due'],
  [offset(0, 'hours', 'after'), 'when it is due'],
])('%j is said', (of, words) => {
  expect(sayOffset(of)).toBe(words);
});

test('every unit can be chosen by name', () => {
  expect(OFFSET_UNITS.map(({ label }) => label)).toEqual(['minutes', 'hours', 'days', 'working hours', 'working days']);
});

test('a due date is a day, or has its time in the workspace’s zone', () => {
  const place = { zone: 'America/New_York', locale: 'en-GB' };
  expect(formatDue('2026-12-04', place)).toBe('4 Dec 2026');
  expect(formatDue('2026-12-04T12:30:00Z', place)).toBe('4 Dec 2026, 07:30');
});
