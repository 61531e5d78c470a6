import { describe, expect, test } from '@jest/globals';
import { findPart, type HandedOn } from '@ypomet/core';
import { handedOn, recordOf, type SmallParts, smallCompiled } from '@ypomet/testkit/small-workflow';
import { cameTo, compiledDelivery, type Item, listGroups, listsOf, outcomesOf, regroup } from './listing.ts';

const PARTS: SmallParts = {
  fields: [
    { type: 'number', key: 'n' },
    { type: 'text', key: 'address' },
    { type: 'table', key: 'rows', fields: [{ type: 'text', key: 'name', name: 'Name' }] },
  ],
  stages: {
    work: {
      assignment: { kind: 'role', role: 'clerk' },
      onArrival: {
        deliveries: [
          {
            kind: 'mail',
            key: 'tell',
            name: 'Tell',
            when: 'n > 5',
            to: [
              { key: 'a', kind: 'role', role: 'clerk' },
              { key: 'b', kind: 'submitter' },
            ],
            cc: [{ key: 'c', kind: 'member', member: 'm1' }],
            bcc: [{ key: 'd', kind: 'expression', expression: 'address' }],
            subject: 's',
            body: 'b',
          },
        ],
      },
    },
  },
  handOffs: {
    send: {
      acknowledgements: [
        { key: 'thanks', text: 'Thanks' },
        { key: 'big', name: 'Of many', when: 'n > 100', text: 'Many' },
      ],
      deliveries: [
        { kind: 'web', key: 'ask', name: 'Ask', outlet: 'insurer', when: 'n > 1' },
        { kind: 'file', key: 'keep', name: 'Keep', outlet: 'archive', fileName: 'f', when: 'n > 100' },
      ],
      followUps: [
        { key: 'each', name: 'Each', workflow: 'other', handOff: 'send', perRow: 'rows' },
        { key: 'once', name: 'Once', workflow: 'other', handOff: 'send' },
        { key: 'never', name: 'Never', workflow: 'other', handOff: 'send', when: 'false' },
      ],
    },
  },
};
const workflow = smallCompiled(PARTS);
const groups = listGroups(
  workflow.definition,
  (id) => (id === 'm1' ? 'Ines Vale' : '?'),
  (expression) => `the ${expression}`,
);
const itemOf = (key: string): Item => {
  const found = groups.flatMap(({ items }) => items).find((item) => item.key === key);
  if (!found) throw new Error(key);
  return found;
};

describe('everything that happens', () => {
  test('in the order of the stages: on arrival, then at each hand-off', () => {
    expect(groups.map(({ name, items }) => [name, items.map(({ kind, name: own }) => `${kind} ${own}`)])).toEqual([
      ['Ask · on arrival', []],
      ['Ask · Send', ['answer thanks', 'answer Of many', 'web Ask', 'file Keep', 'record Each', 'record Once', 'record Never']],
      ['Work · on arrival', ['assign Who has the work', 'mail Tell']],
      ['Work · Finish', []],
      ['Done · on arrival', []],
    ]);
  });

  test('each has the path under which it stands in the definition', () => {
    for (const { kind, path, name, key } of groups.flatMap(({ items }) => items)) {
      // Who has the work is a property of its stage.
      if (kind === 'assign') continue;
      const part = findPart(workflow.definition, path)?.part as { readonly name?: string; readonly kind?: string } | undefined;
      expect(part).toBeDefined();
      if (kind !== 'answer') expect(part?.name).toBe(name);
      if (kind === 'answer') expect(part).toMatchObject({ key });
    }
  });

  test('lists stand where their owner is', () => {
    expect(groups.flatMap(({ owner }) => (owner ? [listsOf(owner).deliveries] : []))).toEqual([
      'stages.ask.onArrival.deliveries',
      'handOffs.send.deliveries',
      'stages.work.onArrival.deliveries',
      'handOffs.finish.deliveries',
      'stages.done.onArrival.deliveries',
    ]);
  });

  test('with who gets it, in words', () => {
    expect(itemOf('tell').receivers).toEqual(['role Clerk', 'the submitter', 'Ines Vale', 'the address']);
    expect(itemOf('ask').receivers).toEqual(['insurer']);
    expect(itemOf('each').receivers).toEqual(['other']);
    expect(itemOf('thanks').receivers).toEqual(['whoever pressed']);
  });
});

describe('the same in another order', () => {
  test('by who gets it: once under each', () => {
    const by = regroup(groups, 'receiver').map(({ name, items }) => [name, items.map(({ key }) => key)]);
    expect(by).toEqual([
      ['Ines Vale', ['tell']],
      ['archive', ['keep']],
      ['insurer', ['ask']],
      ['other', ['each', 'once', 'never']],
      ['role Clerk', ['tell']],
      ['the address', ['tell']],
      ['the submitter', ['tell']],
      ['whoever pressed', ['thanks', 'big']],
    ]);
  });

  test('by outlet: what goes by none is in none', () => {
    const by = regroup(groups, 'outlet').map(({ name, items }) => [name, items.map(({ key }) => key)]);
    expect(by).toEqual([
      ['archive', ['keep']],
      ['insurer', ['ask']],
      ['mail', ['tell']],
    ]);
  });
});

describe('what became of it in the rehearsal', () => {
  const came = (values: object): ReadonlyMap<string, HandedOn> =>
    new Map([['send', handedOn(workflow, { ...recordOf(workflow), values: values as never }, 'send')]]);
  const rows = [1, 2, 3].map((id) => ({ id: `r${id}`, values: { name: 'x' } }));

  test.each<[string, string | null]>([
    ['thanks', 'read'],
    ['big', 'not'],
    ['ask', '1 request'],
    ['keep', 'not'],
    ['each', '3 records'],
    ['once', '1 record'],
    ['never', 'not'],
    ['tell', '1 mail'],
    ['assignment', 'role clerk'],
  ])('%s: %s', (key, expected) => {
    expect(cameTo(itemOf(key), came({ n: '7', rows }))).toBe(expected);
  });

  test('nothing is said of where the record wasn’t', () => {
    expect(cameTo(itemOf('ask'), new Map())).toBeNull();
    const finished = handedOn(workflow, recordOf(workflow, {}, 'work'), 'finish');
    expect(cameTo(itemOf('tell'), new Map([['finish', finished]]))).toBeNull();
  });

  test('what was pressed counts, and what would be pressed now counts more', () => {
    const [early, now] = [came({ n: '0' }).get('send'), came({ n: '200' }).get('send')] as readonly HandedOn[];
    const moments = [{ step: { handOff: 'send' }, came: { ok: true, value: early } }];
    const outcomes = (reasons: object[]) => outcomesOf({ moments } as never, reasons as never);
    expect(cameTo(itemOf('keep'), outcomes([]))).toBe('not');
    expect(cameTo(itemOf('keep'), outcomes([{ key: 'send', handedOn: now }]))).toBe('1 file');
    expect(cameTo(itemOf('keep'), outcomes([{ key: 'send', handedOn: null }]))).toBe('not');
  });
});

test('each delivery is found compiled', () => {
  for (const key of ['ask', 'keep', 'tell']) expect(compiledDelivery(workflow, itemOf(key))?.delivery.key).toBe(key);
  expect(compiledDelivery(workflow, itemOf('once'))).toBeNull();
});

describe('what goes by a due date', () => {
  const mail = {
    kind: 'mail',
    key: 'soon',
    name: 'Soon',
    to: [{ key: 'a', kind: 'role', role: 'clerk' }],
    subject: 's',
    body: 'b',
  };
  const timed = smallCompiled({
    stages: {
      work: {
        due: 'today()',
        reminders: [{ key: 'before', name: 'Early', offset: { count: 2, unit: 'working-days' }, deliveries: [mail] }],
      },
    },
    handOffs: { finish: { byClock: { offset: { count: 1, unit: 'days', side: 'after' } } } },
  });
  const groups = listGroups(
    timed.definition,
    (id) => id,
    (text) => text,
  );

  test('stands with its stage: the date on arrival, each reminder, what happens by itself', () => {
    expect(groups.map(({ name, items }) => [name, items.map((item) => item.path)])).toEqual([
      ['Ask · on arrival', []],
      ['Ask · Send', []],
      ['Work · on arrival', ['stages.work.due']],
      ['Work · 2 working days before it is due: Early', ['stages.work.reminders.before.deliveries.soon']],
      ['Work · Finish, by itself 1 day after it is due', []],
      ['Done · on arrival', []],
    ]);
  });

  test('a reminder’s deliveries are found compiled; what became of them a rehearsal doesn’t tell', () => {
    const item = groups.flatMap(({ items }) => items).find(({ key }) => key === 'soon') as Item;
    expect(compiledDelivery(timed, item)?.delivery.key).toBe('soon');
    const came = new Map([['send', handedOn(timed, recordOf(timed), 'send')]]);
    expect(cameTo(item, came)).toBeNull();
    const due = groups.flatMap(({ items }) => items).find(({ kind }) => kind === 'due') as Item;
    expect(cameTo(due, came)).toMatch(/^\d{4}-\d{2}-\d{2}$/);
  });
});
