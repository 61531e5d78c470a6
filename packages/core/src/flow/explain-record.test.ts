import { describe, expect, test } from '@jest/globals';
import { show } from '@ypomet/testkit/evaluate';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { printExpression } from '../expressions/print.ts';
import type { Explanation } from '../index.ts';
import { enterInput } from './enter-input.ts';
import { explainFields, explainHandOffs, type HandOffReason } from './explain-record.ts';
import type { WorkflowRecord } from './record.ts';

const { compiled, record } = begun();
const buyer = person('bea', 'buyer');
const ITEM = { thing: 'Lamp', kind: 'goods', price: '900.00' };

function formAt(stage: string, values: WorkflowRecord['values']) {
  const entered = enterInput(compiled, { ...record, stage, values }, {}, buyer, OUTSIDE);
  if (!entered.ok) throw new Error(JSON.stringify(entered.diagnostics));
  return entered.value;
}
const handOffsAt = (stage: string, values: WorkflowRecord['values']): readonly HandOffReason[] =>
  explainHandOffs(compiled, formAt(stage, values), { ...record, stage, values }, buyer, OUTSIDE);

/** An explanation as lines: each part with its value. */
const lines = ({ node, value, parts }: Explanation, depth = 0): readonly string[] => [
  `${'  '.repeat(depth)}${printExpression(node)} = ${show(value)}`,
  ...parts.flatMap((part) => lines(part, depth + 1)),
];

describe('why a hand-off leads where it leads', () => {
  const outcomes = (reason: HandOffReason | undefined) =>
    reason?.ways[0]?.branches.map(({ key, truth, outcome }) => [key, truth, outcome]);

  test('the first branch that holds is taken, later ones are not tried', () => {
    const [pass] = handOffsAt('check', { ...ITEM, price: '900.00' });
    expect(outcomes(pass)).toEqual([
      ['cheap', true, 'taken'],
      ['dearOne', false, 'not-tried'],
    ]);
    expect(pass?.leadsTo).toBe('done');
    expect(pass?.ways[0]?.otherwise).toBeNull();
  });

  test('in the gap between two branches nothing is taken and it leads nowhere', () => {
    const [pass] = handOffsAt('check', { ...ITEM, price: '1000.00' });
    expect(outcomes(pass)).toEqual([
      ['cheap', false, 'passed-over'],
      ['dearOne', false, 'passed-over'],
    ]);
    expect(pass?.leadsTo).toBeNull();
  });

  test('an unknown condition is passed over, and says that it is unknown', () => {
    const [pass] = handOffsAt('check', { thing: 'Lamp' });
    expect(outcomes(pass)).toEqual([
      ['cheap', null, 'passed-over'],
      ['dearOne', null, 'passed-over'],
    ]);
  });

  test('otherwise', () => {
    const [sort] = handOffsAt('sorting', ITEM);
    expect(sort?.ways[0]?.otherwise).toEqual({ to: 'done', outcome: 'taken' });
    expect(sort?.leadsTo).toBe('done');
    const [send] = handOffsAt('ask', ITEM);
    expect(send).toMatchObject({ leadsTo: 'check', offered: { truth: true, explanation: null } });
    expect(send?.ways[0]?.branches).toEqual([]);
  });

  test('whether it is offered', () => {
    const [sign] = handOffsAt('sign', { ...ITEM, price: '100000.00' });
    expect(sign?.offered.truth).toBe(false);
    expect(sign?.offered.explanation && lines(sign.offered.explanation)).toEqual([
      'price < 100000 = false',
      '  price = 100000',
      '  100000 = 100000',
    ]);
  });

  test('clause by clause, each with what it read', () => {
    const branches = [{ key: 'b', name: 'B', when: '(price > 1000 or kind = "service") and not(thing = null)', to: 'done' }];
    const handOffs = sampleWorkflow().handOffs.map((one) => (one.key === 'pass' ? { ...one, branches } : one));
    const own = begun(sampleWorkflow({ handOffs }));
    const entered = enterInput(own.compiled, { ...own.record, stage: 'check', values: ITEM }, {}, buyer, OUTSIDE);
    if (!entered.ok) throw new Error('refused');
    const [pass] = explainHandOffs(own.compiled, entered.value, { ...own.record, stage: 'check', values: ITEM }, buyer, OUTSIDE);
    const explanation = pass?.ways[0]?.branches[0]?.explanation;
    expect(explanation && lines(explanation)).toEqual([
      '(price > 1000 or kind = "service") and not(thing = null) = false',
      '  price > 1000 or kind = "service" = false',
      '    price > 1000 = false',
      '      price = 900',
      '      1000 = 1000',
      '    kind = "service" = false',
      '      kind = "goods"',
      '      "service" = "service"',
      '  not(thing = null) = true',
      '    thing = null = false',
      '      thing = "Lamp"',
      '      null = null',
    ]);
  });
});

describe('why a field is treated as it is', () => {
  const reasonFor = (values: WorkflowRecord['values'], field: string) =>
    explainFields(formAt('ask', values)).find((one) => one.field === field);

  test('the adjustments that cover it, in order, and the one that decides', () => {
    const dear = reasonFor({ ...ITEM, price: '1000.01' }, 'delivery');
    expect(dear).toMatchObject({ treatment: 'required', planned: 'optional' });
    expect(dear?.adjustments.map(({ adjustment, truth, decides }) => [adjustment.key, truth, decides])).toEqual([
      ['noDelivery', false, false],
      ['dear', true, true],
    ]);
  });

  test('two that hold: the first decides', () => {
    const both = reasonFor({ ...ITEM, kind: 'service', price: '2000.00' }, 'delivery');
    expect(both?.adjustments.map(({ truth, decides }) => [truth, decides])).toEqual([
      [true, true],
      [true, false],
    ]);
    expect(both?.treatment).toBe('hidden');
  });

  test('a field that no adjustment covers has no reason but the plan', () => {
    expect(reasonFor(ITEM, 'thing')).toBeUndefined();
  });
});
