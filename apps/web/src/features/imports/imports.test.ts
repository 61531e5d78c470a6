import { describe, expect, test } from '@jest/globals';
import type { ImportedRow } from '@ypomet/contract';
import { MAX_IMPORTED } from '@ypomet/contract/limits';
import { askWorkflow } from '../../../testing/ask-workflow.ts';
import { runInParts } from '../../shared/in-parts.ts';
import { UnfitFile } from '../../shared/read-sheets.ts';
import { partsOf } from './parts.ts';
import { guessMapping, type ImportRow, pathsByName, readRows, targetsOf } from './rows.ts';
import { MAX_IMPORT_BYTES, readImportFile, toSheet } from './sheet.ts';

const STYLE = { zone: 'Europe/Vienna', today: '2026-12-01' };

const definition = askWorkflow(
  [
    { type: 'text', key: 'giver', name: 'Giver' },
    { type: 'money', key: 'worth', name: 'Worth in all', short: 'Worth', currency: 'EUR' },
    { type: 'member', key: 'keeper', name: 'Keeper' },
    { type: 'file', key: 'papers', name: 'Papers' },
    { type: 'number', key: 'twice', name: 'Twice', expression: 'worth * 2', treatment: 'read-only' },
    { type: 'text', key: 'later', name: 'Later', treatment: 'hidden' },
    { type: 'text', key: 'sometimes', name: 'Sometimes', treatment: 'hidden' },
    {
      type: 'table',
      key: 'objects',
      name: 'Objects',
      fields: [
        { type: 'text', key: 'title', name: 'Title' },
        { type: 'number', key: 'weight', name: 'Weight', scale: 1 },
      ],
    },
  ],
  { adjustments: [{ key: 'a', name: 'A', when: 'worth > 5', fields: ['sometimes'], stages: ['ask'], treatment: 'required' }] },
);
const targets = targetsOf(definition, 'ask');

describe('the columns of a sheet', () => {
  test('fill what an intake can ask for; what is computed, hidden or given by hand isn’t offered', () => {
    expect(targets.map(({ path, name }) => [path, name])).toEqual([
      ['giver', 'Giver'],
      ['worth', 'Worth in all'],
      ['keeper', 'Keeper'],
      ['sometimes', 'Sometimes'],
      ['objects.title', 'Objects: Title'],
      ['objects.weight', 'Objects: Weight'],
    ]);
  });

  test.each([
    [
      ['Giver', 'Worth in all', 'Title'],
      ['giver', 'worth', 'objects.title'],
    ],
    [
      [' giver ', 'WORTH', 'objects.weight', 'Objects: Title'],
      ['giver', 'worth', 'objects.weight', 'objects.title'],
    ],
    [
      ['Giver', 'Giver', ''],
      ['giver', null, null],
    ],
    [
      ['Papers', 'Nothing'],
      [null, null],
    ],
  ] as const)('are known by names: %j', (head, expected) => {
    expect(guessMapping(toSheet('', [head]), targets)).toEqual(expected);
  });
});

describe('the lines of a sheet', () => {
  const mapping = ['giver', 'worth', 'objects.title', 'objects.weight'];
  const rowsOf = (lines: readonly (readonly string[])[]) =>
    readRows(toSheet('', [['Giver', 'Worth', 'Title', 'Weight'], ...lines]), mapping, targets, { ...STYLE, locale: 'en-GB' });

  test('make records; one that fills only a table goes on the record above; an empty one is none', () => {
    expect(
      rowsOf([
        ['Ada', '1,000.50', 'Lamp', '2.5'],
        ['', '', 'Clock', ''],
        ['', '', '', ''],
        ['Bo', '', '', ''],
      ]),
    ).toEqual({
      rows: [
        {
          line: 2,
          values: {
            giver: 'Ada',
            worth: '1000.5',
            objects: [
              { id: 'l2', values: { title: 'Lamp', weight: '2.5' } },
              { id: 'l3', values: { title: 'Clock' } },
            ],
          },
        },
        { line: 5, values: { giver: 'Bo' } },
      ],
      refused: [],
    });
  });

  test('with a number in the column of an export are records of their own, whatever else they fill', () => {
    const lines = [
      ['L-1', 'Ada', '', 'Lamp', '2.5'],
      ['', '', '', 'Clock', ''],
      ['L-2', '', '', 'Bell', ''],
    ];
    const sheet = toSheet('', [['Number', 'Giver', 'Worth', 'Objects: Title', 'Objects: Weight'], ...lines]);
    const read = readRows(sheet, guessMapping(sheet, targets), targets, { ...STYLE, locale: 'en-GB' });
    expect(read.rows.map(({ line, values }) => [line, values.giver, (values.objects as unknown[]).length])).toEqual([
      [2, 'Ada', 2],
      [4, undefined, 1],
    ]);
  });

  test('with a cell that means nothing make no record, and say where and why; the others stand', () => {
    expect(
      rowsOf([
        ['Ada', 'much', 'Lamp', '2'],
        ['', '', 'Clock', 'heavy'],
        ['Bo', '1', '', ''],
      ]),
    ).toEqual({
      rows: [{ line: 4, values: { giver: 'Bo', worth: '1' } }],
      refused: [
        {
          line: 2,
          why: ['Worth in all: “much” is not a number', 'Objects: Weight: “heavy” is not a number'],
        },
      ],
    });
  });

  test('name members and records as they are called; the server knows who is meant', () => {
    const byKeeper = ['giver', 'keeper'];
    const read = readRows(toSheet('', [[], ['Ada', ' Carla Wendt ']]), byKeeper, targets, { ...STYLE, locale: 'en-GB' });
    expect(read).toEqual({ rows: [{ line: 2, values: { giver: 'Ada', keeper: 'Carla Wendt' } }], refused: [] });
    expect(pathsByName(byKeeper, targets)).toEqual(['keeper']);
    expect(pathsByName(['giver', null], targets)).toEqual([]);
  });

  test('lose the quote by which an export keeps a text from being a formula', () => {
    expect(rowsOf([["'=1+1"], ["'tis"], ["'-5"]]).rows.map(({ values }) => values.giver)).toEqual(['=1+1', "'tis", '-5']);
  });

  test('too short or too long are read as far as there are columns; a formula is text', () => {
    expect(rowsOf([['=1+1'], ['Bo', '1', '', '', 'over', 'more']]).rows.map(({ values }) => values)).toEqual([
      { giver: '=1+1' },
      { giver: 'Bo', worth: '1' },
    ]);
  });

  test('a hundred thousand are read', () => {
    const lines = Array.from({ length: 100_000 }, (_, index) => [`Giver ${index}`, index === 50_000 ? 'much' : '1', '', '']);
    const { rows, refused } = rowsOf(lines);
    expect([rows.length, refused.map(({ line }) => line)]).toEqual([99_999, [50_002]]);
  });
});

describe('a file', () => {
  const file = (text: string, name = 'a.csv'): File => new File([text], name);
  test('of CSV is one sheet, whatever parts its cells; a mark at its beginning is none of a name', async () => {
    expect(await readImportFile(file('\ufeffGiver;Worth\nAda;"1;5"\n\n'), 'en-GB')).toEqual([
      { name: '', head: ['Giver', 'Worth'], lines: [['Ada', '1;5']], decimal: null, isTyped: false },
    ]);
  });

  test.each([
    ['nothing', ''],
    ['only names', 'Giver,Worth\n'],
    ['no text', 'a\u0000b'],
    ['more than can be taken', 'x'.repeat(MAX_IMPORT_BYTES + 1)],
  ])('with %s is refused with a sentence', async (_name, text) => {
    await expect(readImportFile(file(text), 'en-GB')).rejects.toThrow(UnfitFile);
  });

  test.each([
    [['12.5', '1.250'], '.'],
    [['1.250,50', 'x'], ','],
    [['1,250', '1.250'], null],
    [['1,5', '1.5'], null],
    [['€1,250.50'], '.'],
    [['1’250.50'], '.'],
    [['1 250,5'], ','],
    [['1.250.000'], ','],
    [['0.125'], '.'],
    [['12.03.2027', '1.2.3', 'v1.5a'], null],
    [['1250', ''], null],
  ] as const)('shows by %j that the decimal mark is %s', (cells, mark) => {
    expect(toSheet('', [['A'], ...cells.map((cell) => [cell])]).decimal).toBe(mark);
  });

  test('empty lines at the end are none, those between keep their place', () => {
    expect(toSheet('', [['A'], ['1'], [''], ['2'], [' '], []]).lines).toEqual([['1'], [''], ['2']]);
  });
});

describe('an import', () => {
  const rows = (count: number, text = ''): ImportRow[] =>
    Array.from({ length: count }, (_, index) => ({ line: index + 2, values: { giver: text } }));
  const told = ({ line }: ImportRow): ImportedRow => ({
    line,
    isBegun: true,
    number: null,
    stageName: null,
    wouldSend: 0,
    wouldOpen: 0,
    issues: [],
  });

  test('goes in parts of what one request may hold', () => {
    expect(partsOf(rows(MAX_IMPORTED * 2 + 1)).map((part) => part.length)).toEqual([MAX_IMPORTED, MAX_IMPORTED, 1]);
    expect(partsOf(rows(3, 'x'.repeat(600_000))).map((part) => part.length)).toEqual([1, 1, 1]);
    expect(partsOf([])).toEqual([]);
  });

  test('stops where it is cancelled, and where a part fails', async () => {
    const controller = new AbortController();
    const seen: number[] = [];
    const onPart = (part: readonly ImportedRow[]): void => {
      seen.push(part.length);
      if (seen.length === 2) controller.abort();
    };
    await runInParts(partsOf(rows(400)), async (part) => part.map(told), onPart, controller.signal);
    expect(seen).toEqual([100, 100]);
    const failing = runInParts(
      partsOf(rows(300)),
      async (part) => {
        if (part[0]?.line === 102) throw Object.assign(new Error('away'), { problem: { status: 403 } });
        return part.map(told);
      },
      (part: readonly ImportedRow[]) => seen.push(part.length),
      new AbortController().signal,
    );
    await expect(failing).rejects.toThrow('away');
    expect(seen).toEqual([100, 100, 100]);
  });
});
