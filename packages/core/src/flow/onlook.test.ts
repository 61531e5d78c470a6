import { describe, expect, test } from '@jest/globals';
import { realSizeWorkflow } from '@ypomet/testkit/real-size';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import { ASKER, CHIEF, CLERK, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import fc from 'fast-check';
import { decidedOf, evaluateForm } from '../forms/evaluate-form.ts';
import type { Json } from '../shared/json.ts';
import { compileWorkflow } from './compile-workflow.ts';
import { onlookAt, projectOnlook } from './onlook.ts';
import { blankRecord } from './open-record.ts';
import { mayRead } from './permissions.ts';
import { readStoredValues, systemValues } from './record.ts';

// Semantics 7: what somebody sees of a record that others have.
const fields = [
  { type: 'text', key: 'title' },
  { type: 'text', key: 'care', treatment: 'hidden' },
  { type: 'text', key: 'secret', confidentialTo: ['chief'] },
  { type: 'number', key: 'count', expression: 'string length(care)', treatment: 'read-only' },
  {
    type: 'table',
    key: 'rows',
    fields: [
      { type: 'text', key: 'a', name: 'A' },
      { type: 'text', key: 'b', name: 'B' },
    ],
  },
];
const parts = {
  fields,
  plan: { care: { work: 'optional' }, 'rows.b': { ask: 'hidden' } },
  moreStages: [{ key: 'sign', kind: 'work', roles: ['chief'] }],
  moreHandOffs: [{ key: 'signed', from: 'sign', otherwise: { to: 'done' } }],
};
const values = { title: 'Lamp', care: 'brittle', secret: '42', rows: [{ id: 'r', values: { a: '1', b: '2' } }] };

const seenBy = (who: typeof ASKER, submitterSees: object = {}, stage = 'sign') => {
  const workflow = smallCompiled({ ...parts, submitterSees });
  return projectOnlook(workflow, recordOf(workflow, values, stage), who, OUTSIDE)?.values ?? null;
};

describe('the submitter, at a stage of others', () => {
  test('sees what the intake showed, and not the notes of those who have it', () => {
    expect(seenBy(ASKER)).toEqual({ title: 'Lamp', count: '7', rows: [{ id: 'r', values: { a: '1' } }] });
  });

  test('sees otherwise what the plan’s column says, whole or by cell', () => {
    expect(seenBy(ASKER, { title: 'hidden', care: 'shown', 'rows.a': 'hidden', 'rows.b': 'shown' })).toEqual({
      care: 'brittle',
      count: '7',
      rows: [{ id: 'r', values: { b: '2' } }],
    });
    expect(seenBy(ASKER, { rows: 'hidden' })).not.toHaveProperty('rows');
  });

  test('never sees what is confidential, whatever the column says', () => {
    expect(seenBy(ASKER, { secret: 'shown' })).not.toHaveProperty('secret');
  });
});

describe('others', () => {
  test('who acts at another stage sees what that stage shows', () => {
    expect(seenBy(CLERK)).toEqual({ title: 'Lamp', care: 'brittle', count: '7', rows: values.rows });
  });

  test('a reader sees confidential values too', () => {
    expect(seenBy(CHIEF)).toHaveProperty('secret', '42');
  });

  test('a stranger sees nothing at all', () => {
    const workflow = smallCompiled(parts);
    expect(onlookAt(workflow, recordOf(workflow, values, 'sign'), person('stranger'), OUTSIDE)).toBeNull();
  });
});

test('the form of an onlooker holds no expression, no condition and no name of what isn’t shown', () => {
  const workflow = smallCompiled({
    ...parts,
    adjustments: [{ key: 'x', name: 'Fragile things', when: 'care = "brittle"', fields: ['title'], treatment: 'nudged' }],
  });
  const text = JSON.stringify(projectOnlook(workflow, recordOf(workflow, values, 'sign'), ASKER, OUTSIDE));
  expect(text).not.toMatch(/care|brittle|string length|secret|Fragile/);
});

describe('a large workflow', () => {
  const workflow = compileWorkflow(realSizeWorkflow({ stages: 12, fields: 90, conditions: 160 }));
  const { forms, definition } = workflow;
  const roles = definition.roles.map(({ key }) => key);
  const valueFor = (type: string, seed: number): Json => {
    if (type === 'number' || type === 'money') return String(seed % 1000);
    if (type === 'text') return `t${seed % 7}`;
    if (type === 'choice') return `o${seed % 6}`;
    return type === 'yes-no' ? seed % 2 === 0 : null;
  };

  test('shows what the forms of one’s stages show, as each of them evaluated whole says', () => {
    fc.assert(
      fc.property(
        fc.array(fc.nat(10_000), { minLength: 90, maxLength: 90 }),
        fc.subarray(roles),
        fc.nat(11),
        (seeds, own, at) => {
          const values = Object.fromEntries(
            definition.fields.flatMap((field, index) => {
              const json = valueFor(field.type, seeds[index] ?? 0);
              return json === null || (seeds[index] ?? 0) % 5 === 0 ? [] : [[field.key, json]];
            }),
          );
          const stage = definition.stages[at]?.key ?? '';
          const record = { ...blankRecord(workflow, stage, 'r', 1, ASKER, OUTSIDE), values };
          const actor = { id: 'a', name: 'A', email: null, roles: own };
          const onlook = onlookAt(workflow, record, actor, OUTSIDE);
          if (!onlook) return;
          const given = {
            stored: readStoredValues(forms, record.values, OUTSIDE),
            input: new Map(),
            due: new Set<number>(),
            system: systemValues(forms, record, actor, OUTSIDE),
            environment: OUTSIDE,
          };
          const theirs = definition.stages.filter(
            ({ kind, roles: acting }) => kind !== 'junction' && acting.some((role) => own.includes(role)),
          );
          const whole = theirs.map(({ key }) => evaluateForm(forms, key, given));
          const shown = forms.fields.filter((of) => whole.some((form) => decidedOf(form, of).treatment !== 'hidden'));
          const readable = shown.filter(({ field }) => mayRead(forms, field.key, actor)).map(({ field }) => field.key);
          expect([...onlook.values.keys()]).toEqual(readable);
        },
      ),
      { numRuns: 60 },
    );
  });
});
