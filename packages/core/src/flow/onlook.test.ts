import { describe, expect, test } from '@jest/globals';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import { ASKER, CHIEF, CLERK, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { onlookAt, projectOnlook } from './onlook.ts';

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
