import { describe, expect, test } from '@jest/globals';
import { faultsIn, handedOn, recordOf, type SmallParts, smallCompiled, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { parseWorkflow } from '../model/read-workflow.ts';
import type { Workflow } from '../model/workflow.ts';
import { checkSurroundings, deliveriesOf } from './check-consequences.ts';

// Which records a hand-off opens and with which values, and what is told of it at design (semantics 5).
const target = (more: SmallParts = {}): Workflow =>
  smallWorkflow({
    key: 'other',
    name: 'Other',
    fields: [
      { type: 'text', key: 'title' },
      { type: 'number', key: 'size' },
      { type: 'money', key: 'worth', currency: 'EUR' },
      { type: 'choice', key: 'kind', options: [{ code: 'a', label: 'A' }] },
      { type: 'file', key: 'papers' },
      { type: 'sign-off', key: 'signed' },
      { type: 'reference', key: 'from', workflow: 'small' },
      { type: 'date', key: 'day' },
      {
        type: 'table',
        key: 'parts',
        fields: [
          { type: 'text', key: 'name', name: 'Name' },
          { type: 'file', key: 'photo', name: 'Photo' },
        ],
      },
    ],
    ...more,
  });
const others = (...workflows: readonly Workflow[]) => {
  const known = new Map(workflows.map((one) => [one.key, one]));
  return (key: string): Workflow | null => known.get(key) ?? null;
};

const FIELDS = [
  { type: 'text', key: 'title' },
  { type: 'number', key: 'count' },
  { type: 'date', key: 'day' },
  { type: 'file', key: 'papers' },
  {
    type: 'table',
    key: 'things',
    fields: [
      { type: 'text', key: 'name', name: 'Name' },
      { type: 'number', key: 'size', name: 'Size', scale: 2 },
      { type: 'file', key: 'photo', name: 'Photo' },
    ],
  },
];
const PAPER = { name: 'a.pdf', mediaType: 'application/pdf', bytes: 3, sha256: 'a'.repeat(64) };
const THINGS = [
  { id: 'x', values: { name: 'Lamp', size: '1.5' } },
  { id: 'y', values: { name: 'Vase', size: '12' } },
  { id: 'z', values: { name: 'Urn' } },
];
const followUp = (more: object) => ({ key: 'f', name: 'F', workflow: 'other', handOff: 'send', ...more });

function opened(followUps: readonly object[], values: object, more: object = {}) {
  const parts = { fields: FIELDS, handOffs: { send: { followUps, ...more } } };
  const workflow = smallCompiled(parts, others(target()));
  return handedOn(workflow, { ...recordOf(workflow), values: values as never }, 'send').followUps;
}

describe('what is opened', () => {
  test('one, or one for each row, the row’s values by `row`', () => {
    const carried = [
      { field: 'title', value: 'row.name' },
      { field: 'size', value: 'row.size * 2' },
    ];
    const records = opened([followUp({ perRow: 'things', carried })], { things: THINGS });
    expect(records.map(({ row, values }) => [row, values])).toEqual([
      ['x', { title: 'Lamp', size: '3' }],
      ['y', { title: 'Vase', size: '24' }],
      ['z', { title: 'Urn', size: null }],
    ]);
  });

  test('only for the rows whose condition holds; one that is unknown doesn’t', () => {
    const records = opened([followUp({ perRow: 'things', when: 'row.size > 2' })], { things: THINGS });
    expect(records.map(({ row }) => row)).toEqual(['y']);
  });

  test.each<[string, object]>([
    ['no rows', { things: [] }],
    ['no table', {}],
    ['a table that is null', { things: null }],
  ])('%s opens none', (_, values) => {
    expect(opened([followUp({ perRow: 'things' })], values)).toEqual([]);
  });

  test('all that hold, or the first that holds', () => {
    const list = [
      followUp({ key: 'never', when: 'count > 99' }),
      followUp({ key: 'first', when: 'count > 1' }),
      followUp({ key: 'second' }),
    ];
    const keys = (policy: string) => opened(list, { count: '5' }, { followUpPolicy: policy }).map(({ followUp: key }) => key);
    expect([keys('all'), keys('first')]).toEqual([['first', 'second'], ['first']]);
  });

  test('the first may be one for each row: all its rows', () => {
    const list = [followUp({ key: 'rows', perRow: 'things' }), followUp({ key: 'one' })];
    const records = opened(list, { things: THINGS }, { followUpPolicy: 'first' });
    expect(records.map(({ followUp: key, row }) => [key, row])).toEqual([
      ['rows', 'x'],
      ['rows', 'y'],
      ['rows', 'z'],
    ]);
  });
});

describe('what is carried', () => {
  const carriedTo = (field: string, value: string, values: object, more: object = {}) =>
    opened([followUp({ carried: [{ field, value }], ...more })], values)[0]?.values[field];

  test.each<[string, string, string, object, unknown]>([
    ['a text', 'title', 'title', { title: 'Lamp' }, 'Lamp'],
    ['a text that is made', 'title', '"for " + title', { title: 'Lamp' }, 'for Lamp'],
    ['a number, read again as the target’s', 'worth', 'count / 3', { count: '1' }, '0.33'],
    ['a day', 'day', 'day + duration("P1D")', { day: '2027-02-28' }, '2027-03-01'],
    ['a leap day', 'day', 'day + duration("P1D")', { day: '2028-02-28' }, '2028-02-29'],
    ['nothing', 'title', 'title', {}, null],
    ['what can’t be worked out', 'size', 'count / 0', { count: '1' }, null],
    ['a code as its code', 'kind', '"a"', {}, 'a'],
  ])('%s', (_, field, value, values, expected) => {
    expect(carriedTo(field, value, values)).toEqual(expected);
  });

  test('files stay, unless the follow-up says otherwise', () => {
    expect(carriedTo('papers', 'papers', { papers: [PAPER] })).toBeUndefined();
    expect(carriedTo('papers', 'papers', { papers: [PAPER] }, { carriesFiles: true })).toEqual([PAPER]);
  });

  test('rows have the target’s columns and their own ids; files in them stay', () => {
    const things = [{ id: 'x', values: { name: 'Lamp', size: '1', photo: [PAPER] } }];
    expect(carriedTo('parts', 'things', { things })).toEqual([{ id: 'x', values: { name: 'Lamp', photo: null } }]);
    expect(carriedTo('parts', 'things', { things }, { carriesFiles: true })).toEqual([
      { id: 'x', values: { name: 'Lamp', photo: [PAPER] } },
    ]);
  });

  test('some rows, in their order', () => {
    expect(carriedTo('parts', 'things[size > 1]', { things: THINGS })).toEqual([
      { id: 'x', values: { name: 'Lamp', photo: null } },
      { id: 'y', values: { name: 'Vase', photo: null } },
    ]);
  });

  test('it is as the record is after the hand-off’s own set-values', () => {
    const sets = [{ field: 'title', value: '"set"' }];
    const records = opened([followUp({ carried: [{ field: 'title', value: 'title' }] })], { title: 'before' }, { sets });
    expect(records[0]?.values).toEqual({ title: 'set' });
  });
});

describe('who has it', () => {
  const assigneeOf = (assignee: object | null, values: object = {}) => opened([followUp({ assignee })], values)[0]?.assignee;

  test('a role, a member an expression names, or whoever may act', () => {
    expect(assigneeOf({ kind: 'role', role: 'clerk' })).toEqual({ kind: 'role', role: 'clerk' });
    expect(assigneeOf({ kind: 'member', expression: 'title' }, { title: ' m-1 ' })).toEqual({ kind: 'member', member: 'm-1' });
    expect(assigneeOf({ kind: 'member', expression: 'title' }, { title: ' ' })).toBeNull();
    expect(assigneeOf({ kind: 'member', expression: 'title' })).toBeNull();
    expect(assigneeOf(null)).toBeNull();
  });
});

describe('what is told at design', () => {
  const faults = (followUps: readonly object[], ...known: readonly Workflow[]) =>
    faultsIn({ fields: FIELDS, handOffs: { send: { followUps } } }, others(...known));
  const at = 'handOffs.send.followUps.f';

  test('a follow-up that fits', () => {
    expect(faults([followUp({ carried: [{ field: 'title', value: 'title' }], link: 'from' })], target())).toEqual([]);
  });

  test('files that would be left behind', () => {
    const carried = [{ field: 'papers', value: 'papers' }];
    expect(faults([followUp({ carried })], target())).toEqual([`${at}.carried.papers: follow-up/keeps-files`]);
    expect(faults([followUp({ carried, carriesFiles: true })], target())).toEqual([]);
  });

  test('a role that its workflow doesn’t have', () => {
    const fault = [`${at}.assignee: follow-up/unknown-role`];
    expect(faults([followUp({ assignee: { kind: 'role', role: 'clark' } })], target())).toEqual(fault);
  });

  test('what its entry requires and nothing gives', () => {
    const fields = [
      { type: 'text', key: 'title', treatment: 'required' },
      { type: 'text', key: 'other', treatment: 'required' },
      { type: 'text', key: 'filled', treatment: 'required', default: '"x"' },
      { type: 'number', key: 'made', treatment: 'required', expression: '1' },
      { type: 'text', key: 'later', treatment: 'required' },
    ];
    const plan = { later: { ask: 'hidden' } };
    const lacking = (carried: readonly object[], more: SmallParts = {}) => {
      const find = others(target({ fields, plan, ...more }));
      return smallCompiled({ fields: FIELDS, handOffs: { send: { followUps: [followUp({ carried })] } } }, find)
        .diagnostics.filter(({ code }) => code === 'follow-up/lacks')
        .map(({ params }) => params.fields);
    };
    const title = { field: 'title', value: 'title' };
    expect(lacking([])).toEqual([['title', 'other']]);
    expect(lacking([title])).toEqual([['other']]);
    expect(lacking([title, { field: 'other', value: '"y"' }])).toEqual([]);
    expect(lacking([], { handOffs: { send: { checking: 'none' } } })).toEqual([]);
  });
});

describe('the outlets and members there are', () => {
  const definition = smallWorkflow({
    handOffs: {
      send: {
        deliveries: [
          { kind: 'web', key: 'ask', name: 'Ask', outlet: 'insurer' },
          { kind: 'file', key: 'keep', name: 'Keep', outlet: 'archive', fileName: 'f' },
        ],
      },
    },
    stages: {
      work: {
        onArrival: {
          deliveries: [
            {
              kind: 'mail',
              key: 'tell',
              name: 'Tell',
              to: [{ key: 'one', kind: 'member', member: 'm1' }],
              cc: [{ key: 'two', kind: 'member', member: 'm2' }],
              bcc: [{ key: 'three', kind: 'member', member: 'm3' }],
              replyTo: [{ key: 'four', kind: 'member', member: 'm4' }],
              subject: 's',
              body: 'b',
            },
          ],
        },
      },
    },
  });
  const found = (outlets: Readonly<Record<string, 'mail' | 'web' | 'file'>>, members: readonly string[] | null) =>
    checkSurroundings(definition, {
      outlets: Object.entries(outlets),
      members,
      nextPages: [],
      openings: [],
    }).map(({ path, code }) => `${path}: ${code}`);
  const ALL = { mail: 'mail', insurer: 'web', archive: 'file' } as const;

  test('each delivery has its path', () => {
    expect(deliveriesOf(definition).map(({ path }) => path)).toEqual([
      'handOffs.send.deliveries.ask',
      'handOffs.send.deliveries.keep',
      'stages.work.onArrival.deliveries.tell',
    ]);
  });

  test('all there', () => {
    expect(found(ALL, ['m1', 'm2', 'm3', 'm4'])).toEqual([]);
    expect(found(ALL, null)).toEqual([]);
  });

  test('an outlet that is gone, or of another kind', () => {
    expect(found({ mail: 'mail', insurer: 'file' }, null)).toEqual([
      'handOffs.send.deliveries.ask.outlet: delivery/other-outlet',
      'handOffs.send.deliveries.keep.outlet: delivery/unknown-outlet',
    ]);
  });

  test('a member who is gone, wherever in the head of a mail', () => {
    const tell = 'stages.work.onArrival.deliveries.tell';
    expect(found(ALL, ['m2'])).toEqual([
      `${tell}.to.one: delivery/unknown-member`,
      `${tell}.bcc.three: delivery/unknown-member`,
      `${tell}.replyTo.four: delivery/unknown-member`,
    ]);
  });
});

test('a set-value that names a member in quotes names one who is there, never a name', () => {
  const read = parseWorkflow({
    format: 'ypomet.workflow/1',
    key: 'w',
    name: 'W',
    sections: [{ key: 'all', name: 'All' }],
    tracks: [{ key: 'main', name: 'Main' }],
    fields: [
      { type: 'member', key: 'keeper', name: 'Keeper', section: 'all' },
      { type: 'text', key: 'note', name: 'Note', section: 'all' },
    ],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
      {
        key: 'done',
        name: 'Done',
        kind: 'end',
        tracks: ['main'],
        onArrival: { sets: [{ key: 'b', field: 'keeper', value: '"Carla Wendt"' }] },
      },
    ],
    handOffs: [
      {
        key: 'send',
        name: 'Send',
        from: 'ask',
        otherwise: { to: 'done' },
        sets: [
          { key: 'a', field: 'keeper', value: '"m1"' },
          { key: 'c', field: 'keeper', value: 'actor.id' },
          { key: 'd', field: 'note', value: '"Carla Wendt"' },
        ],
      },
    ],
  });
  if (!read.ok) throw new Error(JSON.stringify(read.diagnostics));
  const told = (members: readonly string[] | null) =>
    checkSurroundings(read.value, { outlets: [], members, nextPages: [], openings: [] }).map(
      ({ path, code }) => `${path}: ${code}`,
    );
  expect(told(['m1'])).toEqual(['stages.done.onArrival.sets.b.value: set/unknown-member']);
  expect(told(null)).toEqual([]);
});
