import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { CLERK, faultsIn, handedOn, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import fc from 'fast-check';
import { chooseMember } from './assign.ts';
import { mayAct } from './permissions.ts';
import { makeOutside } from './record.ts';

const outside = makeOutside({
  ...OUTSIDE,
  findMember: (id) =>
    id === 'clara' ? { id, name: 'Clara', roles: ['clerk'] } : id === 'cora' ? { id, name: 'Cora', roles: ['chief'] } : null,
});

describe('an assignment to nobody who may act leaves the record with the stage’s roles, and says why', () => {
  const workflow = smallCompiled({
    fields: [{ type: 'text', key: 'who' }],
    stages: { work: { assignment: { kind: 'member', expression: 'who' } } },
  });

  test.each([
    ['clara', { kind: 'member', member: 'clara' }, undefined],
    ['', null, 'nobody'],
    ['nobody at all', null, 'unknown-member'],
    ['cora', null, 'without-role'],
  ])('“%s”', (who, assignee, unassigned) => {
    const { record, events } = handedOn(workflow, recordOf(workflow), 'send', { who }, undefined, outside);
    expect([record.assignee, events[0]?.type === 'handed-on' ? events[0].unassigned : null]).toEqual([assignee, unassigned]);
    const stage = workflow.definition.stages.find(({ key }) => key === 'work');
    expect(stage && mayAct(stage, record, CLERK)).toBe(true);
  });

  test('a role that an expression names must be one of the workflow’s', () => {
    const byRole = (expression: string) => ({ stages: { work: { assignment: { kind: 'role-of', expression } } } });
    expect(faultsIn(byRole('"clrk"'))).toEqual(['stages.work.assignment.expression: expression/unknown-option-near']);
    expect(faultsIn(byRole('"clerk"'))).toEqual([]);
    expect(faultsIn({ ...byRole('who'), fields: [{ type: 'text', key: 'who' }] })).toEqual([
      'stages.work.assignment.expression: expression/not-an-option',
    ]);
  });
});

describe('a role’s work that is one member’s', () => {
  const candidates = [
    { id: 'cora', roles: ['clerk'], load: 2, lastAt: '2026-11-02T00:00:00Z' },
    { id: 'clara', roles: ['clerk'], load: 5, lastAt: '2026-11-01T00:00:00Z' },
    { id: 'abe', roles: ['chief'], load: 0, lastAt: null },
    { id: 'dora', roles: ['clerk'], load: 2, lastAt: '2026-11-03T00:00:00Z' },
  ];
  const assigned = (assignment: object, among = candidates) => {
    const workflow = smallCompiled({ stages: { work: { assignment } } });
    const world = makeOutside({ ...OUTSIDE, findCandidates: () => among });
    const { record, events } = handedOn(workflow, recordOf(workflow), 'send', {}, undefined, world);
    return [record.assignee, events[0]?.type === 'handed-on' ? (events[0].unassigned ?? null) : null];
  };
  const to = (member: string) => [{ kind: 'member', member }, null];

  test('falls to the one to whom it last fell longest ago, or who has least and whose turn it is', () => {
    expect(assigned({ kind: 'role', role: 'clerk', share: 'in-turn' })).toEqual(to('clara'));
    expect(assigned({ kind: 'role', role: 'clerk', share: 'least-loaded' })).toEqual(to('cora'));
    expect(assigned({ kind: 'role-of', expression: '"clerk"', share: 'least-loaded' })).toEqual(to('cora'));
    expect(assigned({ kind: 'role', role: 'clerk' })).toEqual([{ kind: 'role', role: 'clerk' }, null]);
  });

  test('never to somebody who may not act there; to whom it is left when nobody fits, and that is told', () => {
    const onlyChief = candidates.filter(({ id }) => id === 'abe');
    const share = { kind: 'role', role: 'clerk', share: 'in-turn' };
    expect(assigned(share, onlyChief)).toEqual([null, 'nobody']);
    expect(assigned({ ...share, otherwise: 'chief' }, onlyChief)).toEqual([{ kind: 'role', role: 'chief' }, 'nobody']);
    expect(assigned({ kind: 'member', expression: '"nobody"', otherwise: 'clerk' })).toEqual([
      { kind: 'role', role: 'clerk' },
      'unknown-member',
    ]);
  });

  test('whatever the order in which they come, to the same one; in turn everybody has it before anybody has it again', () => {
    const candidate = fc.record({
      id: fc.uuid(),
      roles: fc.constant(['clerk']),
      load: fc.nat(3),
      lastAt: fc.option(fc.constantFrom('a', 'b', 'c')),
    });
    fc.assert(
      fc.property(fc.uniqueArray(candidate, { minLength: 1, maxLength: 8, selector: ({ id }) => id }), (all) => {
        for (const share of ['in-turn', 'least-loaded'] as const)
          expect(chooseMember([...all].reverse(), share)).toEqual(chooseMember(all, share));
        let now = all.map((one) => ({ ...one, lastAt: null as string | null }));
        const order = all.map((_, turn) => {
          const next = chooseMember(now, 'in-turn');
          now = now.map((one) => (one.id === next?.id ? { ...one, lastAt: String(turn).padStart(3, '0') } : one));
          return next?.id;
        });
        expect(new Set(order).size).toBe(all.length);
      }),
    );
  });
});
