import { describe, expect, test } from '@jest/globals';
import type { SubField } from '@ypomet/core';
import { askWorkflow } from '../../../testing/ask-workflow.ts';
import { MAX_PASTED, pasteRows, type RowJson } from './pasted-rows.ts';

const [table] = askWorkflow([
  {
    type: 'table',
    key: 'objects',
    name: 'Objects',
    fields: [
      { type: 'text', key: 'title', name: 'Title' },
      {
        type: 'choice',
        key: 'material',
        name: 'Material',
        short: 'Mat.',
        options: [
          { code: 'paper', label: 'Paper' },
          { code: 'glass', label: 'Glass' },
          { code: 'lead', label: 'Lead', retired: true },
        ],
      },
      { type: 'money', key: 'value', name: 'Insured value', currency: 'EUR' },
    ],
  },
]).fields;
const subFields: readonly SubField[] = table?.type === 'table' ? table.fields : [];
const fieldOf = (key: string): SubField => subFields.find((one) => one.key === key) as SubField;

describe('rows', () => {
  const columns = ['title', 'material', 'value'].map((key) => ({ field: fieldOf(key), canEnter: () => true }));
  let made = 0;
  const makeRow = (): RowJson => {
    made += 1;
    return { id: `new${made}`, values: { value: '10' } };
  };
  const style = { style: { locale: 'en-GB', zone: 'UTC', today: '2026-12-01' }, makeRow };
  const ROWS: readonly RowJson[] = [
    { id: 'a', values: { title: 'A', value: '1' } },
    { id: 'b', values: { title: 'B', value: '2' } },
  ];
  const valuesOf = (rows: readonly RowJson[]) => rows.map(({ values }) => values);

  test('are filled from the cell on, and added where they end; a new row keeps its defaults where nothing is given', () => {
    const { rows, told } = pasteRows(
      [
        ['Paper', '5'],
        ['Glass', ''],
      ],
      { row: 1, column: 1 },
      ROWS,
      columns,
      style,
    );
    expect(rows.map(({ id }) => id.replace(/\d+/, ''))).toEqual(['a', 'b', 'new']);
    expect(valuesOf(rows)).toEqual([
      { title: 'A', value: '1' },
      { title: 'B', material: 'paper', value: '5' },
      { material: 'glass', value: '10' },
    ]);
    expect(told).toEqual([]);
  });

  test('a cell that is empty in the sheet empties one that is there', () => {
    expect(valuesOf(pasteRows([['', '', '']], { row: 0, column: 0 }, ROWS, columns, style).rows)[0]).toEqual({
      title: null,
      material: null,
      value: null,
    });
  });

  test.each([
    ['by names', ['Title', 'Material', 'Insured value']],
    ['by short names and keys', ['title', 'mat.', 'value']],
  ])('a first line that names the columns is no row: %s', (_name, head) => {
    const { rows } = pasteRows([head, ['C', 'Glass', '3']], { row: 2, column: 0 }, ROWS, columns, style);
    expect(valuesOf(rows).at(-1)).toEqual({ title: 'C', material: 'glass', value: '3' });
    expect(rows).toHaveLength(3);
  });

  test('a text that its column can’t hold is told with its line; one that is no amount stays in its cell as it was pasted', () => {
    const lines = [
      ['A', 'Wood', 'x', 'over'],
      ['B', 'Paper', '7'],
    ];
    const { rows, told } = pasteRows(lines, { row: 0, column: 0 }, ROWS, columns, style);
    expect(valuesOf(rows)).toEqual([
      { title: 'A', value: { typed: 'x' } },
      { title: 'B', material: 'paper', value: '7' },
    ]);
    expect(told).toEqual([
      'Not taken: line 1, Material: “Wood”, none of the options.',
      'One column had no place and was left out.',
    ]);
  });

  test('cells that aren’t asked for in their row are left out', () => {
    const some = columns.map((one) => ({ ...one, canEnter: (row: string | null) => one.field.key !== 'value' || row === 'b' }));
    const { rows, told } = pasteRows(
      [
        ['A', 'Paper', '5'],
        ['B', 'Paper', '6'],
      ],
      { row: 0, column: 0 },
      ROWS,
      some,
      style,
    );
    expect(valuesOf(rows).map(({ value }) => value)).toEqual(['1', '6']);
    expect(told).toEqual(['Not taken: line 1, Insured value: “5”, not asked for here.']);
  });

  test('there is a most', () => {
    const lines = Array.from({ length: MAX_PASTED + 3 }, (_, index) => [String(index)]);
    const { rows, told } = pasteRows(lines, { row: 0, column: 0 }, [], columns, style);
    expect(rows).toHaveLength(MAX_PASTED);
    expect(told).toEqual([`At most ${MAX_PASTED} rows are taken at once; the last 3 were left out.`]);
  });
});
