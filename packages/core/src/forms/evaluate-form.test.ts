import { describe, expect, test } from '@jest/globals';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import fc from 'fast-check';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { readStoredValues, systemValues } from '../flow/record.ts';
import type { Json } from '../shared/json.ts';
import { readExact } from '../values/exact.ts';
import { readDate } from '../values/temporal.ts';
import type { Value } from '../values/value.ts';
import { decidedOf, effectiveValueOf, enterValue, evaluateForm, type Form } from './evaluate-form.ts';

const { compiled, record } = begun();
const { forms } = compiled;
const field = (key: string) => {
  const found = forms.fieldByKey.get(key);
  if (!found) throw new Error(key);
  return found;
};
const open = (values = {}): Form =>
  evaluateForm(forms, 'ask', {
    stored: readStoredValues(forms, values, OUTSIDE),
    input: new Map(),
    due: new Set<number>(),
    system: systemValues(forms, record, person('asker'), OUTSIDE),
    environment: OUTSIDE,
  });
const treatment = (form: Form, key: string) => decidedOf(form, field(key)).treatment;
const price = (text: string): Value => readExact(text);

describe('adjustments are statements of state', () => {
  test('they hold while their condition holds, and fall back by themselves', () => {
    const form = open();
    expect(treatment(form, 'delivery')).toBe('optional');
    const dear = enterValue(form, field('price'), price('1000.01'));
    expect(treatment(dear, 'delivery')).toBe('required');
    expect(decidedOf(dear, field('delivery')).by?.adjustment.key).toBe('dear');
    expect(treatment(enterValue(dear, field('price'), price('1000')), 'delivery')).toBe('optional');
  });

  test('the first in listed order decides', () => {
    const form = enterValue(enterValue(open(), field('price'), price('2000')), field('kind'), 'service');
    expect(treatment(form, 'delivery')).toBe('hidden');
  });

  test('what they hide counts as empty; what is stored comes back with them', () => {
    const form = enterValue(open({ delivery: '2027-01-01' }), field('kind'), 'service');
    expect(effectiveValueOf(form, field('delivery'))).toBeNull();
    const back = enterValue(form, field('kind'), 'goods');
    expect(effectiveValueOf(back, field('delivery'))).toEqual(readDate('2027-01-01'));
  });
});

describe('what nobody can enter at a stage has its stored value, whatever is decided for it', () => {
  const adjustments = [
    { key: 'told', name: 'Told', when: 'outcome != null', stages: ['check'], fields: ['outcome'], treatment: 'read-only' },
    { key: 'a', name: 'A', when: 'thing = null', stages: ['check'], fields: ['kind'], treatment: 'hidden' },
    { key: 'b', name: 'B', when: 'kind = null', stages: ['check'], fields: ['thing'], treatment: 'hidden' },
    { key: 'c', name: 'C', when: 'row.serial = null', stages: ['check'], fields: ['parts.serial'], treatment: 'hidden' },
  ];
  const { forms: own, diagnostics } = compileWorkflow(sampleWorkflow({ adjustments }));
  const at = (key: string) => own.fieldByKey.get(key) as NonNullable<ReturnType<typeof own.fieldByKey.get>>;
  const check = (values: Record<string, Json>): Form =>
    evaluateForm(own, 'check', {
      stored: readStoredValues(own, values, OUTSIDE),
      input: new Map(),
      due: new Set<number>(),
      system: systemValues(own, { ...record, stage: 'check' }, person('buyer'), OUTSIDE),
      environment: OUTSIDE,
    });

  test('so conditions may read the field that they show, or each other’s', () => {
    expect(diagnostics).toEqual([]);
    const filled = check({ outcome: 'Agreed', thing: 'Lamp', kind: 'goods' });
    expect(['outcome', 'thing', 'kind'].map((key) => decidedOf(filled, at(key)).treatment)).toEqual([
      'read-only',
      'read-only',
      'read-only',
    ]);
    const empty = check({ kind: 'goods' });
    expect(['outcome', 'thing', 'kind'].map((key) => decidedOf(empty, at(key)).treatment)).toEqual([
      'hidden',
      'read-only',
      'hidden',
    ]);
    expect(effectiveValueOf(empty, at('kind'))).toBe('goods');
  });

  test('the same in a row', () => {
    const parts = [
      { id: 'x', values: { name: 'Foot', serial: 'S1' } },
      { id: 'y', values: { name: 'Shade' } },
    ];
    const { rows } = check({ parts });
    const serial = at('parts').subFields.findIndex(({ field }) => field.key === 'serial');
    const treatments = [...(rows.get(at('parts').slot) ?? [])].map(([id, cells]) => [id, cells[serial]?.treatment]);
    expect(treatments).toEqual([
      ['x', 'read-only'],
      ['y', 'hidden'],
    ]);
  });

  test('where it can be entered it would be a circle', () => {
    const hidesItself = { key: 'a', name: 'A', when: 'delivery = null', fields: ['delivery'], treatment: 'hidden' };
    const codes = (change: object) =>
      compileWorkflow(sampleWorkflow({ adjustments: [{ ...hidesItself, ...change }] })).diagnostics.map(({ code }) => code);
    expect(codes({ stages: ['ask'] })).toEqual(['form/cycle']);
    expect(codes({ stages: ['check'], treatment: 'optional' })).toEqual(['form/cycle']);
    expect(codes({ stages: ['check'] })).toEqual([]);
  });
});

describe('laws', () => {
  const change = fc.oneof(
    fc.tuple(fc.constant('price'), fc.option(fc.constantFrom('0', '999.99', '1000', '1000.01', '5000').map(price))),
    fc.tuple(fc.constant('kind'), fc.option(fc.constantFrom('goods', 'service'))),
    fc.tuple(fc.constant('delivery'), fc.option(fc.constant(readDate('2027-01-01')))),
    fc.tuple(
      fc.constant('parts'),
      fc.array(fc.tuple(fc.constantFrom('1', '9.9', '10', '60'), fc.option(fc.constant('S'))), { maxLength: 3 }).map((rows) =>
        rows.map(
          ([amount, serial], index): Value => ({
            kind: 'context',
            id: `r${index}`,
            entries: { name: 'n', amount: readExact(amount), serial, double: null },
          }),
        ),
      ),
    ),
  ) as fc.Arbitrary<readonly [string, Value]>;

  test('evaluating after each change equals evaluating the whole', () => {
    fc.assert(
      fc.property(fc.array(change, { maxLength: 8 }), (changes) => {
        let form = open();
        for (const [key, value] of changes) form = enterValue(form, field(key), value);
        const whole = evaluateForm(forms, 'ask', form.given);
        expect(form.frame.slots).toEqual(whole.frame.slots);
        expect(form.decided.map((one) => one.treatment)).toEqual(whole.decided.map((one) => one.treatment));
        const rows = (one: Form) =>
          [...one.rows].map(([slot, byRow]) => [slot, [...byRow].map(([id, list]) => [id, list.map((own) => own.treatment)])]);
        expect(rows(form)).toEqual(rows(whole));
      }),
      { numRuns: 300 },
    );
  });

  test('the order in which things are entered doesn’t matter', () => {
    fc.assert(
      fc.property(fc.uniqueArray(change, { selector: ([key]) => key }), (changes) => {
        const enter = (list: typeof changes) => list.reduce((form, [key, value]) => enterValue(form, field(key), value), open());
        expect(enter(changes).frame.slots).toEqual(enter([...changes].reverse()).frame.slots);
      }),
      { numRuns: 200 },
    );
  });
});

describe('the cells of a table of which the plan says nothing', () => {
  const { plan } = sampleWorkflow();
  const adjustments = [
    { key: 'shown', name: 'Shown', when: 'price > 5', stages: ['ask'], fields: ['parts'], treatment: 'required' },
  ];
  const withPlan = (cells: object): Form => {
    const hidden = { ...plan, parts: { ask: 'hidden' }, 'parts.name': cells, 'parts.serial': {} };
    const { forms: own, diagnostics } = compileWorkflow(sampleWorkflow({ adjustments, plan: hidden }));
    expect(diagnostics).toEqual([]);
    const input = new Map<number, Value>([[own.fieldByKey.get('price')?.slot ?? -1, price('10')]]);
    const rows = [{ kind: 'context' as const, id: 'a', entries: {} }];
    input.set(own.fieldByKey.get('parts')?.slot ?? -1, rows);
    const stored = readStoredValues(own, {}, OUTSIDE);
    return evaluateForm(own, 'ask', {
      stored,
      input,
      due: new Set<number>(),
      system: systemValues(own, record, person('asker'), OUTSIDE),
      environment: OUTSIDE,
    });
  };
  const cellsOf = (form: Form) => {
    const parts = form.forms.fieldByKey.get('parts');
    const decided = form.rows.get(parts?.slot ?? -1)?.get('a') ?? [];
    return Object.fromEntries((parts?.subFields ?? []).map(({ field: own, index }) => [own.key, decided[index]?.treatment]));
  };

  test('follow an adjustment of the table: one that is shown is never without columns', () => {
    expect(cellsOf(withPlan({}))).toMatchObject({ name: 'optional', serial: 'optional' });
  });

  test('stay as the plan says where it says something', () => {
    expect(cellsOf(withPlan({ ask: 'hidden' }))).toMatchObject({ name: 'hidden', serial: 'optional' });
  });
});
