import { describe, expect, test } from '@jest/globals';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import { recordOf, type SmallParts, smallCompiled } from '@ypomet/testkit/small-workflow';
import type { RegisterRight } from '../model/workflow.ts';
import { onlookAt } from './onlook.ts';
import { maySee, registerRightOf } from './permissions.ts';
import { projectDesk, projectRegister, registerScope } from './register.ts';

// Who sees what of all records, and by what they can be searched (semantics 7: onlookers, readers follow the values).
const FIELDS = [
  { type: 'text', key: 'name' },
  { type: 'number', key: 'secret', confidentialTo: ['chief'] },
  { type: 'number', key: 'half', expression: 'secret / 2' },
  { type: 'number', key: 'n' },
  { type: 'number', key: 'double', expression: 'n * 2' },
  { type: 'yes-no', key: 'late', expression: 'back < today()' },
  { type: 'text', key: 'lateness', expression: 'if late then "late" else "in time"' },
  { type: 'date', key: 'back' },
  { type: 'text', key: 'sometimes' },
  { type: 'text', key: 'never' },
  { type: 'note', key: 'hint', text: 'Read this.' },
  {
    type: 'table',
    key: 'rows',
    fields: [
      { type: 'text', key: 'title', name: 'Title' },
      { type: 'number', key: 'cost', name: 'Cost' },
    ],
  },
];
const compiled = (clerk: RegisterRight, chief: RegisterRight = 'none', more: SmallParts = {}) =>
  smallCompiled({
    fields: FIELDS,
    roles: [
      { key: 'clerk', name: 'Clerk', register: clerk },
      { key: 'chief', name: 'Chief', register: chief },
    ],
    plan: { never: { work: 'hidden' }, 'rows.cost': { work: 'hidden' } },
    adjustments: [{ key: 'hide', name: 'Hide', when: 'n > 3', fields: ['sometimes'], stages: ['work'], treatment: 'hidden' }],
    ...more,
  });
const CLERK = person('clara', 'clerk');
const CHIEF = person('charles', 'chief');
const keysOf = (register: ReturnType<typeof projectRegister>): readonly string[] =>
  register?.definition.fields.map(({ key }) => key) ?? [];

describe('the right to a register', () => {
  test.each<[RegisterRight, RegisterRight, readonly string[], RegisterRight]>([
    ['none', 'none', ['clerk', 'chief'], 'none'],
    ['shown', 'none', ['clerk'], 'shown'],
    ['shown', 'all', ['clerk'], 'shown'],
    ['shown', 'all', ['clerk', 'chief'], 'all'],
    ['all', 'all', ['stranger'], 'none'],
  ])('clerks have %s, chiefs %s: holders of %j have %s', (clerk, chief, roles, right) => {
    expect(registerRightOf(compiled(clerk, chief).definition, { roles })).toBe(right);
  });

  test('lets its holders see every record, whoever has it; nobody else', () => {
    const { definition } = compiled('none', 'all');
    const record = recordOf(compiled('none', 'all'), {}, 'ask');
    expect([maySee(definition, record, CHIEF), maySee(definition, record, person('stranger'))]).toEqual([true, false]);
    expect(projectRegister(compiled('none'), CLERK)).toBeNull();
  });
});

describe('what their own stages show', () => {
  const register = projectRegister(compiled('shown'), CLERK);

  test('are the columns: nothing confidential, nothing made from it, nothing that no stage of theirs shows', () => {
    expect(keysOf(register)).toEqual(['name', 'n', 'double', 'late', 'lateness', 'back', 'sometimes', 'rows']);
    const rows = register?.definition.fields.find(({ key }) => key === 'rows');
    expect(rows?.type === 'table' && rows.fields.map(({ key }) => key)).toEqual(['title']);
  });

  test('are searched by where every record shows them and what is stored is what is shown', () => {
    expect(register?.searchable).toEqual(['name', 'n', 'double', 'back', 'rows']);
  });

  test('tell nothing of the design: no expressions, conditions', () => {
    const text = JSON.stringify(register?.definition);
    for (const secret of ['n * 2', 'today()', 'n > 3', 'secret', 'never']) expect(text).not.toContain(secret);
  });

  test('and what an adjustment hides in a record isn’t there', () => {
    const workflow = compiled('shown');
    const of = (n: string) =>
      onlookAt(workflow, recordOf(workflow, { n, sometimes: 'x' }, 'work'), CLERK, OUTSIDE)?.values.get('sometimes');
    expect([of('3'), of('4')]).toEqual(['x', undefined]);
  });
});

describe('every field', () => {
  const workflow = compiled('none', 'all');
  const register = projectRegister(workflow, CHIEF);

  test('is a column for its readers, hidden at stages or not', () => {
    expect(keysOf(register)).toEqual(FIELDS.filter(({ type }) => type !== 'note').map(({ key }) => key));
    expect(keysOf(projectRegister(compiled('all'), CLERK))).not.toContain('secret');
    expect(keysOf(projectRegister(compiled('all'), CLERK))).toContain('never');
  });

  test('is searched by unless the day it is looked at decides it', () => {
    expect(register?.searchable).toEqual(['name', 'secret', 'half', 'n', 'double', 'back', 'sometimes', 'never', 'rows']);
  });

  test('is shown in each record, the cells of rows too', () => {
    const values = { never: 'x', secret: '7', rows: [{ id: 'a', values: { title: 'Lamp', cost: '3' } }] };
    const seen = onlookAt(workflow, recordOf(workflow, values, 'work'), CHIEF, OUTSIDE);
    expect(seen?.values.get('never')).toBe('x');
    expect(JSON.stringify(seen?.values.get('rows'))).toContain('cost');
  });
});

test('what is made from what is made, sixty times over and twice each, is looked through at once', () => {
  const chain = Array.from({ length: 60 }, (_, index) => ({
    type: 'number',
    key: `c${index}`,
    ...(index < 2 ? {} : { expression: `c${index - 1} + c${index - 2}` }),
  }));
  const workflow = smallCompiled({
    fields: [...chain, { type: 'yes-no', key: 'late', expression: 'c59 > 1 and today() > @"2020-01-01"' }],
    roles: [
      { key: 'clerk', name: 'Clerk', register: 'all' },
      { key: 'chief', name: 'Chief' },
    ],
  });
  expect(projectRegister(workflow, CLERK)?.searchable).toEqual(chain.map(({ key }) => key));
});

test('conditions read what is searched by, and the record’s own facts; actors and follow-ups not', () => {
  const register = projectRegister(compiled('shown'), CLERK);
  if (!register) throw new Error('no register');
  expect([...registerScope(register).entries.keys()]).toEqual(['name', 'n', 'double', 'back', 'rows', 'record']);
});

describe('the desk', () => {
  test('is searched by what the stages of one’s roles show of every record, whatever right to the register there is', () => {
    for (const right of ['none', 'shown'] as const) {
      const desk = projectDesk(compiled(right), CLERK);
      expect(desk.right).toBe('shown');
      expect(desk.searchable).toEqual(projectRegister(compiled('shown'), CLERK)?.searchable);
      // What some records hide, what nobody shows, and what one may not read is searched by nobody.
      for (const key of ['sometimes', 'never', 'secret', 'half']) expect(desk.searchable).not.toContain(key);
    }
    expect(projectDesk(compiled('all'), CLERK).searchable).toEqual(projectRegister(compiled('all'), CLERK)?.searchable);
  });

  test('of somebody without a role there tells of no field', () => {
    const desk = projectDesk(compiled('all'), person('olga'));
    expect(desk.definition.fields).toEqual([]);
    expect([...registerScope(desk).entries.keys()]).toEqual(['record']);
  });
});
