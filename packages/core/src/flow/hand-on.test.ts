import { describe, expect, test } from '@jest/globals';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { answerOf, mailsOf } from '@ypomet/testkit/told';
import { describeEvent } from '../messages/describe.ts';
import { isFault } from '../shared/codes.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import type { Result } from '../shared/result.ts';
import { enterInput, type HandOffInput } from './enter-input.ts';
import type { HandedOn } from './events.ts';
import { handOn } from './hand-on.ts';
import { formatRecordNumber } from './open-record.ts';
import { mayAct, maySee } from './permissions.ts';
import { projectForm } from './project-form.ts';
import type { Actor, WorkflowRecord } from './record.ts';

const asker = person('asker');
const buyer = person('bea', 'buyer');
const ITEM = { thing: 'Lamp', kind: 'goods', price: '900.00' };

const { compiled, record } = begun();
const send = (values: HandOffInput, actor: Actor = asker): Result<HandedOn> =>
  handOn(compiled, record, 'send', values, actor, OUTSIDE);
const codes = (result: Result<HandedOn, readonly Diagnostic[]>): readonly string[] =>
  result.ok ? [] : result.diagnostics.map(({ path, code }) => `${path}: ${code}`);
const sent = (values: HandOffInput): WorkflowRecord => {
  const result = send(values);
  if (!result.ok) throw new Error(codes(result).join());
  return result.value.record;
};
const passOn = (values: HandOffInput, input: HandOffInput = {}): Result<HandedOn> =>
  handOn(compiled, sent(values), 'pass', input, buyer, OUTSIDE);

test('the sample has no faults', () => {
  expect(compiled.diagnostics.filter(isFault)).toEqual([]);
});

describe('what is entered', () => {
  test('required and empty, outside limits, against a check', () => {
    expect(codes(send({ thing: ' ', kind: 'old', price: '-1.005', delivery: '2020-01-01' }))).toEqual([
      'thing: form/required',
      'kind: form/retired-option',
      'price: form/below',
      'price: form/scale',
      'delivery: form/check',
    ]);
  });

  test('an adjustment asks for more, per record and per row', () => {
    const parts = [
      { id: 'a', values: { name: 'Bulb', amount: '10' } },
      { id: 'b', values: { name: 'Cable', amount: '1' } },
    ];
    expect(codes(send({ ...ITEM, price: '1000.01', parts }))).toEqual([
      'delivery: form/required',
      'parts[a].serial: form/required',
    ]);
    expect(codes(send({ ...ITEM, price: '1000.00' }))).toEqual([]);
  });

  test('an answer that is dropped because an adjustment hides it stands in the history, by its name alone', () => {
    const before = { ...record, values: { delivery: '2027-01-01' } };
    const result = handOn(compiled, before, 'send', { ...ITEM, kind: 'service' }, asker, OUTSIDE);
    if (!result.ok) throw new Error(codes(result).join());
    expect(result.value.record.values.delivery ?? null).toBeNull();
    const [event] = result.value.events;
    expect(event?.type === 'handed-on' && event.dropped).toEqual(['delivery']);
    const named = { type: 'handed-on', by: 'Ann', handOff: 'Send', from: 'Ask', to: 'Check', unassigned: null } as const;
    expect(describeEvent({ ...named, dropped: ['Delivery'] })).toBe(
      'Ann pressed “Send” at Ask. It went to Check. Dropped, as they are not asked for any more: Delivery.',
    );
    // Nothing was there: nothing is dropped.
    const without = handOn(compiled, record, 'send', { ...ITEM, kind: 'service' }, asker, OUTSIDE);
    expect(without.ok && 'dropped' in (without.value.events[0] ?? {})).toBe(false);
  });

  test('a field that an adjustment hides counts as empty and is cleared', () => {
    expect(codes(send({ ...ITEM, kind: 'service', delivery: '2027-01-01' }))).toEqual(['delivery: hand-off/may-not-enter']);
    const back = { ...record, values: { ...ITEM, kind: 'goods', delivery: '2027-01-01' } };
    const result = handOn(compiled, back, 'send', { kind: 'service' }, asker, OUTSIDE);
    expect(result.ok && result.value.record.values.delivery).toBeUndefined();
  });

  test.each<[string, HandOffInput, string]>([
    ['a computed field', { total: '1' }, 'total: hand-off/unknown-field'],
    ['a field hidden here, as if there were none', { outcome: 'x' }, 'outcome: hand-off/unknown-field'],
    ['an unknown field', { prise: '1' }, 'prise: hand-off/unknown-field'],
    ['a value of another type', { price: 12 }, 'price: value/wrong-type'],
  ])('%s is refused by name', (_name, values, expected) => {
    expect(codes(send({ ...ITEM, ...values }))).toContain(expected);
  });

  test('a confidential field is for its readers only', () => {
    const at = sent(ITEM);
    expect(codes(handOn(compiled, at, 'pass', { limit: '5' }, buyer, OUTSIDE))).toEqual(['limit: hand-off/unknown-field']);
    expect(codes(handOn(compiled, at, 'pass', { limit: '5' }, person('audrey', 'buyer', 'auditor'), OUTSIDE))).toEqual([]);
  });
});

describe('where it goes', () => {
  test('nothing is done to a record that isn’t there, by somebody who may not, or when it isn’t offered', () => {
    expect(codes(handOn(compiled, record, 'pass', {}, buyer, OUTSIDE))).toEqual(['pass: hand-off/not-here']);
    expect(codes(handOn(compiled, sent(ITEM), 'pass', {}, asker, OUTSIDE))).toEqual(['pass: hand-off/not-allowed']);
    const dear = { ...record, stage: 'sign', values: { ...ITEM, price: '100000.00' } };
    expect(codes(handOn(compiled, dear, 'sign', {}, person('bo', 'boss'), OUTSIDE))).toEqual(['sign: hand-off/not-offered']);
  });

  test('the gap between two branches refuses, naming the field and not its value', () => {
    const result = passOn({ ...ITEM, price: '1000.00' });
    expect(result.ok ? [] : result.diagnostics).toEqual([
      { code: 'hand-off/no-branch', path: 'pass', params: { handOff: 'Pass', fields: ['Price'] } },
    ]);
  });

  test('junctions chain at once, and the events say so', () => {
    const delivery = { delivery: '2027-01-01' };
    const result = passOn({ ...ITEM, ...delivery, price: '5000.00' });
    if (!result.ok) throw new Error(codes(result).join());
    expect(result.value.record).toMatchObject({ stage: 'sign', track: 'main', values: { outcome: 'passed' } });
    expect(result.value.events).toEqual([
      {
        type: 'handed-on',
        handOff: 'pass',
        from: 'check',
        to: 'sorting',
        branch: 'dearOne',
        track: 'main',
        changed: ['outcome'],
      },
      { type: 'passed-junction', stage: 'sorting', to: 'sign', branch: 'huge' },
    ]);
    expect(mailsOf(result.value).map(({ subject, body, to }) => [subject, body, to])).toEqual([
      ['Sign Lamp', '€5,000.00', [{ kind: 'role', role: 'boss' }]],
    ]);
  });

  test('junctions without end are a fault, not a hanging server', () => {
    const handOffs = sampleWorkflow().handOffs.map((one) =>
      one.key === 'sort' ? { ...one, branches: [], otherwise: { to: 'sorting', track: null } } : one,
    );
    const loop = begun(sampleWorkflow({ handOffs }));
    const at = { ...loop.record, stage: 'check', values: { ...ITEM, price: '2000.00' } };
    expect(codes(handOn(loop.compiled, at, 'pass', {}, buyer, OUTSIDE))).toEqual(['pass: hand-off/endless-junctions']);
  });

  test('policy single refuses when two branches hold', () => {
    const handOffs = sampleWorkflow().handOffs.map((one) =>
      one.key === 'pass'
        ? { ...one, policy: 'single', branches: one.branches.map((branch) => ({ ...branch, when: 'price > 0' })) }
        : one,
    );
    const single = begun(sampleWorkflow({ handOffs }));
    expect(
      codes(handOn(single.compiled, { ...single.record, stage: 'check', values: ITEM }, 'pass', {}, buyer, OUTSIDE)),
    ).toEqual(['pass: hand-off/two-branches']);
  });
});

describe('what follows', () => {
  const parts = [
    { id: 'a', values: { name: 'Bulb', amount: '60', serial: 'S1' } },
    { id: 'b', values: { name: 'Cable', amount: '1' } },
  ];

  test('deliveries that hold, the first acknowledgement that holds, a follow-up for each row that asks for one', () => {
    const result = send({ ...ITEM, parts });
    if (!result.ok) throw new Error(codes(result).join());
    const { followUps } = result.value;
    expect(mailsOf(result.value).map(({ delivery, subject, body, to }) => ({ delivery, subject, body, to }))).toEqual([
      { delivery: 'many', subject: 'Many Lamp', body: '122.0', to: [{ kind: 'address', address: 'asker@example.invalid' }] },
      {
        delivery: 'ever',
        subject: 'To Check',
        body: 'Bulb · 60.0 · S1 · 120.0\nCable · 1.0 · 2.0',
        to: [{ kind: 'member', member: 'asker' }],
      },
    ]);
    expect(answerOf(result.value)).toBe('Thanks for Lamp');
    expect(followUps).toEqual([
      {
        type: 'follow-up',
        followUp: 'each',
        name: 'Each',
        workflow: 'other',
        handOff: 'go',
        link: null,
        row: 'a',
        values: { label: 'Bulb' },
        assignee: null,
      },
    ]);
  });

  test('the same in gives the same out, and the record given is left as it was', () => {
    const before = JSON.stringify(record);
    expect(send({ ...ITEM, parts })).toEqual(send({ ...ITEM, parts }));
    expect(JSON.stringify(record)).toBe(before);
  });
});

describe('what a browser gets', () => {
  const project = (at: WorkflowRecord, actor: Actor, input: HandOffInput = {}) => {
    const entered = enterInput(compiled, at, input, actor, OUTSIDE);
    if (!entered.ok) throw new Error(codes(entered as never).join());
    return projectForm(compiled, entered.value, at, actor);
  };
  const at = { ...sent(ITEM), values: { ...ITEM, limit: '777', outcome: 'SECRET', delivery: '2027-01-01' } };

  test('neither hidden nor confidential values, nor conditions that give them away', () => {
    const text = JSON.stringify(project(at, buyer));
    expect(text).not.toContain('777');
    expect(text).not.toContain('SECRET');
    expect(text).not.toContain('"limit"');
    expect(project(at, buyer).askAgainFor).toEqual(['price']);
    expect(project(at, buyer).withheld).toEqual([]);
  });

  test('a reader of the confidential field gets it, and the condition whole', () => {
    const projected = project(at, person('audrey', 'buyer', 'auditor'));
    expect(projected.values.limit).toBe('777');
    expect(projected.definition.adjustments.map(({ when }) => when)).toEqual(['price > limit']);
    expect(projected.askAgainFor).toEqual([]);
  });

  test('the value of a computed cell is sent only where the cell is shown', () => {
    const base = sampleWorkflow();
    const fields = base.fields.map((field) =>
      field.type === 'table'
        ? {
            ...field,
            fields: [
              ...field.fields,
              { type: 'number', key: 'share', name: 'Share', scale: 2, expression: 'row.amount * limit', discloses: true },
            ],
          }
        : field,
    );
    const show = {
      key: 'shares',
      name: 'Shares of many',
      when: 'row.amount >= 10',
      stages: ['check'],
      fields: ['parts.share'],
      treatment: 'read-only',
    };
    const plan = { ...base.plan, 'parts.share': { ask: 'hidden', check: 'hidden' } };
    const own = begun(sampleWorkflow({ fields, plan, adjustments: [...base.adjustments, show] }));
    expect(own.compiled.diagnostics.filter(isFault)).toEqual([]);
    const parts = [
      { id: 'a', values: { name: 'Many', amount: '20' } },
      { id: 'b', values: { name: 'Few', amount: '3' } },
    ];
    const here: WorkflowRecord = { ...own.record, stage: 'check', values: { ...ITEM, limit: '7919', parts } };
    const entered = enterInput(own.compiled, here, {}, buyer, OUTSIDE);
    if (!entered.ok) throw new Error('refused');
    const text = JSON.stringify(projectForm(own.compiled, entered.value, here, buyer));
    expect(text).toContain('158380');
    expect(text).not.toContain('23757');
    expect(text).not.toContain('"7919"');
  });

  test('only hand-offs that the actor may press', () => {
    expect(project(at, buyer).definition.handOffs.map(({ key }) => key)).toEqual(['pass']);
    expect(project(at, person('bo', 'boss')).definition.handOffs).toEqual([]);
  });
});

describe('who may', () => {
  const stage = (key: string) => compiled.stages.get(key)?.stage as never;

  test('the role of the stage, or whoever it is assigned to, and then they alone', () => {
    const at = sent(ITEM);
    expect(mayAct(stage('check'), at, buyer)).toBe(true);
    expect(mayAct(stage('check'), at, asker)).toBe(false);
    const assigned: WorkflowRecord = { ...at, assignee: { kind: 'member', member: 'ben' } };
    expect(mayAct(stage('check'), assigned, buyer)).toBe(false);
    expect(mayAct(stage('check'), assigned, person('ben'))).toBe(true);
    expect(mayAct(stage('check'), { ...at, assignee: { kind: 'role', role: 'boss' } }, person('bo', 'boss'))).toBe(true);
  });

  test('the submitter sees it, a stranger doesn’t', () => {
    expect(maySee(compiled.definition, record, asker)).toBe(true);
    expect(maySee(compiled.definition, record, person('stranger'))).toBe(false);
  });
});

test('running numbers follow the analyst’s pattern', () => {
  // Half past midnight in Vienna is the old year still in UTC.
  const newYear = { now: Date.parse('2026-12-31T23:30:00Z'), zone: 'Europe/Vienna' };
  expect(formatRecordNumber('L-{year}-{number:4}', 42, newYear)).toBe('L-2027-0042');
  expect(formatRecordNumber('{number}/{year}', 12345, { ...newYear, zone: 'UTC' })).toBe('12345/2026');
});
