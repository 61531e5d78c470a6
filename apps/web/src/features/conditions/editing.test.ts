import { describe, expect, test } from '@jest/globals';
import {
  compileWorkflow,
  itemAt,
  makeWording,
  type OutlineGroup,
  type OutlinePath,
  parseExpression,
  printExpression,
  readOutlineGroup,
  writeOutline,
} from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { ACTIONS } from './actions.ts';
import { isComplete, itemFor, subjectValue, textOf } from './editing.ts';
import type { ConditionPlace } from './place.ts';
import { type RowsInScope, scopeWithin, subjectOptions, typeAt } from './subjects.ts';

const workflow = sampleWorkflow();
const { scope } = compileWorkflow(workflow).forms.layout;
const group = (text: string): OutlineGroup => {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(text);
  return readOutlineGroup(parsed.value);
};

describe('clauses in the making', () => {
  test('a new clause fits its field’s type and is not complete', () => {
    const clause = itemFor('field:price', scope);
    expect(clause).toEqual({ kind: 'clause', subject: { kind: 'field', path: ['price'] }, comparison: 'above', values: [] });
    expect(isComplete(clause)).toBe(false);
    expect(textOf(clause, scope)).toEqual({ open: 'incomplete' });
  });

  test.each([
    ['field:kind', 'is'],
    ['field:delivery', 'is'],
    ['count:parts', 'above'],
    ['total:parts.amount', 'above'],
  ])('%s begins with “%s”', (picked, comparison) => {
    const item = itemFor(picked, scope);
    expect(item.kind === 'clause' && [subjectValue(item.subject), item.comparison]).toEqual([picked, comparison]);
  });

  test('“any row where” has a scope of its own', () => {
    const rows = itemFor('some:parts', scope);
    if (rows.kind !== 'rows') throw new Error('no rows');
    const inner = scopeWithin(scope, { item: rows.item, table: rows.table });
    expect(typeAt(inner, [rows.item, 'amount'])?.kind).toBe('number');
    const [own] = subjectOptions(workflow, () => null, inner, { item: rows.item, table: ['parts'] });
    expect(own?.items.map(({ label }) => label)).toContain('Serial');
  });

  test.each([
    'price > 1000 and (kind = "goods" or delivery = null)',
    'some p in parts satisfies p.amount >= 10 and p.serial = null',
    'sum(concatenate([0], parts.amount[item != null])) > 5',
    'count(parts[amount > 1]) = 2',
    'delivery between today() - @"P30D" and today()',
    'kind != "goods" and kind != null',
    'not(kind in ("goods", "service"))',
    'upper case(thing) = "LAMP"',
  ])('%s comes back from its outline as it was', (text) => {
    expect(textOf(group(text), scope)).toEqual({ text });
  });

  test('a group without clauses is unfinished, never “always” or “never”', () => {
    const empty = { kind: 'group', which: 'all', of: [] } as const;
    const within: OutlineGroup['of'] = [
      empty,
      { kind: 'rows', which: 'some', item: 'o', table: ['parts'], where: empty },
      { kind: 'clause', subject: { kind: 'count', table: ['parts'], where: empty }, comparison: 'has-rows', values: [] },
    ];
    for (const which of ['all', 'any', 'none'] as const) expect(isComplete({ kind: 'group', which, of: [] })).toBe(false);
    for (const one of within) expect(textOf({ kind: 'group', which: 'all', of: [one] }, scope)).toEqual({ open: 'incomplete' });
    expect(textOf(group('price > 1 and true'), scope)).toEqual({ text: 'price > 1 and true' });
  });

  test('an option that isn’t there is not kept', () => {
    expect(textOf(group('kind = "goodies"'), scope)).toEqual({ open: 'faulty' });
  });
});

describe('what can be asked for', () => {
  const groups = (rows: RowsInScope | null) =>
    Object.fromEntries(
      subjectOptions(workflow, () => null, scope, rows).map(({ group: name, items }) => [name, items.map(({ value }) => value)]),
    );

  test('fields, rows, facts of the record', () => {
    const { Fields, Rows, Record: facts } = groups(null);
    expect(Fields).toContain('field:price');
    expect(Fields).not.toContain('field:parts');
    expect(Rows).toEqual(['some:parts', 'every:parts', 'count:parts', 'field:parts', 'total:parts.amount', 'total:parts.double']);
    expect(facts).toContain('field:record.number');
  });

  test('where rows are counted, columns go by their own names', () => {
    const rows = { item: null, table: ['parts'] };
    expect(groups(rows)['Of the row']).toContain('field:serial');
    expect(typeAt(scopeWithin(scope, rows), ['serial'])?.kind).toBe('text');
  });
});

describe('what is done with a line', () => {
  const wording = makeWording(workflow, { locale: 'en', zone: 'UTC' });
  const place = { workflow, findWorkflow: () => null, scope, wording, rows: null } as unknown as ConditionPlace;
  const acted = (id: string, text: string, path: OutlinePath): string | null => {
    const found = ACTIONS.find((action) => action.id === id)?.act({ root: group(text), path }, place);
    return found ? printExpression(writeOutline(found.root)) : null;
  };
  test.each<[string, string, OutlinePath, string | null]>([
    ['any', 'price > 1 and kind = "goods"', [0], 'price > 1 and kind = "goods"'],
    ['all', 'price > 1 or kind = "goods"', [], 'price > 1 or kind = "goods"'],
    ['unwrap', '(price > 1 or price < 0) and kind = "goods"', [0], 'price > 1 and price < 0 and kind = "goods"'],
    ['negate', 'price > 1 and kind = "goods"', [0], 'price <= 1 and kind = "goods"'],
    ['negate', 'price > 1 or kind = "goods"', [], 'not(price > 1 or kind = "goods")'],
    ['remove', 'price > 1 and kind = "goods"', [1], 'price > 1'],
    ['remove', 'price > 1', [], 'true'],
    ['edit', 'price > 1', [], null],
    ['where', 'count(parts) > 1', [0], 'count(parts[true]) > 1'],
    ['where', 'price > 1', [0], null],
    ['inline', 'price > 1', [0], null],
    ['up', 'price > 1 and kind = "goods"', [1], 'kind = "goods" and price > 1'],
  ])('%s of %s', (id, text, path, expected) => {
    expect(acted(id, text, path)).toBe(expected);
  });

  test('a new clause goes into a group, behind a clause, into what rows are asked for', () => {
    const after = (text: string, path: OutlinePath) =>
      ACTIONS.find((action) => action.id === 'clause')?.act({ root: group(text), path }, place);
    expect(after('price > 1', [])).toMatchObject({ path: [1], opens: true });
    expect(after('price > 1 and kind = "goods"', [0])?.path).toEqual([1]);
    const one = after('some p in parts satisfies p.amount > 1', [0, 0]);
    expect(one?.path).toEqual([0, 0, 1]);
    expect(itemAt(one?.root ?? group('true'), [0, 0, 1])).toMatchObject({ subject: { path: ['p', 'name'] } });
    const counted = after('count(parts[amount > 1]) > 2', [0]);
    expect(itemAt(counted?.root ?? group('true'), counted?.path ?? [])).toMatchObject({ subject: { path: ['name'] } });
    const rows = after('some p in parts satisfies (p.amount > 1 or p.serial = null)', [0]);
    expect(rows?.path).toEqual([0, 0, 2]);
    expect(itemAt(rows?.root ?? group('true'), [0, 0, 2])).toMatchObject({ subject: { path: ['p', 'name'] } });
  });
});
