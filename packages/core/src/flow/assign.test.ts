import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { CLERK, faultsIn, handedOn, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
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
