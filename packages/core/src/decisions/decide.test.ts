import { describe, expect, test } from '@jest/globals';
import { ENVIRONMENT, show } from '@ypomet/testkit/evaluate';
import { ExpressionCompiler } from '../expressions/compiler.ts';
import { makeFrame } from '../expressions/frame.ts';
import { makeScope } from '../expressions/scope.ts';
import { TYPES, typing } from '../expressions/types.ts';
import { DecisionTable, type HitPolicy } from '../model/decision-table.ts';
import { fillTableKeys } from '../model/given-keys.ts';
import { exactInteger } from '../values/exact.ts';
import type { Value } from '../values/value.ts';
import { compileDecision, decide } from './compile-decision.ts';
import { tryDecision, typingsOfInputs } from './try-decision.ts';

const scope = makeScope({ age: typing(TYPES.number, true), risk: typing(TYPES.text, true) });

/** A table as files may have it: columns and rules without keys, cells in the columns' order. */
const readTable = (json: object): DecisionTable => DecisionTable.parse(fillTableKeys(json));

function decideBy(
  hitPolicy: HitPolicy,
  rules: readonly (readonly [string, string, string])[],
  age: Value,
  more: object = {},
): string {
  const table = readTable({
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
  const table = readTable({
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
    'decisionTables.0.rules.rule1.when.input1: expression/not-comparable',
    'decisionTables.0.rules.rule1.then.out: expression/wrong-result',
  ]);
});

describe('aggregates and orders that aren’t defined are faults of the design, and nothing throws', () => {
  type Output = { readonly type: string; readonly values?: readonly string[]; readonly default?: string };
  const compiledOf = (hitPolicy: HitPolicy, outputs: readonly Output[], cells: readonly (readonly string[])[]) => {
    const table = readTable({
      key: 'table',
      name: 'Table',
      hitPolicy,
      inputs: [{ name: 'Age', expression: 'age' }],
      outputs: outputs.map((output, index) => ({ key: `out${index}`, name: `Out ${index}`, ...output })),
      rules: cells.map((then) => ({ when: ['-'], then })),
    });
    const compiler = new ExpressionCompiler();
    const compiled = compileDecision(table, 'decisionTables.0', scope, compiler);
    const decide0 = () => show(decide(compiled, makeFrame([exactInteger(1), 'low'], ENVIRONMENT)).value);
    return { codes: compiler.diagnostics.map(({ code }) => code), decide: decide0 };
  };
  const [text, date, number, yes] = [{ type: 'text' }, { type: 'date' }, { type: 'number' }, { type: 'yes-no' }];
  const texts = [['"b"'], ['"a"'], ['"c"']];
  const dates = [['@"2027-02-01"'], ['@"2027-01-01"']];

  test.each<[string, HitPolicy, readonly Output[], readonly (readonly string[])[], string[], string]>([
    ['sum of texts', 'C+', [text], texts, ['decision/aggregate'], 'null'],
    ['sum of dates', 'C+', [date], dates, ['decision/aggregate'], 'null'],
    ['sum of two outputs', 'C+', [number, number], [['1', '2']], ['decision/one-output'], 'null'],
    ['greatest of yes and no', 'C>', [yes], [['true']], ['decision/aggregate'], 'null'],
    ['greatest text (DMN 1.3, 10.3.4.4, max)', 'C>', [text], texts, [], '"c"'],
    ['least text', 'C<', [text], texts, [], '"a"'],
    ['greatest date', 'C>', [date], dates, [], '2027-02-01'],
    ['least date', 'C<', [date], dates, [], '2027-01-01'],
    ['number of texts', 'C#', [text], texts, [], '3'],
    ['priority without an order', 'P', [text], texts, ['decision/no-priorities'], '"b"'],
    ['output order without an order', 'O', [text], texts, ['decision/no-priorities'], '["b", "a", "c"]'],
    ['priority in the order of the values', 'P', [{ ...text, values: ['c', 'b', 'a'] }], texts, [], '"c"'],
    ['output order in the order of the values', 'O', [{ ...text, values: ['c', 'b', 'a'] }], texts, [], '["c", "b", "a"]'],
  ])('%s', (_name, policy, outputs, cells, codes, expected) => {
    const compiled = compiledOf(policy, outputs, cells);
    expect([compiled.codes, compiled.decide()]).toEqual([codes, expected]);
  });

  test('a number of rules has a number for its default', () => {
    expect(compiledOf('C#', [{ type: 'text', default: '0' }], []).codes).toEqual([]);
    expect(compiledOf('C#', [{ type: 'text', default: '"none"' }], []).codes).toEqual(['expression/wrong-result']);
  });
});

test('a table that is compiled when it is first asked decides as one that was compiled at once', () => {
  const table = readTable({
    key: 'table',
    name: 'Table',
    hitPolicy: 'F',
    inputs: [{ name: 'Age', expression: 'age' }],
    outputs: [{ key: 'out', name: 'Out', type: 'number', default: '7' }],
    rules: [{ when: ['> 17'], then: ['1'] }],
  });
  const [now, later] = (['whole', 'as-needed'] as const).map((compiling) => {
    const compiler = new ExpressionCompiler(compiling);
    return compileDecision(table, 'decisionTables.0', scope, compiler);
  });
  if (!now || !later) throw new Error();
  for (const age of [exactInteger(18), exactInteger(3), null]) {
    const frame = makeFrame([age, 'low'], ENVIRONMENT);
    expect(show(later.evaluate(frame))).toBe(show(now.evaluate(frame)));
    expect(decide(later, frame)).toEqual(decide(now, frame));
  }
  expect(later.reads.map(({ node }) => node.kind)).toEqual(now.reads.map(({ node }) => node.kind));
  expect([later.inputs.length, later.rules.length, later.defaults.length]).toEqual([
    now.inputs.length,
    now.rules.length,
    now.defaults.length,
  ]);
});

describe('a table is tried on a row of inputs', () => {
  const table = readTable({
    key: 'table',
    name: 'Table',
    hitPolicy: 'C',
    inputs: [
      { name: 'Years', expression: 'age + 1' },
      { name: 'Risk', expression: 'risk' },
    ],
    outputs: [{ key: 'out', name: 'Out', type: 'number' }],
    rules: [
      { when: ['>= 18', '-'], then: ['age'] },
      { when: ['-', 'not("high")'], then: ['2'] },
      { when: ['< 5', '"low"'], then: ['3'] },
    ],
  });
  const tried = (...given: readonly Value[]) => tryDecision(table, given, scope, [exactInteger(7), 'high'], ENVIRONMENT);

  test('each test of each rule; which rules fire; what it comes to, by the record’s values', () => {
    const found = tried(exactInteger(18), 'low');
    expect(found.rules).toEqual([
      { cells: [true, true], fires: true },
      { cells: [true, true], fires: true },
      { cells: [false, true], fires: false },
    ]);
    expect(show(found.decision.value)).toBe('[7, 2]');
  });

  test('nothing given is unknown to a test of order', () => {
    expect(tried(null, 'high').rules.map(({ cells }) => cells)).toEqual([
      [null, true],
      [true, false],
      [null, false],
    ]);
  });

  test('the types of its inputs; a faulty one has none', () => {
    expect(typingsOfInputs(table, scope).map((own) => own?.type.kind)).toEqual(['number', 'text']);
    expect(typingsOfInputs({ inputs: [{ key: 'a', name: 'A', expression: 'gone' }] }, scope)).toEqual([null]);
  });
});
