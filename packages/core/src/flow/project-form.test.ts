import { expect, test } from '@jest/globals';
import { begun, OUTSIDE, person, sampleWorkflow } from '@ypomet/testkit/sample-workflow';
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
