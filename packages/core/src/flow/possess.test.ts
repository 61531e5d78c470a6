import { describe, expect, test } from '@jest/globals';
import { OUTSIDE, person } from '@ypomet/testkit/sample-workflow';
import { ASKER, CHIEF, CLERK, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { mayGiveBack, mayHandOver, mayTake, type Possession, possess } from './possess.ts';
import type { Actor, Assignee, Outside } from './record.ts';

// Who has the work at a stage may change hands without the record's moving.
const OTHER = person('olga', 'clerk');
const STRANGER = person('sven', 'visitor');
const people = [CLERK, CHIEF, OTHER, STRANGER];
const outside: Outside = { ...OUTSIDE, findMember: (id) => people.find((one) => one.id === id) ?? null };
const workflowOf = (assignment: object | null) => smallCompiled({ stages: { work: { assignment } } });
const byRole = workflowOf(null);
const member = ({ id }: Actor): Assignee => ({ kind: 'member', member: id });

function try_(possession: Possession, actor: Actor, assignee: Assignee | null = null, workflow = byRole, stage = 'work') {
  const result = possess(workflow, { ...recordOf(workflow, {}, stage), assignee }, possession, actor, outside);
  return result.ok
    ? { assignee: result.value.record.assignee, event: result.value.event }
    : result.diagnostics.map(({ code }) => code);
}

describe('taking', () => {
  test('what a role has becomes one’s own; the record stays where it is', () => {
    expect(try_({ kind: 'take' }, CLERK)).toEqual({ assignee: member(CLERK), event: { type: 'taken', stage: 'work' } });
    expect(try_({ kind: 'take' }, CHIEF, { kind: 'role', role: 'chief' })).toMatchObject({ assignee: member(CHIEF) });
  });
  test('so does what a colleague of the role has: they may be away', () => {
    expect(try_({ kind: 'take' }, OTHER, member(CLERK))).toMatchObject({ assignee: member(OTHER) });
  });
  test.each<[string, Actor, Assignee | null, ReturnType<typeof workflowOf>, string]>([
    ['one’s own', CLERK, member(CLERK), byRole, 'work'],
    ['what another role has', CLERK, { kind: 'role', role: 'chief' }, byRole, 'work'],
    ['without a role of the stage', STRANGER, null, byRole, 'work'],
    [
      'what the design gives to a member by name',
      OTHER,
      member(CLERK),
      workflowOf({ kind: 'member', expression: '"clara"' }),
      'work',
    ],
    ['what is at its end', CLERK, null, byRole, 'done'],
    ['the submitter’s', ASKER, null, byRole, 'ask'],
  ])('not %s', (_, actor, assignee, workflow, stage) => {
    expect(try_({ kind: 'take' }, actor, assignee, workflow, stage)).toEqual(['work/not-to-take']);
  });
});

describe('giving back', () => {
  test('to the stage’s roles, or to the role that the design names', () => {
    expect(try_({ kind: 'give-back' }, CLERK, member(CLERK))).toEqual({
      assignee: null,
      event: { type: 'given-back', stage: 'work' },
    });
    const shared = workflowOf({ kind: 'role', role: 'chief', share: 'in-turn' });
    expect(try_({ kind: 'give-back' }, CHIEF, member(CHIEF), shared)).toMatchObject({
      assignee: { kind: 'role', role: 'chief' },
    });
  });
  test('not what one doesn’t have, nor what the design gives to a member by name', () => {
    expect(try_({ kind: 'give-back' }, OTHER, member(CLERK))).toEqual(['work/not-yours']);
    expect(try_({ kind: 'give-back' }, CLERK, null)).toEqual(['work/not-yours']);
    const named = workflowOf({ kind: 'member', expression: '"clara"' });
    expect(try_({ kind: 'give-back' }, CLERK, member(CLERK), named)).toEqual(['work/not-yours']);
  });
});

describe('handing over', () => {
  test('to a colleague who may act there, of what is one’s own or one’s role’s', () => {
    expect(try_({ kind: 'hand-over', to: 'olga' }, CLERK, member(CLERK))).toEqual({
      assignee: member(OTHER),
      event: { type: 'handed-over', stage: 'work', member: 'olga' },
    });
    expect(try_({ kind: 'hand-over', to: 'olga' }, CLERK)).toMatchObject({ assignee: member(OTHER) });
  });
  test.each([
    ['to nobody who is known', 'nobody'],
    ['to somebody without a role of the stage', 'sven'],
    ['to oneself', 'clara'],
  ])('not %s', (_, to) => {
    expect(try_({ kind: 'hand-over', to }, CLERK, member(CLERK))).toEqual(['work/cannot-act']);
  });
  test('not what others have', () => {
    expect(try_({ kind: 'hand-over', to: 'olga' }, CHIEF, member(CLERK))).toEqual(['work/not-yours']);
    expect(try_({ kind: 'hand-over', to: 'olga' }, STRANGER)).toEqual(['work/not-yours']);
  });
});

test('what is offered is what is allowed', () => {
  const stage = byRole.stages.get('work')?.stage;
  if (!stage) throw new Error('no stage');
  for (const actor of [CLERK, CHIEF, OTHER, STRANGER])
    for (const assignee of [null, member(CLERK), { kind: 'role', role: 'chief' } as const]) {
      const record = { ...recordOf(byRole, {}, 'work'), assignee };
      const allowed = (possession: Possession) => possess(byRole, record, possession, actor, outside).ok;
      expect([mayTake(stage, record, actor), mayGiveBack(stage, record, actor)]).toEqual([
        allowed({ kind: 'take' }),
        allowed({ kind: 'give-back' }),
      ]);
      const to = actor === OTHER ? 'clara' : 'olga';
      expect(mayHandOver(stage, record, actor)).toBe(allowed({ kind: 'hand-over', to }));
    }
});
