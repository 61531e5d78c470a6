import { describe, expect, test } from '@jest/globals';
import { compileWorkflow, TYPES, type Type } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { type ColumnType, faultsOfCell, readOutput, readTests, showOutput, showTests } from './cell-text.ts';

const { scope } = compileWorkflow(sampleWorkflow()).forms.layout;
const column = (type: Type, locale = 'en-GB'): ColumnType => ({
  type,
  labels: new Map(type.kind === 'choice' ? type.options.map(({ code, label }) => [code, label]) : []),
  locale,
  zone: 'UTC',
  scope,
});
const material: Type = {
  kind: 'choice',
  options: [
    { code: 'paper', label: 'Paper' },
    { code: 'oil', label: 'Oil, on canvas' },
  ],
};

describe('cells of tests, as they are written and stored', () => {
  test.each<[string, ColumnType, string | null]>([
    ['', column(TYPES.number), null],
    ['-', column(TYPES.number), null],
    ['Any', column(material), null],
    ['paper', column(material), '"paper"'],
    ['Paper, "oil"', column(material), 'Paper, "oil"'],
    ['Oil, on canvas', column(material), '"oil"'],
    ['Paper; Oil, on canvas', column(material), '"paper", "oil"'],
    ['not(Paper)', column(material), 'not("paper")'],
    ['> 1,000.50', column(TYPES.number), '> 1000.5'],
    ['= 5', column(TYPES.number), '5'],
    ['1,000', column(TYPES.number), '1000'],
    ['1, 2', column(TYPES.number), '1, 2'],
    ['[1..1,000)', column(TYPES.number), '[1..1000)'],
    ['1 .. 5', column(TYPES.number), '[1..5]'],
    ['1,5', column(TYPES.number, 'de-DE'), '1.5'],
    ['1,5; 2', column(TYPES.number, 'de-DE'), '1.5, 2'],
    ['>= 12 Mar 2027', column(TYPES.date), '>= @"2027-03-12"'],
    ['12.3.2027', column(TYPES.date, 'de-DE'), '@"2027-03-12"'],
    ['yes', column(TYPES.boolean), 'true'],
    ['low', column(TYPES.text), '"low"'],
    ['thing', column(TYPES.text), 'thing'],
    ['? > price', column(TYPES.number), '? > price'],
  ])('%s', (typed, own, stored) => {
    expect(readTests(typed, own)).toBe(stored);
  });

  test.each<[string, ColumnType, string]>([
    ['"paper", "oil"', column(material), 'Paper, Oil, on canvas'],
    ['not("paper")', column(material), 'not(Paper)'],
    ['> 1000.50', column(TYPES.number), '> 1,000.5'],
    ['[1..1000)', column(TYPES.number, 'de-DE'), '[1..1.000)'],
    ['1.5, 2', column(TYPES.number, 'de-DE'), '1,5; 2'],
    ['@"2027-03-12"', column(TYPES.date), '12 Mar 2027'],
    ['true', column(TYPES.boolean), 'yes'],
    ['"thing"', column(TYPES.text), '"thing"'],
    ['"a, b"', column(TYPES.text), '"a, b"'],
    ['-', column(TYPES.text), ''],
    ['? > price', column(TYPES.number), '? > price'],
    ['> price', column(TYPES.number), '> price'],
    ['(oops', column(TYPES.number), '(oops'],
  ])('%s is shown', (stored, own, shown) => {
    expect(showTests(stored, own)).toBe(shown);
  });

  test('what is shown is read back as it was', () => {
    for (const locale of ['en-GB', 'de-DE', 'fr-FR'])
      for (const [text, type] of [
        ['> 1234.5', TYPES.number],
        ['1, 2.25, [3..4000000]', TYPES.number],
        ['not(-5)', TYPES.number],
        ['"low", "very high"', TYPES.text],
        ['@"2027-03-12", > @"2028-01-01"', TYPES.date],
        ['true', TYPES.boolean],
        ['"paper"', material],
      ] as const)
        expect([locale, readTests(showTests(text, column(type, locale)), column(type, locale))]).toEqual([locale, text]);
  });
});

describe('outputs', () => {
  test.each<[string, Type, string | null]>([
    ['', TYPES.number, null],
    ['1,250', TYPES.number, '1250'],
    ['price * 2', TYPES.number, 'price * 2'],
    ['chief', TYPES.text, '"chief"'],
    ['thing', TYPES.text, 'thing'],
    ['no', TYPES.boolean, 'false'],
  ])('%s', (typed, type, stored) => {
    expect(readOutput(typed, column(type))).toBe(stored);
    if (stored !== null) expect(readOutput(showOutput(stored, column(type)), column(type))).toBe(stored);
  });

  test('what is wrong with a cell is known as it is typed', () => {
    const codes = (text: string | null, side: 'when' | 'then', type: Type) =>
      faultsOfCell(text, side, 'price', column(type)).map(({ code }) => code);
    expect(codes('> 5', 'when', TYPES.number)).toEqual([]);
    expect(codes('"x"', 'when', TYPES.number)).toHaveLength(1);
    expect(codes('(', 'when', TYPES.number)).toHaveLength(1);
    expect(codes('"x"', 'then', TYPES.number)).toEqual(['expression/wrong-result']);
    expect(codes(null, 'then', TYPES.number)).toEqual([]);
  });
});
