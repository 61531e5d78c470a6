import { describe, expect, test } from '@jest/globals';
import { makeWording, parseExpression, readOutlineGroup } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { layOutBranches } from './branch-cells.ts';
import { extentWords } from './extents.ts';

const wording = makeWording(sampleWorkflow(), { locale: 'en-GB', zone: 'UTC' });
const outline = (text: string) => {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(text);
  return readOutlineGroup(parsed.value);
};
const laid = (...texts: readonly string[]): readonly string[] => {
  const { columns, rows } = layOutBranches(texts.map(outline), wording);
  return [
    columns.map(({ name }) => name).join(' | '),
    ...rows.map((row) =>
      row
        .map((cell) =>
          cell.kind === 'items' ? `${cell.paths.map((path) => `[${path.join('.')}]`).join('')}x${cell.span}` : cell.kind,
        )
        .join(' | '),
    ),
  ];
};

describe('branches as a grid', () => {
  test('a column for each thing asked for, in the order it is named', () => {
    expect(laid('kind = "goods"', 'price > 1 and kind = "service"')).toEqual(['Kind | Price', '[0]x1 | any', '[1]x1 | [0]x1']);
  });

  test('a group goes over the columns it is about', () => {
    expect(laid('kind = "goods"', '(price > 1 or thing = "x") and kind = "service"')).toEqual([
      'Kind | Price | Thing',
      '[0]x1 | any | any',
      '[1]x1 | [0]x2 | covered',
    ]);
  });

  test('two of one column stand in one cell; what doesn’t fit goes over the row', () => {
    expect(laid('price > 1 and price < 5')).toEqual(['Price', '[0][1]x1']);
    expect(laid('price > 1 and kind = "goods" and (price < 9 or kind = "old")')).toEqual([
      'Price | Kind',
      '[0][1][2]x2 | covered',
    ]);
    expect(laid('price > 1 or kind = "goods"')).toEqual(['Price | Kind', '[]x2 | covered']);
  });

  test('rows, counts and texts; nothing asked for', () => {
    expect(
      laid('count(parts) > 1 and (some p in parts satisfies p.amount > 1) and upper case(thing) = "X"', 'true', 'false'),
    ).toEqual(['the number of rows of Parts | Parts | Thing', '[0]x1 | [1]x1 | [2]x1', 'any | any | any', 'any | any | any']);
  });
});

test('stretches of values in words', () => {
  const date = (text: string) => {
    const parsed = parseExpression(`@"${text}"`);
    return parsed.ok ? parsed.value : null;
  };
  expect(date('2027-03-01')?.kind).toBe('temporal');
  const said = (extent: Parameters<typeof extentWords>[0]) => extentWords(extent, ['kind'], wording);
  const range = { kind: 'range', includesLow: false, includesHigh: true } as const;
  expect(said({ kind: 'empty' })).toBe('empty');
  expect(said({ kind: 'value', value: 'goods' })).toBe('Goods');
  expect(said({ kind: 'other' })).toBe('any other');
  expect(said({ ...range, low: null, high: null })).toBe('any value');
  expect(said({ ...range, low: null, high: true })).toBe('to yes');
  expect(said({ ...range, low: true, high: null })).toBe('above yes');
  expect(said({ ...range, low: false, high: true })).toBe('above no to yes');
});
