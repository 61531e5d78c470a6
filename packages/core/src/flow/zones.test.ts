import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { handedOn, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { formatRecordNumber } from './open-record.ts';
import { makeOutside } from './record.ts';

// A date-time is an instant shown and computed in the workspace's zone, wherever its value comes from (semantics 1).
const DERIVED = [
  { type: 'date', key: 'day', expression: 'date(at)' },
  { type: 'number', key: 'hour', expression: 'at.hour' },
  { type: 'date-time', key: 'later', expression: 'at + @"P1M"' },
  { type: 'text', key: 'written', expression: 'string(at)' },
] as const;
const fields = [{ type: 'date-time', key: 'at' }, ...DERIVED];
const facts = ({ day, hour, later, written }: Readonly<Record<string, unknown>>) => ({ day, hour, later, written });

describe('a date-time reads the same at every station of its life', () => {
  const workflow = smallCompiled({ fields });
  const entered = handedOn(workflow, recordOf(workflow), 'send', { at: '2027-01-02T00:30:00' }).record;

  test('as it is entered, in Vienna', () => {
    expect(entered.values.at).toBe('2027-01-01T23:30:00Z');
    expect(facts(entered.values)).toEqual({
      day: '2027-01-02',
      hour: '0',
      later: '2027-02-01T23:30:00Z',
      written: '2027-01-02T00:30:00+01:00',
    });
  });

  test('at the next hand-off, from what is stored', () => {
    const next = handedOn(workflow, entered, 'finish').record;
    expect(facts(next.values)).toEqual(facts(entered.values));
  });

  test.each([
    ['as UTC', '2027-01-01T23:30:00Z'],
    ['with another offset', '2027-01-02T07:30:00+08:00'],
    ['with another zone', '2027-01-01T18:30:00@America/New_York'],
  ])('sent %s', (_, at) => {
    const { values } = handedOn(workflow, recordOf(workflow), 'send', { at }).record;
    expect([values.at, facts(values)]).toEqual([entered.values.at, facts(entered.values)]);
  });

  test('set by an expression, whatever zone the expression uses', () => {
    const set = smallCompiled({
      fields,
      handOffs: { send: { sets: [{ field: 'at', value: '@"2027-01-01T18:30:00@America/New_York"' }] } },
    });
    const { values } = handedOn(set, recordOf(set), 'send').record;
    expect([values.at, facts(values)]).toEqual([entered.values.at, facts(entered.values)]);
  });

  test('computed by another field, and in the cells of a row', () => {
    const rows = smallCompiled({
      fields: [
        { type: 'date-time', key: 'at', expression: '@"2027-01-01T18:30:00@America/New_York"' },
        {
          type: 'table',
          key: 'visits',
          fields: [
            { type: 'date-time', key: 'at', name: 'At' },
            { type: 'date', key: 'day', name: 'Day', expression: 'date(row.at)' },
          ],
        },
        ...DERIVED,
      ],
    });
    const visits = [{ id: 'a', values: { at: '2027-01-02T00:30:00' } }];
    const { values } = handedOn(rows, recordOf(rows), 'send', { visits }).record;
    expect(facts(values)).toEqual(facts(entered.values));
    expect(values.visits).toEqual([{ id: 'a', values: { at: '2027-01-01T23:30:00Z', day: '2027-01-02' } }]);
  });

  test('a month later across the change to summer time keeps the hour of the clock', () => {
    const begun = handedOn(workflow, recordOf(workflow), 'send', { at: '2027-03-10T12:00:00' }).record;
    expect(begun.values.later).toBe('2027-04-10T10:00:00Z');
    expect(handedOn(workflow, begun, 'finish').record.values.later).toBe('2027-04-10T10:00:00Z');
  });
});

describe('the record’s own times', () => {
  // 23:30 on the last day of the year in UTC; half past midnight of the next in Vienna.
  const outside = makeOutside({ ...OUTSIDE, now: Date.UTC(2026, 11, 31, 23, 30) });

  test('its days are those of the workspace, as today() is', () => {
    const workflow = smallCompiled({
      fields: [
        { type: 'yes-no', key: 'sameDay', expression: 'date(record.createdAt) = today()' },
        { type: 'yes-no', key: 'arrivedToday', expression: 'date(record.arrivedAt) = today()' },
        { type: 'date', key: 'day', expression: 'date(record.createdAt)' },
      ],
    });
    const { values } = handedOn(workflow, recordOf(workflow, {}, 'ask', outside), 'send', {}, undefined, outside).record;
    expect(values).toEqual({ sameDay: true, arrivedToday: true, day: '2027-01-01' });
  });

  test('its number takes the year there', () => {
    expect(formatRecordNumber('L-{year}-{number:3}', 7, outside)).toBe('L-2027-007');
    expect(formatRecordNumber('L-{year}-{number:3}', 7, { ...outside, zone: 'UTC' })).toBe('L-2026-007');
  });
});

test('an instant outside the calendar of four-digit years can’t be stored, nor entered', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'date-time', key: 'at' },
      { type: 'date-time', key: 'far', expression: 'at + @"P9000Y"' },
    ],
  });
  const { values } = handedOn(workflow, recordOf(workflow), 'send', { at: '2027-01-02T00:30:00Z' }).record;
  expect(Object.keys(values)).toEqual(['at']);
});
