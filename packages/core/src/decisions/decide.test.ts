import { describe, expect, test } from '@jest/globals';
import { ENVIRONMENT, show } from '@ypomet/testkit/evaluate';
import { ExpressionCompiler } from '../expressions/compiler.ts';
import { makeFrame } from '../expressions/frame.ts';
import { makeScope } from '../expressions/scope.ts';
import { TYPES, typing } from '../expressions/types.ts';
import { DecisionTable, type HitPolicy } from '../model/decision-table.ts';
import { exactInteger } from '../values/exact.ts';
import type { Value } from '../values/value.ts';
import { compileDecision, decide } from './compile-decision.ts';

const scope = makeScope({ age: typing(TYPES.number, true), risk: typing(TYPES.text, true) });

function decideBy(
  hitPolicy: HitPolicy,
  rules: readonly (readonly [string, string, string])[],
  age: Value,
  more: object = {},
): string {
  const table = DecisionTable.parse({
    key: 'table',
    name: 'Table',
    hitPolicy,
    inputs: [
      { name: 'Age', expression: 'age' },
      { name: 'Risk', expression: 'risk' },
    ],
    outputs: [{ key: 'out', name: 'Out', type: 'number', ...more }],
    rules: rules.map(([first, second, out]) => ({ when: [first, second], then: [out] })),
  });
  const compiler = new ExpressionCompiler();
  const compiled = compileDecision(table, 'decisionTables.0', scope, compiler);
  expect(compiler.diagnostics).toEqual([]);
  const decision = decide(compiled, makeFrame([age, 'low'], ENVIRONMENT));
  return decision.violation ?? show(decision.value);
}

const RULES = [
  ['>= 18', '-', '10'],
  ['[18..30]', '"low"', '20'],
  ['< 18', 'not("high")', '30'],
  ['> 60', '"high", "medium"', '40'],
] as const;

describe('hit policies (DMN 1.3, 8.2.10)', () => {
  test.each<[HitPolicy, number, string]>([
    ['U', 40, '10'],
    ['U', 20, 'not-unique'],
    ['A', 40, '10'],
    ['A', 20, 'outputs-differ'],
    ['F', 20, '10'],
    ['R', 20, '[10, 20]'],
    ['C', 20, '[10, 20]'],
    ['C+', 20, '30'],
    ['C<', 20, '10'],
    ['C>', 20, '20'],
    ['C#', 20, '2'],
    ['F', 10, '30'],
    ['U', 61, '10'],
  ])('%s at age %d', (policy, age, expected) => {
    expect(decideBy(policy, RULES, exactInteger(age))).toBe(expected);
  });

  test('an unknown input matches only what takes anything', () => {
    expect(decideBy('F', RULES, null)).toBe('null');
    expect(decideBy('F', [...RULES, ['-', '-', '99']], null)).toBe('99');
  });

  test('without a matching rule: the default, nothing, an empty list, or none', () => {
    expect(decideBy('U', [], exactInteger(1), { default: '7' })).toBe('7');
    expect(decideBy('U', [], exactInteger(1))).toBe('null');
    expect(decideBy('C', [], exactInteger(1))).toBe('[]');
    expect(decideBy('C', [], exactInteger(1), { default: '7' })).toBe('[7]');
    expect(decideBy('C#', [], exactInteger(1))).toBe('0');
  });

  test.each<[HitPolicy, string]>([
    ['P', '"decline"'],
    ['O', '["decline", "accept"]'],
  ])('%s goes by the order of the output’s values', (policy, expected) => {
    const more = { type: 'text', values: ['decline', 'refer', 'accept'] };
    const rules = [
      ['-', '-', '"accept"'],
      ['> 10', '-', '"decline"'],
    ] as const;
    expect(decideBy(policy, rules, exactInteger(20), more)).toBe(expected);
  });
});

test('a faulty cell is named by its place', () => {
  const table = DecisionTable.parse({
    key: 'table',
    name: 'Table',
    hitPolicy: 'U',
    inputs: [{ name: 'Age', expression: 'age' }],
    outputs: [{ key: 'out', name: 'Out', type: 'number' }],
    rules: [{ when: ['> "old"'], then: ['"none"'] }],
  });
  const compiler = new ExpressionCompiler();
  compileDecision(table, 'decisionTables.0', scope, compiler);
  expect(compiler.diagnostics.map(({ path, code }) => `${path}: ${code}`)).toEqual([
    'decisionTables.0.rules.0.when.0: expression/not-comparable',
    'decisionTables.0.rules.0.then.0: expression/wrong-result',
  ]);
});
