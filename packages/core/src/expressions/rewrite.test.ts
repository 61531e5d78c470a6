import { describe, expect, test } from '@jest/globals';
import { checked, namesOf, show } from '@ypomet/testkit/evaluate';
import { conditionNode, namedValues, TYPINGS } from '@ypomet/testkit/generators';
import fc from 'fast-check';
import { checkExpression } from './check.ts';
import { compileExpression } from './compile.ts';
import { parseExpression } from './parse.ts';
import { printExpression } from './print.ts';
import { findRenames, namesReadBy, type Renaming, referencesOf, replaceIn } from './rewrite.ts';
import { makeScope, type Scope } from './scope.ts';
import type { Typing } from './types.ts';

const scope = makeScope(TYPINGS);

/** The scope after a field was renamed. */
const scopeAfter = ({ from, to }: Renaming) =>
  makeScope(Object.fromEntries(Object.entries(TYPINGS).map(([name, typing]) => [name === from ? to : name, typing])));

function renamed(text: string, renaming: Renaming): string {
  const result = findRenames(checked(text, scope), renaming);
  if (result.ok) return replaceIn(text, result.value);
  const [{ code, span }] = result.diagnostics as [(typeof result.diagnostics)[number]];
  return `${code} «${span ? text.slice(span.start, span.end) : ''}»`;
}

describe('renaming a field', () => {
  test.each<[string, string]>([
    ['amount > 1', 'worth > 1'],
    ['amount > count1 and amount < 5', 'worth > count1 and worth < 5'],
    ['label = "amount"', 'label = "amount"'],
    ['some amount in [1, 2] satisfies amount > 1', 'some amount in [1, 2] satisfies amount > 1'],
    ['some x in [amount] satisfies x > amount', 'some x in [worth] satisfies x > worth'],
    ['some worth in [1] satisfies worth > amount', 'some worthItem in [1] satisfies worthItem > worth'],
    ['for worth in [1] return worth + amount', 'for worthItem in [1] return worthItem + worth'],
    ['for worth in [1], x in [worth] return x + amount', 'for worthItem in [1], x in [worthItem] return x + worth'],
    ['for x in [1], worth in [x] return worth + amount', 'for x in [1], worthItem in [x] return worthItem + worth'],
    [
      'for worth in [1] return for worthItem in [2] return worth + worthItem + amount',
      'for worthItem2 in [1] return for worthItem in [2] return worthItem2 + worthItem + worth',
    ],
    ['every worth in [1] satisfies amount > 0', 'every worthItem in [1] satisfies worth > 0'],
    ['sum(rows.size) > amount', 'sum(rows.size) > worth'],
    ['count(rows[size > amount]) > 0', 'count(rows[size > worth]) > 0'],
    ['if amount > 1 then amount else -amount', 'if worth > 1 then worth else -worth'],
    ['amount in (1, [2..amount])', 'worth in (1, [2..worth])'],
  ])('%s', (text, expected) => {
    expect(renamed(text, { from: 'amount', to: 'worth' })).toBe(expected);
  });

  test('a filter whose rows have a part of the new name would read that: refused, with the place', () => {
    expect(renamed('count(rows[size > amount]) > 0', { from: 'amount', to: 'size' })).toBe('expression/captured «amount»');
    expect(renamed('count(rows[colour = shade]) > amount', { from: 'amount', to: 'size' })).toBe(
      'count(rows[colour = shade]) > size',
    );
    expect(renamed('some r in rows satisfies r.size > amount', { from: 'amount', to: 'size' })).toBe(
      'some r in rows satisfies r.size > size',
    );
  });
});

describe('renaming a sub-field', () => {
  test.each<[string, string]>([
    ['sum(rows.size) > size0', 'sum(rows.width) > size0'],
    ['count(rows[size > 3]) > 0', 'count(rows[width > 3]) > 0'],
    ['count(rows[item.size > 3]) > 0', 'count(rows[item.width > 3]) > 0'],
    ['some r in rows satisfies r.size > 3 and r.good', 'some r in rows satisfies r.width > 3 and r.good'],
    ['rows[1].size = 3', 'rows[1].width = 3'],
    ['max(rows[good].size) > 3', 'max(rows[good].width) > 3'],
    ['sum(reverse(rows).size) > 3', 'sum(reverse(rows).width) > 3'],
    ['sum(concatenate(rows, rows).size) > 3', 'sum(concatenate(rows, rows).width) > 3'],
    ['sum(append(rows, rows[1]).size) > 3', 'sum(append(rows, rows[1]).width) > 3'],
    ['[rows[1]][1].size > 3', '[rows[1]][1].width > 3'],
    ['(if amount > 1 then rows[1] else rows[2]).size > 3', '(if amount > 1 then rows[1] else rows[2]).width > 3'],
    ['sum(for r in rows return r.size) > 3', 'sum(for r in rows return r.width) > 3'],
    ['sum(sublist(rows, 1, 2).size) > 3', 'sum(sublist(rows, 1, 2).width) > 3'],
    ['amount > 3', 'amount > 3'],
  ])('%s', (text, expected) => {
    expect(renamed(text.replace('size0', 'amount'), { from: 'size', to: 'width', within: 'rows' })).toBe(
      expected.replace('size0', 'amount'),
    );
  });

  test('a field that a filter reads beside its parts would be taken for the renamed part: refused', () => {
    const renaming = { from: 'size', to: 'amount', within: 'rows' };
    expect(renamed('count(rows[size > amount]) > 0', renaming)).toBe('expression/captured «amount»');
    expect(renamed('sum(rows.size) > amount', renaming)).toBe('sum(rows.amount) > amount');
  });
});

/** The text after a renaming that can be made. */
function rename(text: string, within: Scope, renaming: Renaming): string {
  const result = findRenames(checked(text, within), renaming);
  if (!result.ok) throw new Error('refused');
  return replaceIn(text, result.value);
}

describe('laws, on generated conditions', () => {
  test('there and back gives the same text', () => {
    const there: Renaming = { from: 'amount', to: 'amount2' };
    fc.assert(
      fc.property(conditionNode, (node) => {
        const text = printExpression(node);
        const after = rename(text, scope, there);
        expect(rename(after, scopeAfter(there), { from: 'amount2', to: 'amount' })).toBe(text);
      }),
    );
  });

  test('a renamed condition decides the same', () => {
    const renaming: Renaming = { from: 'amount', to: 'r' };
    fc.assert(
      fc.property(conditionNode, namedValues, (node, names) => {
        const { frame } = namesOf(names);
        const text = printExpression(node);
        const before = checked(text, scope);
        const after = checked(rename(text, scope, renaming), scopeAfter(renaming));
        expect(show(compileExpression(after)(frame))).toBe(show(compileExpression(before)(frame)));
        expect(namesReadBy(after).includes('r')).toBe(namesReadBy(before).includes('amount'));
      }),
      { numRuns: 500 },
    );
  });

  test('what an expression doesn’t read can be anything', () => {
    fc.assert(
      fc.property(conditionNode, namedValues, namedValues, (node, names, others) => {
        const expression = checkExpression(node, scope);
        const read = namesReadBy(expression);
        const mixed = Object.fromEntries(
          Object.keys(TYPINGS).map((name) => [name, (read.includes(name) ? names : others)[name]]),
        );
        const value = (of: object) => show(compileExpression(expression)(namesOf(of as typeof names).frame));
        expect(value(mixed)).toBe(value(names));
      }),
      { numRuns: 500 },
    );
  });
});

describe('what an expression reads', () => {
  const types: Readonly<Record<string, Typing>> = TYPINGS;
  test.each<[string, readonly string[]]>([
    ['1 + 1', []],
    ['amount > count1', ['amount', 'count1']],
    ['amount > amount', ['amount']],
    ['rows.size', ['rows', 'rows.size']],
    ['rows[good].colour', ['rows', 'rows.good', 'rows.colour']],
    ['some r in rows[good] satisfies r.size > amount', ['rows', 'rows.good', 'rows.size', 'amount']],
    ['for r in rows return r.size', ['rows', 'rows.size']],
    ['some a in rows, b in rows satisfies a.size = b.size', ['rows', 'rows.size']],
    ['day.year > 2027', ['day']],
    ['reverse(rows).size = [1]', ['rows', 'rows.size']],
    ['concatenate(rows, rows)[1].size > 1', ['rows', 'rows.size']],
    ['[rows[1]].size = [1]', ['rows', 'rows.size']],
    ['(if amount > 1 then rows else []).size = [1]', ['amount', 'rows', 'rows.size']],
    ['(for r in rows return r)[size > 1].colour = ["red"]', ['rows', 'rows.size', 'rows.colour']],
    ['flatten([rows, rows]).size = [1]', ['rows', 'rows.size']],
    ['distinct values(rows).size = [1]', ['rows', 'rows.size']],
  ])('%s', (text, expected) => {
    const parsed = parseExpression(text);
    if (!parsed.ok) throw new Error(text);
    const found = referencesOf(checkExpression(parsed.value, makeScope(types)));
    expect(found.map(({ name, part }) => (part ? `${name}.${part}` : name)).sort()).toEqual([...expected].sort());
  });
});
