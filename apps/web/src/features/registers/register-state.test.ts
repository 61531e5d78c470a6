import { describe, expect, test } from '@jest/globals';
import { Workflow } from '@ypomet/core';
import fc from 'fast-check';
import { cellText, columnsOf, firstColumns } from './columns.ts';
import { orderedBy, readAddress, type Shown, withColumn, withMoved, writeAddress } from './register-state.ts';

// What a register shows stands in its address, so that it can be kept, sent and gone back to.
const field = (type: string, key: string, more: object = {}) => ({ type, key, name: `The ${key}`, section: 'all', ...more });
const definition = Workflow.parse({
  format: 'ypomet.workflow/1',
  key: 'listed',
  name: 'Listed',
  roles: [{ key: 'clerk', name: 'Clerk' }],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    field('text', 'name', { short: 'Name', treatment: 'read-only' }),
    field('long-text', 'story', { treatment: 'read-only' }),
    field('money', 'worth', { currency: 'EUR', treatment: 'read-only' }),
    field('date', 'back', { treatment: 'read-only' }),
    field('member', 'who', { treatment: 'read-only' }),
    field('date-time', 'at', { treatment: 'read-only' }),
  ],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [{ key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] }],
});
const register = { definition, searchable: ['name', 'worth', 'back', 'who'] };
const FIRST = readAddress(new URLSearchParams(), register);

describe('what is shown', () => {
  test('at first is what a record is known by, newest first', () => {
    expect(FIRST).toEqual({
      columns: ['record.number', 'record.stage', 'name', 'worth', 'back', 'record.due'],
      sort: 'record.createdAt',
      direction: 'down',
      filter: '',
      find: '',
      layout: 'list',
    });
    expect(FIRST.columns).toEqual(firstColumns(register));
    expect(writeAddress(FIRST, register).toString()).toBe('');
  });

  test('comes back from its address as it was', () => {
    const ids = columnsOf(register).map(({ id }) => id);
    const shown: fc.Arbitrary<Shown> = fc.record({
      columns: fc.uniqueArray(fc.constantFrom(...ids), { minLength: 1 }),
      sort: fc.constantFrom('record.number', 'name', 'worth'),
      direction: fc.constantFrom('up', 'down'),
      filter: fc.string({ unit: 'grapheme' }),
      find: fc.string({ unit: 'grapheme' }),
      layout: fc.constantFrom('list', 'stages', 'watching'),
    });
    fc.assert(
      fc.property(shown, (one) => {
        const address = new URLSearchParams(writeAddress(one, register).toString());
        expect(readAddress(address, register)).toEqual(one);
      }),
    );
  });

  test('leaves out columns that are gone, and layouts that there aren’t', () => {
    const read = (text: string) => readAddress(new URLSearchParams(text), register);
    expect(read('columns=gone,worth').columns).toEqual(['worth']);
    expect(read('columns=gone').columns).toEqual(FIRST.columns);
    expect(read('layout=other&direction=sideways')).toEqual(FIRST);
  });

  test('is ordered by another column upwards, by the same the other way about', () => {
    const up = orderedBy(FIRST, 'worth');
    expect([up.sort, up.direction]).toEqual(['worth', 'up']);
    expect(orderedBy(up, 'worth').direction).toBe('down');
    expect(orderedBy(orderedBy(up, 'worth'), 'worth').direction).toBe('up');
  });

  test('gains, loses and moves columns; the last one stays', () => {
    const one = { ...FIRST, columns: ['name', 'worth'] };
    expect(withColumn(one, 'back', true).columns).toEqual(['name', 'worth', 'back']);
    expect(withColumn(one, 'name', false).columns).toEqual(['worth']);
    expect(withColumn({ ...one, columns: ['name'] }, 'name', false).columns).toEqual(['name']);
    expect(withMoved(one, 'name', 1).columns).toEqual(['worth', 'name']);
    expect([withMoved(one, 'name', -1), withMoved(one, 'worth', 1), withMoved(one, 'gone', 1)]).toEqual([one, one, one]);
  });
});

describe('columns', () => {
  const columns = new Map(columnsOf(register).map((column) => [column.id, column]));
  const style = { locale: 'en-GB', zone: 'Europe/Vienna', nameOf: (id: string) => (id === 'm1' ? 'Carla Wendt' : null) };
  const entry = {
    record: {
      number: 'L-1',
      stageName: 'Ask',
      createdAt: '2026-11-25T08:00:00.000Z',
      arrivedAt: '2026-11-25T08:00:00.000Z',
      due: '2026-12-01',
      assignee: { kind: 'role', role: 'clerk' },
      assigneeName: null,
    },
    submitter: null,
    values: { name: '=1+1', worth: '1200.50', back: '2027-03-12', who: 'm1', at: '2026-07-01T08:00:00Z' },
  } as unknown as Parameters<typeof cellText>[1];

  test.each([
    ['record.number', 'L-1'],
    ['record.stage', 'Ask'],
    ['record.submitter', ''],
    ['record.assignee', 'Clerk'],
    ['record.createdAt', '25 Nov 2026, 09:00'],
    ['record.due', '1 Dec 2026'],
    ['name', '=1+1'],
    ['story', ''],
    ['worth', '€1,200.50'],
    ['back', '12 Mar 2027'],
    ['who', 'Carla Wendt'],
    ['at', '1 Jul 2026, 10:00'],
  ])('%s says “%s”', (id, text) => {
    const column = columns.get(id);
    if (!column) throw new Error(id);
    expect(cellText(column, entry, style, register)).toBe(text);
  });

  test('are ordered by where there is an order that the register knows', () => {
    const can = [...columns.values()].filter(({ canOrder }) => canOrder).map(({ id }) => id);
    expect(can).toEqual(['record.number', 'record.createdAt', 'record.arrivedAt', 'record.due', 'name', 'worth', 'back']);
    expect([columns.get('name')?.name, columns.get('worth')?.isNumeric]).toEqual(['Name', true]);
  });
});
