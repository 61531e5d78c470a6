import { describe, expect, test } from '@jest/globals';
import { plainConditions, toFeel } from '@ypomet/testkit/plain-conditions';
import fc from 'fast-check';
import { parseExpression } from '../parse.ts';
import { printExpression } from '../print.ts';
import type { OutlineItem } from './outline.ts';
import { readOutlineJson, writeOutlineJson } from './outline-json.ts';
import { readOutlineGroup } from './read.ts';
import { writeOutline } from './write.ts';

const read = (text: string): OutlineItem => {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(text);
  return readOutlineGroup(parsed.value);
};
/** Through JSON text, as storage does it. */
const throughJson = (outline: OutlineItem): OutlineItem | null =>
  readOutlineJson(JSON.parse(JSON.stringify(writeOutlineJson(outline))));

describe('an outline comes back from JSON as it was', () => {
  test('whatever condition it stands for', () => {
    fc.assert(
      fc.property(plainConditions(), (condition) => {
        const outline = read(toFeel(condition));
        const back = throughJson(outline);
        expect(back && printExpression(writeOutline(back))).toBe(printExpression(writeOutline(outline)));
      }),
    );
  });

  test.each([
    'some o in objects satisfies o.value > 5 and o.fragile = true',
    'count(objects[fragile = true]) >= 1 or count(objects) = 7',
    'sum(concatenate([0], objects.value[item != null])) > 100',
    'upper case(x) = "X" and true',
    'not(venue in ("home", "abroad"))',
  ])('%s', (text) => {
    const back = throughJson(read(text));
    expect(back && printExpression(writeOutline(back))).toBe(text);
  });

  test('when it is unfinished: clauses without values, groups and rows without clauses', () => {
    const empty: OutlineItem = { kind: 'group', which: 'any', of: [] };
    const outline: OutlineItem = {
      kind: 'group',
      which: 'all',
      of: [
        { kind: 'clause', subject: { kind: 'field', path: ['price'] }, comparison: 'above', values: [] },
        empty,
        { kind: 'rows', which: 'some', item: 'o', table: ['parts'], where: empty },
        {
          kind: 'clause',
          subject: { kind: 'count', table: ['parts'], where: empty },
          comparison: 'above',
          values: [],
        },
      ],
    };
    expect(throughJson(outline)).toEqual(outline);
  });
});

test.each<[string, unknown]>([
  ['nothing', null],
  ['a text', 'price > 1'],
  ['a kind that there isn’t', { kind: 'loop', of: [] }],
  ['a comparison that there isn’t', { kind: 'clause', subject: { kind: 'field', path: ['a'] }, comparison: 'near', values: [] }],
  ['an expression with an error', { kind: 'group', which: 'all', of: [{ kind: 'text', node: 'price > (' }] }],
  ['a value with an error', { kind: 'clause', subject: { kind: 'field', path: ['a'] }, comparison: 'is', values: ['"'] }],
  ['rows whose condition is none', { kind: 'rows', which: 'some', item: 'o', table: ['t'], where: { kind: 'text', node: ')' } }],
  [
    'a count whose condition is none',
    {
      kind: 'clause',
      subject: { kind: 'count', table: ['t'], where: { kind: 'text', node: ')' } },
      comparison: 'is',
      values: [],
    },
  ],
])('JSON that is no outline is refused: %s', (_, json) => {
  expect(readOutlineJson(json)).toBeNull();
});
