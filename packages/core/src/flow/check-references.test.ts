import { describe, expect, test } from '@jest/globals';
import { type SmallParts, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { describeDiagnostic } from '../messages/describe.ts';
import { compileWorkflow } from './compile-workflow.ts';

/** The workflow that is referred to: the chief works there. */
const cars = (parts: SmallParts = {}) => ({
  ...smallWorkflow({ stages: { work: { roles: ['chief'] } }, ...parts }),
  key: 'car',
  name: 'Cars',
});

const warned = (parts: SmallParts, other = cars()): readonly string[] =>
  compileWorkflow(smallWorkflow(parts), (key) => (key === 'car' ? other : null))
    .diagnostics.filter(({ code }) => code === 'readers/reference')
    .map((one) => `${one.path}: ${describeDiagnostic(one)}`);

const car = { type: 'reference', key: 'car', name: 'Car', workflow: 'car' };

describe('a reference shown to a role that may not see the records it leads to', () => {
  test('is a warning that names the stage, the role and what stays empty', () => {
    expect(warned({ fields: [car] })).toEqual([
      'fields.car: At Work, Clerk may not see the records of Cars: Car, and what is read through it, stays empty for them.',
    ]);
  });

  test('in a cell of a table, too', () => {
    const rows = { type: 'table', key: 'rows', name: 'Rows', fields: [car] };
    expect(warned({ fields: [rows] })).toEqual([expect.stringContaining('Cars: Rows, and what is read')]);
  });

  test.each<[string, SmallParts, ReturnType<typeof cars>]>([
    ['the plan hides it there', { fields: [car], plan: { car: { work: 'hidden' } } }, cars()],
    ['the role works on those records', { fields: [car] }, cars({ stages: { work: { roles: ['clerk'] } } })],
    ['the role has their register', { fields: [car] }, cars({ roles: [{ key: 'clerk', name: 'Clerk', register: 'shown' }] })],
    ['the stage is the submitter’s', { fields: [car], stages: { work: { roles: [] } } }, cars()],
  ])('isn’t one where %s', (_, parts, other) => {
    expect(warned(parts, other)).toEqual([]);
  });
});
