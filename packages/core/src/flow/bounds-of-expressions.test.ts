import { expect, test } from '@jest/globals';
import { ENVIRONMENT } from '@ypomet/testkit/evaluate';
import { handedOn, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { applyEdit } from '../edits/apply-edit.ts';
import { checkExpression } from '../expressions/check.ts';
import { explainExpression } from '../expressions/explain.ts';
import { makeFrame } from '../expressions/frame.ts';
import { parseExpression, parseUnaryTests } from '../expressions/parse.ts';
import { printExpression } from '../expressions/print.ts';
import { LIMITS } from '../expressions/tree.ts';
import { isFault } from '../shared/codes.ts';

// The functions that walk an expression's tree are recursive, so a tree that is too deep for the stack is refused when it is parsed.

const times = (count: number, text: string, between = ''): string => Array.from({ length: count }, () => text).join(between);

/** Ways to write a deep tree: chains of operators, and parts nested within each other. */
const CHAINS: readonly (readonly [string, 'number' | 'yes-no', (depth: number) => string])[] = [
  ['a sum', 'number', (depth) => times(depth, 'n', ' + ')],
  ['a product', 'number', (depth) => times(depth, '1', ' * ')],
  ['powers', 'number', (depth) => times(depth, '1', '**')],
  ['comparisons', 'yes-no', (depth) => times(depth, 'b', ' = ')],
  ['memberships', 'yes-no', (depth) => `b${times(depth, ' in b')}`],
  ['filters', 'number', (depth) => `count(rows${times(depth, '[z > 1]')})`],
  ['minus signs', 'number', (depth) => `${times(depth, '- ')}n`],
  ['parentheses', 'number', (depth) => `${times(depth, '(')}n${times(depth, ')')}`],
  ['calls', 'number', (depth) => `${times(depth, 'abs(')}n${times(depth, ')')}`],
  ['alternatives', 'number', (depth) => `${times(depth, 'if b then 1 else ')}2`],
  [
    'sums within sums',
    'number',
    (depth) => Array.from({ length: 100 }).reduce<string>((inner) => `(${inner}${times(Math.ceil(depth / 100), '+n')})`, 'n'),
  ],
];

const compiled = (type: string, expression: string) =>
  smallCompiled({
    fields: [
      { type: 'yes-no', key: 'b' },
      { type: 'number', key: 'n' },
      { type: 'table', key: 'rows', fields: [{ type: 'number', key: 'z', name: 'Z' }] },
      { type, key: 'made', expression },
    ],
  });

test.each(CHAINS)('%s of any length: decided, explained and renamed, or refused with a reason', (_, type, make) => {
  for (const depth of [1, 100, LIMITS.chain - 10, LIMITS.chain + 100, 2400].filter(
    (each) => make(each).length <= LIMITS.textLength,
  )) {
    const text = make(depth);
    const workflow = compiled(type, text);
    const codes = new Set(workflow.diagnostics.filter(isFault).map(({ code }) => code));
    for (const code of codes) expect(code).toMatch(/^expression\/(too-deep|too-large|not-comparable|operands?)$/);
    if (depth > LIMITS.chain) expect(codes).not.toEqual(new Set());
    const parsed = parseExpression(text);
    if (!parsed.ok) continue;
    expect(parseExpression(printExpression(parsed.value)).ok).toBe(true);
    const checked = checkExpression(parsed.value, workflow.forms.layout.scope);
    if (checked.diagnostics.length > 0) continue;
    const slots = workflow.forms.fields.map(() => null);
    explainExpression(checked, makeFrame(slots, ENVIRONMENT));
    const { made } = handedOn(workflow, recordOf(workflow, { n: '1' }), 'send', { n: '1', b: true }).record.values;
    expect(made === undefined || made === null || typeof made === (type === 'number' ? 'string' : 'boolean')).toBe(true);
    expect(applyEdit(workflow.definition, { type: 'rename-key', part: 'fields.n', key: 'm' }).ok).toBe(true);
  }
});

test('a sum as long as is allowed comes to what it says, and a longer one says how to write it', () => {
  const workflow = compiled('number', times(LIMITS.chain, 'n', ' + '));
  expect(handedOn(workflow, recordOf(workflow, {}), 'send', { n: '2' }).record.values.made).toBe('2000');
  const longer = compiled('number', times(2401, 'n', ' + '));
  expect(longer.diagnostics.map(({ code }) => code)).toEqual(['expression/too-deep']);
  const listed = compiled('number', `sum([${times(2401, 'n', ',')}])`);
  expect(handedOn(listed, recordOf(listed, {}), 'send', { n: '2' }).record.values.made).toBe('4802');
});

test('a cell of a decision table is held to the same', () => {
  expect(parseUnaryTests(`> ${times(LIMITS.chain - 10, '1', ' + ')}`).ok).toBe(true);
  expect(parseUnaryTests(`> ${times(2401, '1', ' + ')}`).ok).toBe(false);
});

test('a number with more digits than are kept is a warning where it stands, and decides as it did', () => {
  const digits = '12345678901234567890123456789012345';
  const workflow = compiled('yes-no', `${digits} = 12345678901234567890123456789012340`);
  expect(workflow.diagnostics.map(({ code, path, params }) => [code, path, params.found])).toEqual([
    ['expression/rounded', 'fields.made.expression', digits],
  ]);
  expect(workflow.diagnostics.filter(isFault)).toEqual([]);
  expect(handedOn(workflow, recordOf(workflow, {}), 'send', {}).record.values.made).toBe(true);
});
