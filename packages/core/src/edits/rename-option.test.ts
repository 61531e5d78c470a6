import { expect, test } from '@jest/globals';
import { parseWorkflow } from '../model/read-workflow.ts';
import type { Workflow } from '../model/workflow.ts';
import { findPart } from '../structure/places.ts';
import { applyEdit } from './apply-edit.ts';

// A new code of an option is followed wherever the option is given as a value, not only where the field is compared with it.

const options = [
  { code: 'a', label: 'A' },
  { code: 'b', label: 'B' },
];
const field = (key: string, more: object) => ({ key, name: key, type: 'choice', options, section: 'main', ...more });
const shop = parseWorkflow({
  format: 'ypomet.workflow/1',
  key: 'shop',
  name: 'Shop',
  roles: [{ key: 'clerk', name: 'Clerk' }],
  sections: [{ key: 'main', name: 'Main' }],
  fields: [
    field('sort', { treatment: 'optional', default: '"a"' }),
    field('other', { treatment: 'optional', default: '"a"' }),
    field('made', { expression: 'if sort = "a" then "a" else "b"' }),
    field('tags', { type: 'multi-choice', treatment: 'optional', default: '["a", "b"]' }),
    {
      type: 'table',
      key: 'rows',
      name: 'Rows',
      section: 'main',
      treatment: 'optional',
      fields: [{ key: 'cell', name: 'Cell', type: 'choice', options, default: '"a"' }],
    },
  ],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
    { key: 'end', name: 'End', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    {
      key: 'send',
      name: 'Send',
      from: 'ask',
      otherwise: { to: 'end' },
      sets: [
        { key: 's1', field: 'sort', value: 'if tags = ["a"] then "a" else "b"' },
        { key: 's2', field: 'other', value: '"a"' },
      ],
      followUps: [
        {
          key: 'again',
          name: 'Again',
          workflow: 'shop',
          handOff: 'send',
          carried: [{ key: 'c1', field: 'sort', value: '"a"' }],
        },
      ],
    },
  ],
  tests: [
    {
      key: 't',
      name: 'T',
      intake: 'ask',
      start: { sort: 'a', other: 'a' },
      steps: [
        {
          key: 'one',
          handOff: 'send',
          entered: { tags: ['b', 'a'], other: 'a', rows: [{ id: 'r', values: { cell: 'a' } }] },
        },
      ],
    },
  ],
});
if (!shop.ok) throw new Error(JSON.stringify(shop.diagnostics));

const before = shop.value;
const ALONE = { findWorkflow: () => null };

/** The workflow with a part's key, or an option's code, renamed to `z`. Undoing the renaming must restore the workflow. */
function renamed(part: string): Workflow {
  const edited = applyEdit(before, { type: 'rename-key', part, key: 'z' }, ALONE);
  if (!edited.ok) throw new Error(JSON.stringify(edited.diagnostics));
  const undone = applyEdit(edited.value.definition, edited.value.inverse, ALONE);
  expect(undone.ok && undone.value.definition).toEqual(before);
  return edited.value.definition;
}

test.each<[option: string, place: string, property: string, expected: string]>([
  ['fields.sort.options.a', 'fields.sort', 'default', '"z"'],
  ['fields.sort.options.a', 'fields.made', 'expression', 'if sort = "z" then "a" else "b"'],
  ['fields.sort.options.a', 'fields.other', 'default', '"a"'],
  ['fields.sort.options.a', 'handOffs.send.sets.s1', 'value', 'if tags = ["a"] then "z" else "b"'],
  ['fields.sort.options.a', 'handOffs.send.sets.s2', 'value', '"a"'],
  ['fields.sort.options.a', 'handOffs.send.followUps.again.carried.c1', 'value', '"z"'],
  ['fields.made.options.a', 'fields.made', 'expression', 'if sort = "a" then "z" else "b"'],
  ['fields.tags.options.a', 'fields.tags', 'default', '["z", "b"]'],
  ['fields.tags.options.a', 'handOffs.send.sets.s1', 'value', 'if tags = ["z"] then "a" else "b"'],
  ['fields.rows.fields.cell.options.a', 'fields.rows.fields.cell', 'default', '"z"'],
])('after %s has another code, %s has this %s: %s', (option, place, property, expected) => {
  expect(findPart(renamed(option), place)?.part[property]).toBe(expected);
});

test('kept tests give the new code for the field of the option alone, in lists and in rows', () => {
  const [kept] = renamed('fields.sort.options.a').tests;
  expect(kept?.start).toEqual({ sort: 'z', other: 'a' });
  expect(renamed('fields.tags.options.a').tests[0]?.steps[0]?.entered).toMatchObject({ tags: ['b', 'z'], other: 'a' });
  const rows = renamed('fields.rows.fields.cell.options.a').tests[0]?.steps[0]?.entered.rows;
  expect(rows).toEqual([{ id: 'r', values: { cell: 'z' } }]);
});

test('rows of kept tests follow the new key of a sub-field', () => {
  const rows = renamed('fields.rows.fields.cell').tests[0]?.steps[0]?.entered.rows;
  expect(rows).toEqual([{ id: 'r', values: { z: 'a' } }]);
});
