import { expect, test } from '@jest/globals';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { CLERK, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import type { Json } from '../shared/json.ts';
import { enterInput } from './enter-input.ts';
import { handOn } from './hand-on.ts';
import { projectForm } from './project-form.ts';

/** A computed field that shows only for dear things, and is made from a field that the stage hides. */
function design() {
  const sample = sampleWorkflow();
  const [first] = sample.fields;
  if (!first) throw new Error();
  return sampleWorkflow({
    fields: [
      ...sample.fields,
      { type: 'text', key: 'label', name: 'Label', section: 'what', treatment: 'hidden', expression: 'string(price) + outcome' },
    ],
    adjustments: [
      ...sample.adjustments,
      { key: 'labelled', name: 'Labelled', when: 'price > 100', stages: ['check'], fields: ['label'], treatment: 'read-only' },
    ],
    handOffs: sample.handOffs.map((own) =>
      own.key === 'send' ? { ...own, sets: [{ field: 'outcome', value: '"secret word"' }] } : own,
    ),
    checks: [],
  });
}

const buyer = person('bo', 'buyer');

test('a hidden computed field that only the server can work out tells nothing, and is asked for when it may come to be shown', () => {
  const { compiled, record } = begun(design());
  const sent = handOn(compiled, record, 'send', { thing: 'Lamp', kind: 'goods', price: '10' }, person('asker'), OUTSIDE);
  if (!sent.ok) throw new Error(JSON.stringify(sent.diagnostics));
  const there = sent.value.record;
  expect(there.values.outcome).toBe('secret word');
  const projected = (price: string | null) => {
    const entered = enterInput(compiled, there, price === null ? {} : { price }, buyer, OUTSIDE);
    if (!entered.ok) throw new Error(JSON.stringify(entered.diagnostics));
    return projectForm(compiled, entered.value, there, buyer);
  };
  const hidden = projected(null);
  expect(hidden.definition.fields.find(({ key }) => key === 'label')).toMatchObject({ expression: 'null' });
  expect(hidden.askAgainFor).toContain('price');
  expect(JSON.stringify(hidden)).not.toContain('secret word');
  const shown = projected('500');
  expect(shown.definition.fields.find(({ key }) => key === 'label')).toMatchObject({ expression: '"500secret word"' });
  expect(shown.askAgainFor).toContain('price');
});

test('what hides a cell is asked about again where something reads the cell', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'number', key: 'amount' },
      {
        type: 'table',
        key: 'rows',
        fields: [
          { type: 'number', key: 'n', name: 'N' },
          { type: 'text', key: 'shade', name: 'Shade' },
          { type: 'text', key: 'more', name: 'More' },
        ],
      },
    ],
    plan: { 'rows.more': { work: 'hidden' } },
    adjustments: [
      { key: 'a', name: 'A', when: 'row.n > amount', stages: ['work'], fields: ['rows.shade'], treatment: 'hidden' },
      { key: 'b', name: 'B', when: 'row.shade = "blue"', stages: ['work'], fields: ['rows.more'], treatment: 'optional' },
    ],
  });
  const rows = [{ id: 'r', values: { n: '0', shade: 'blue' } }];
  const record = recordOf(workflow, { amount: '-1', rows }, 'work');
  const entered = enterInput(workflow, record, {}, CLERK, OUTSIDE);
  if (!entered.ok) throw new Error(JSON.stringify(entered.diagnostics));
  const projected = projectForm(workflow, entered.value, record, CLERK);
  expect(JSON.stringify(projected.values)).not.toContain('blue');
  expect(projected.askAgainFor).toEqual(['amount', 'rows']);
});

test('a value that counts as empty while its field is hidden is asked for when the field comes to be shown', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'number', key: 'amount' },
      { type: 'text', key: 'shade' },
      { type: 'text', key: 'more', treatment: 'hidden' },
    ],
    adjustments: [
      { key: 'a', name: 'A', when: 'amount < 0', stages: ['work'], fields: ['shade'], treatment: 'hidden' },
      { key: 'b', name: 'B', when: 'shade = "blue"', stages: ['work'], fields: ['more'], treatment: 'optional' },
    ],
  });
  const projected = (values: Readonly<Record<string, Json>>) => {
    const record = recordOf(workflow, values, 'work');
    const entered = enterInput(workflow, record, {}, CLERK, OUTSIDE);
    if (!entered.ok) throw new Error(JSON.stringify(entered.diagnostics));
    return projectForm(workflow, entered.value, record, CLERK);
  };
  const hidden = projected({ amount: '-1', shade: 'blue' });
  expect(JSON.stringify(hidden.values)).not.toContain('blue');
  expect([hidden.withheld, hidden.askAgainFor]).toEqual([['shade'], ['amount', 'shade']]);
  const none = projected({ amount: '-1' });
  expect([none.withheld, none.askAgainFor]).toEqual([[], []]);
});

test('what a record has opened stays on the server: conditions over it arrive as what they come to', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'text', key: 'note' },
      { type: 'number', key: 'n' },
    ],
    adjustments: [{ key: 'late', name: 'Late', when: 'followUps.open > n', fields: ['note'], treatment: 'required' }],
    handOffs: { finish: { offeredWhen: 'followUps.open = 0' } },
    moreHandOffs: [{ key: 'mixed', from: 'work', offeredWhen: 'n > 3 and followUps.done = 2', otherwise: { to: 'done' } }],
  });
  const projected = (open: number, done: number) => {
    const record = { ...recordOf(workflow, { n: '1' }, 'work'), followUps: { open, done } };
    const entered = enterInput(workflow, record, {}, CLERK, OUTSIDE);
    if (!entered.ok) throw new Error(JSON.stringify(entered.diagnostics));
    const { definition, askAgainFor } = projectForm(workflow, entered.value, record, CLERK);
    return {
      offered: definition.handOffs.map(({ offeredWhen }) => offeredWhen),
      when: definition.adjustments[0]?.when,
      askAgainFor,
    };
  };
  expect(projected(2, 0)).toMatchObject({ offered: ['false', 'false'], when: 'true' });
  expect(projected(0, 2)).toMatchObject({ offered: ['true', 'n > 3'], when: 'false' });
  // What is entered here and compared with a count is asked about again.
  expect(projected(2, 0).askAgainFor).toContain('n');
});
