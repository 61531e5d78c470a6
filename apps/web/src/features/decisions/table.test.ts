import { describe, expect, test } from '@jest/globals';
import { applyEdit, compileWorkflow, type DecisionTable, type Edit, TYPES, type Type } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { readTableCsv, writeTableCsv } from './table-csv.ts';
import { type CellAt, columnsOf, replaceRules, ruleKeys, textOfCell, writeCells } from './table-edits.ts';
import type { TableColumn } from './use-columns.ts';

const KINDS: Type = {
  kind: 'choice',
  options: [
    { code: 'goods', label: 'Goods' },
    { code: 'service', label: 'Service, long' },
  ],
};
const workflow = sampleWorkflow({
  decisionTables: [
    {
      key: 'rates',
      name: 'Rates',
      hitPolicy: 'F',
      inputs: [
        { key: 'price', name: 'Price', expression: 'price' },
        { key: 'kind', name: 'Kind', expression: 'kind' },
      ],
      outputs: [{ key: 'rate', name: 'Rate', type: 'number', values: [], default: null }],
      rules: [
        { key: 'rule1', when: { price: '> 1000' }, then: { rate: '0.5' }, notes: 'dear' },
        { key: 'rule2', when: { kind: '"service"' }, then: { rate: '1' }, notes: '' },
      ],
    },
  ],
});
const table = workflow.decisionTables[0] as DecisionTable;
const { scope } = compileWorkflow(workflow).forms.layout;
const column = (at: CellAt, name: string, type: Type | null, expression = ''): TableColumn => ({
  at,
  name,
  expression,
  column: {
    type,
    labels: new Map(type?.kind === 'choice' ? type.options.map(({ code, label }) => [code, label]) : []),
    locale: 'en-GB',
    zone: 'UTC',
    scope,
  },
});
const [PRICE, KIND, RATE, NOTES] = columnsOf(table) as [CellAt, CellAt, CellAt, CellAt];
const columns = [
  column(PRICE, 'Price', TYPES.number, 'price'),
  column(KIND, 'Kind', KINDS, 'kind'),
  column(RATE, 'Rate', TYPES.number),
  column(NOTES, 'Notes', null),
];
const after = (edit: Edit | null): DecisionTable => {
  const result = edit && applyEdit(workflow, edit);
  if (!result?.ok) throw new Error(JSON.stringify(result));
  return result.value.definition.decisionTables[0] as DecisionTable;
};
const told = ({ rules }: DecisionTable): readonly string[] =>
  rules.map((rule) => [PRICE, KIND, RATE, NOTES].map((at) => textOfCell(rule, at) ?? '').join(' | '));

describe('cells of a decision table are written', () => {
  test('tests, outputs and notes of several rules in one edit', () => {
    const edit = writeCells(table, [
      { rule: 'rule1', at: PRICE, text: null },
      { rule: 'rule1', at: KIND, text: '"goods"' },
      { rule: 'rule2', at: RATE, text: '2' },
      { rule: 'rule2', at: NOTES, text: 'by the hour' },
    ]);
    expect(told(after(edit))).toEqual([' | "goods" | 0.5 | dear', ' | "service" | 2 | by the hour']);
  });

  test('nothing where everything is as it was; a single cell is an edit of its own', () => {
    expect(
      writeCells(table, [
        { rule: 'rule1', at: PRICE, text: '> 1000' },
        { rule: 'gone', at: PRICE, text: '1' },
      ]),
    ).toBeNull();
    expect(writeCells(table, [{ rule: 'rule1', at: PRICE, text: '1' }])).toMatchObject({ type: 'set-cells' });
    expect(writeCells(table, [{ rule: 'rule1', at: NOTES, text: null }])).toMatchObject({
      type: 'change-part',
      set: { notes: '' },
    });
  });

  test('new rules come at the end, with keys that none has', () => {
    const keys = ruleKeys(table, 2);
    expect(keys).toEqual(['rule3', 'rule4']);
    const edit = writeCells(
      table,
      [
        { rule: 'rule3', at: RATE, text: '9' },
        { rule: 'rule4', at: KIND, text: null },
      ],
      keys,
    );
    expect(told(after(edit))).toEqual(['> 1000 |  | 0.5 | dear', ' | "service" | 1 | ', ' |  | 9 | ', ' |  |  | ']);
  });

  test('more rules than are added one by one are written as a whole, and come to the same', () => {
    const keys = ruleKeys(table, 300);
    const cells = keys.flatMap((rule, index) => [
      { rule, at: PRICE, text: `> ${index}` },
      { rule, at: NOTES, text: index % 2 === 0 ? 'even' : null },
    ]);
    const edit = writeCells(table, [{ rule: 'rule1', at: PRICE, text: null }, ...cells], keys);
    expect(edit).toMatchObject({ type: 'change-part' });
    const made = after(edit);
    expect(made.rules).toHaveLength(302);
    expect(told(made).slice(0, 4)).toEqual([' |  | 0.5 | dear', ' | "service" | 1 | ', '> 0 |  |  | even', '> 1 |  |  | ']);
  });
});

describe('a table as a CSV file', () => {
  const csv = writeTableCsv(table, columns);

  test('a header of names, cells as they are read', () => {
    expect(csv).toBe('Price,Kind,Rate,Notes\r\n"> 1,000",,0.5,dear\r\n,"Service, long",1,');
  });

  test('it is read back as it was', () => {
    const read = readTableCsv(csv, columns);
    expect(read).toMatchObject({ unknown: [], missing: [], refused: [] });
    expect(told(after(replaceRules(table, read?.rules ?? [])))).toEqual(told(table));
  });

  test('columns in another order, unknown and missing ones, cells that mean nothing', () => {
    const read = readTableCsv('\uFEFFrate,Colour,PRICE\n2,red,< 5\nmany,blue,"[1..5]"\n,,\n', columns);
    expect(read?.unknown).toEqual(['Colour']);
    expect(read?.missing).toEqual(['Kind']);
    expect(read?.refused).toEqual([{ line: 3, column: 'Rate', text: 'many' }]);
    expect(read?.rules.map(({ when, then }) => [when, then])).toEqual([
      [{ price: '< 5' }, { rate: '2' }],
      [{ price: '[1..5]' }, {}],
    ]);
  });

  test('quotes and line breaks within cells; a file that names no column is none', () => {
    const read = readTableCsv('Kind,Notes\n"Service, long","two\nlines, ""quoted"""\n', columns);
    expect(read?.rules[0]).toMatchObject({ when: { kind: '"service"' }, notes: 'two\nlines, "quoted"' });
    expect(readTableCsv('a,b\n1,2', columns)).toBeNull();
    expect(readTableCsv('', columns)).toBeNull();
  });
});
