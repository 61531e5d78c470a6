import { describe, expect, test } from '@jest/globals';
import { makeWording } from '@ypomet/core';
import { smallCompiled } from '@ypomet/testkit/small-workflow';
import { makeTemplatePlace, saysOf } from './template-place.ts';

const workflow = smallCompiled({
  fields: [
    { type: 'text', key: 'borrower', name: 'Borrower' },
    { type: 'money', key: 'worth', name: 'Worth', currency: 'EUR' },
    { type: 'note', key: 'hint', name: 'Hint', text: 'x' },
    {
      type: 'table',
      key: 'things',
      name: 'Things',
      fields: [
        { type: 'text', key: 'title', name: 'Title' },
        { type: 'number', key: 'size', name: 'Size' },
      ],
    },
    { type: 'table', key: 'visits', name: 'Visits', fields: [{ type: 'date', key: 'day', name: 'Day' }] },
  ],
});
const { scope, rowScopes } = workflow.forms.layout;
const wording = makeWording(workflow.definition, { locale: 'en-GB', zone: 'UTC' });
const place = makeTemplatePlace(workflow.definition, { scope, wording }, rowScopes);

describe('what can be put into a text', () => {
  test('fields, columns of tables by `row`, and facts; no notes', () => {
    expect(place.values.map(({ expression }) => expression)).toEqual([
      'borrower',
      'worth',
      'things',
      'visits',
      'row.title',
      'row.size',
      'row.day',
      'record.number',
      'destination.name',
      'actor.name',
      'today()',
    ]);
    expect(place.values.find(({ expression }) => expression === 'row.title')?.name).toBe('Things, each: Title');
  });

  test('each of them is sound where it would stand', () => {
    for (const { expression } of place.values)
      expect(saysOf(expression, place)).toMatchObject({ isFaulty: false, isMark: false });
  });

  test('plurals are about the first table; without one there are none', () => {
    expect(place.counted).toBe('count(things)');
    expect(place.tables).toEqual([
      { key: 'things', name: 'Things' },
      { key: 'visits', name: 'Visits' },
    ]);
    const bare = smallCompiled({ fields: [{ type: 'text', key: 'a' }] });
    expect(makeTemplatePlace(bare.definition, { scope, wording }, new Map()).counted).toBeNull();
  });
});

describe('what an insert says', () => {
  test.each<[string, string]>([
    ['borrower', 'Borrower'],
    [' worth ', 'Worth'],
    ['record.number', 'record number'],
  ])('{{%s}}', (raw, expected) => {
    const said = saysOf(raw, place);
    expect(said.text.toLowerCase()).toContain(expected.toLowerCase().split(' ').at(-1) as string);
    expect(said).toMatchObject({ isMark: false, isFaulty: false });
  });

  test.each<[string, string]>([
    ['/when', 'end'],
    ['/each', 'end'],
    ['#else', 'otherwise'],
    ['#plural count(things): object | objects', 'object | objects'],
  ])('{{%s}} is a mark: %s', (raw, text) => {
    expect(saysOf(raw, place)).toEqual({ text, isMark: true, isFaulty: false });
  });

  test('a passage says under which condition it stands, in words', () => {
    const { text, isMark, isFaulty } = saysOf('#when worth > 1000', place);
    expect([isMark, isFaulty]).toEqual([true, false]);
    expect(text).toMatch(/^only when Worth .*1,000/);
  });

  test.each<[string, boolean]>([
    ['borower', false],
    ['worth +', false],
    ['#when worht > 1', true],
    ['#unless x', true],
    ['row.nothing', false],
  ])('{{%s}} is faulty, and stays as it was written', (raw, isMark) => {
    expect(saysOf(raw, place)).toMatchObject({ isMark, isFaulty: true });
  });

  test('what can’t be read is shown as it is', () => {
    expect(saysOf('worth +', place).text).toBe('worth +');
  });
});

describe('rows', () => {
  test('are those of the table that has what is read', () => {
    expect(place.rowScopeOf('row.day')).toBe(rowScopes.get('visits'));
    expect(place.rowScopeOf('row.size > 2')).toBe(rowScopes.get('things'));
  });

  test('are the first table’s where none fits', () => {
    expect(place.rowScopeOf('row.nothing')).toBe(rowScopes.get('things'));
  });

  test('are only for what names `row`', () => {
    expect(place.rowScopeOf('borrower')).toBeNull();
    expect(place.rowScopeOf('arrow')).toBeNull();
  });
});
