import { expect, test } from '@jest/globals';
import { ORDINARY_CALENDAR } from '@ypomet/core';
import { begun } from '@ypomet/testkit/sample-workflow';
import { clockColumns } from './clock-columns.ts';

const { compiled, record } = begun();
const outside = { zone: 'Europe/Vienna', calendar: ORDINARY_CALENDAR };

test.each([
  ['1911-03-12', '1911-03-12T22:59:59.000Z'],
  ['2027-03-12T08:30:00Z', '2027-03-12T08:30:00.000Z'],
  // PostgreSQL's and JavaScript's calendars agree from the year 1 on.
  ['0001-01-01', '0001-01-01T22:54:38.000Z'],
])('a due date of %s is kept as the instant %s, also before 1970', (due, at) => {
  expect(clockColumns(compiled, { ...record, due }, outside).due_at).toBe(at);
});
