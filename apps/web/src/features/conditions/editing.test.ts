import { describe, expect, test } from '@jest/globals';
import {
  compileWorkflow,
  type OutlineGroup,
  parseExpression,
  printExpression,
  readOutlineGroup,
  writeOutline,
} from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { isComplete, itemFor, scopeWithin, subjectValue, textOf } from './editing.ts';
import { makeWording, subjectOptions, typeAt } from './wording.ts';

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
    const inner = scopeWithin(scope, rows.item, rows.table);
    expect(typeAt(inner, [rows.item, 'amount'])?.kind).toBe('number');
    expect(subjectOptions(workflow, { name: rows.item, table: 'parts' })[0]?.items.map(({ label }) => label)).toContain('Serial');
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

  test('an option that isn’t there is not kept', () => {
    expect(textOf(group('kind = "goodies"'), scope)).toEqual({ open: 'faulty' });
  });
});

test('names and labels are those of the workflow', () => {
  const wording = makeWording(workflow, new Map([['p', 'parts']]));
  expect(wording.nameOf(['p', 'amount'])).toBe('Amount');
  expect(wording.nameOf(['record', 'track'])).toBe('Record’s track');
  const goods = parseExpression('"goods"');
  expect(goods.ok && wording.labelOf(['kind'], goods.value)).toBe('Goods');
  expect(printExpression(writeOutline({ kind: 'group', which: 'any', of: [] }))).toBe('false');
});
