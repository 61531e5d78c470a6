import { expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { CLERK, smallCompiled, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { fillForm } from '../flow/enter-input.ts';
import { actorIn, newScript, type RehearsalWorld, replay } from './replay.ts';
import { withSource } from './source.ts';

// A loan opens a report, whose form reads the loan through the link back to it.
const loan = smallCompiled({
  key: 'loan',
  fields: [
    { type: 'text', key: 'borrower' },
    { type: 'text', key: 'inner', treatment: 'hidden' },
  ],
});
const report = compileWorkflow(
  smallWorkflow({
    key: 'report',
    fields: [
      { type: 'reference', key: 'of', workflow: 'loan' },
      { type: 'text', key: 'who', expression: 'of.borrower' },
      { type: 'text', key: 'within', expression: 'of.inner' },
    ],
    handOffs: { send: { otherwise: { to: 'work' } } },
  }),
  (key) => (key === 'loan' ? loan.definition : null),
);
const record = {
  ...replay(loan, newScript(loan), { person: { id: 'me', name: 'Me', email: null }, outside: OUTSIDE }).record,
  stage: 'work',
  values: { borrower: 'Hollen Street Gallery', inner: 'not for everybody' },
};
const world: RehearsalWorld = {
  person: { id: 'me', name: 'Me', email: null },
  outside: OUTSIDE,
  source: { workflow: loan, record },
};
const script = { ...newScript(report), start: { of: record.id } };

/** What the report's form shows to somebody in a role: who borrows, and what is hidden in the loan. */
function shownTo(role: string | null): readonly unknown[] {
  const actor = actorIn(report, role, world);
  const outside = withSource(world.outside, world.source ?? null, actor);
  const { form } = fillForm(report, { ...replay(report, script, world).record, assignee: null }, {}, actor, outside);
  return ['who', 'within'].map((key) => form.frame.slots[report.forms.fieldByKey.get(key)?.slot ?? -1]);
}

test('an opened record reads the one that opened it as far as whoever acts may: fields that are hidden there stay empty', () => {
  expect(shownTo('clerk')).toEqual(['Hollen Street Gallery', null]);
});

test('a role that may not see the record reads nothing of it, nor its number', () => {
  expect(shownTo('chief')).toEqual([null, null]);
  const outside = withSource(OUTSIDE, world.source ?? null, { ...CLERK, roles: ['chief'] });
  expect([outside.findRecord('loan', record.id), outside.findRecordNumber(record.id)]).toEqual([null, null]);
});

test('another record, the same id in another workflow, and a rehearsal that nothing opened read as before', () => {
  const outside = withSource(OUTSIDE, world.source ?? null, CLERK);
  expect([outside.findRecord('loan', 'other'), outside.findRecord('report', record.id)]).toEqual([null, null]);
  expect(withSource(OUTSIDE, null, CLERK)).toBe(OUTSIDE);
});
