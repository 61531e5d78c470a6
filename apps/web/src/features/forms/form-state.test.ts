import { describe, expect, test } from '@jest/globals';
import { compileWorkflow, type Form, openRecord } from '@ypomet/core';
import { ENTERED, randomValues, randomWorkflow } from '@ypomet/testkit/random-workflow';
import { begun, OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import fc from 'fast-check';
import { advanceFormState, type Entered, type FormGiven, type FormState, makeFormState } from './form-state.ts';

const shown = ({ form, unreadable }: FormState) => ({
  slots: form.frame.slots,
  decided: treatments(form),
  unreadable: [...unreadable].sort(),
});
const treatments = (form: Form) => form.decided.map((one) => `${one.treatment} by ${one.by?.adjustment.key ?? 'the plan'}`);

describe('a form that is filled in', () => {
  test('comes to the same step by step as evaluated whole, over random workflows and entries', () => {
    const step = fc.record({ keys: fc.subarray([...ENTERED], { minLength: 1 }), values: randomValues });
    fc.assert(
      fc.property(randomWorkflow, randomValues, fc.array(step, { maxLength: 6 }), (workflow, stored, steps) => {
        const compiled = compileWorkflow(workflow);
        const actor = person('wim', 'worker');
        const record = { ...openRecord(compiled, 'ask', 'r1', 1, actor, OUTSIDE), stage: 'work', values: stored };
        const given: FormGiven = { workflow: compiled, record, actor, outside: OUTSIDE };
        let entered: Entered = {};
        let state: FormState | null = null;
        for (const { keys, values } of steps) {
          entered = { ...entered, ...Object.fromEntries(keys.map((key) => [key, values[key] ?? null])) };
          state = advanceFormState(state, given, entered);
          expect(shown(state)).toEqual(shown(makeFormState(given, entered)));
        }
      }),
      { numRuns: 200 },
    );
  });

  const given = (): FormGiven => {
    const { compiled, record } = begun();
    return { workflow: compiled, record, actor: person('ann'), outside: OUTSIDE };
  };

  test('says of an entry that can’t be read why, until it can', () => {
    const of = given();
    const first = advanceFormState(null, of, { price: 'many' });
    expect([...first.unreadable].map(([key, [unread]]) => [key, unread?.code])).toEqual([['price', 'value/wrong-type']]);
    const second = advanceFormState(first, of, { price: '12' });
    expect([...second.unreadable]).toEqual([]);
  });

  test('without a change is the same object; an entry taken back, or another record, is evaluated whole', () => {
    const of = given();
    const entered = { price: '12' };
    const first = advanceFormState(null, of, entered);
    expect(advanceFormState(first, of, entered)).toBe(first);
    expect(shown(advanceFormState(first, of, {}))).toEqual(shown(makeFormState(of, {})));
    const moved = { ...of, record: { ...of.record, values: { price: '7' } } };
    expect(shown(advanceFormState(first, moved, entered))).toEqual(shown(makeFormState(moved, entered)));
  });

  test('evaluates again only what depends on what was entered', () => {
    const of = given();
    const first = advanceFormState(null, of, { price: '12' });
    const second = advanceFormState(first, of, { price: '12', reason: 'because' });
    const same = second.form.decided.filter((one, slot) => one === first.form.decided[slot]).length;
    expect(same).toBeGreaterThan(second.form.decided.length / 2);
  });
});
