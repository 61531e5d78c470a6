import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { handedOn, recordOf, refusalsOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { answerOf, mailsOf } from '@ypomet/testkit/told';
import { makeOutside } from './record.ts';

const mail = (key: string, body: string, more: object = {}): object => ({
  kind: 'mail',
  key,
  name: key,
  to: [{ kind: 'role', role: 'clerk' }],
  subject: key,
  body,
  ...more,
});

describe('a junction on the way sends and opens what its hand-off says', () => {
  const workflow = smallCompiled({
    tracks: [
      { key: 'main', name: 'Main' },
      { key: 'side', name: 'Side' },
    ],
    fields: [{ type: 'number', key: 'n' }],
    handOffs: {
      send: {
        sets: [{ field: 'n', value: '1' }],
        branches: [{ key: 'aside', name: 'Aside', when: 'true', to: 'j', track: 'side' }],
        otherwise: { to: 'work' },
        deliveries: [mail('own', '{{n}} {{record.track}} {{record.stage}} {{handoff.key}} {{destination.key}}')],
        followUps: [{ key: 'first', name: 'First', workflow: 'other', handOff: 'go', carried: [{ field: 'n', value: 'n' }] }],
        acknowledgements: [
          { key: 'any', text: 'Anything' },
          { key: 'aside', when: 'record.track = "side"', text: 'To the side' },
        ],
      },
    },
    stages: {
      work: {
        tracks: ['main', 'side'],
        onArrival: { sets: [{ field: 'n', value: 'n + 10' }], deliveries: [mail('there', '{{n}} {{record.track}}')] },
      },
    },
    moreStages: [{ key: 'j', kind: 'junction', tracks: ['side'] }],
    moreHandOffs: [
      {
        key: 'on',
        from: 'j',
        sets: [{ field: 'n', value: 'n + 1' }],
        branches: [{ key: 'still', name: 'Still', when: 'record.track = "side" and record.stage = "j"', to: 'work' }],
        otherwise: { to: 'done' },
        deliveries: [mail('passing', '{{n}} {{record.track}} {{handoff.key}} {{destination.key}}')],
        followUps: [{ key: 'second', name: 'Second', workflow: 'other', handOff: 'go', carried: [{ field: 'n', value: 'n' }] }],
      },
    ],
  });
  const result = handedOn(workflow, recordOf(workflow), 'send');

  test('with the values and the track as they are when it is passed', () => {
    expect([result.record.stage, result.record.track, result.record.values.n]).toEqual(['work', 'side', '12']);
    expect(mailsOf(result).map(({ delivery, body }) => [delivery, body])).toEqual([
      ['own', '12 side work send work'],
      ['passing', '2 side on work'],
      ['there', '12 side'],
    ]);
    expect(result.followUps.map(({ followUp, values }) => [followUp, values])).toEqual([
      ['first', { n: '12' }],
      ['second', { n: '2' }],
    ]);
  });

  test('an acknowledgement without a condition is the default, wherever it stands in the list', () => {
    expect(answerOf(result)).toBe('To the side');
  });
});

describe('recipients', () => {
  const to = (expression: string, fields: readonly object[]) =>
    smallCompiled({
      fields: fields as never,
      handOffs: {
        send: {
          deliveries: [
            mail('m', 'b', {
              to: [
                { kind: 'expression', expression },
                { kind: 'role', role: 'clerk' },
              ],
            }),
          ],
        },
      },
    });
  const sent = (workflow: ReturnType<typeof to>, input: object) => {
    const [first] = mailsOf(handedOn(workflow, recordOf(workflow), 'send', input as never));
    return [first?.to.flatMap((one) => (one.kind === 'address' ? one.address : [])), first?.unfit];
  };
  const one = to('who', [{ type: 'text', key: 'who' }]);

  // RFC 5322, 3.4.1 (addr-spec), as e-mail inputs of HTML take it.
  test.each<[string, readonly string[], readonly number[]]>([
    ['a@b.example', ['a@b.example'], []],
    ['a@b.example, c@d.example', [], [1]],
    ['Group: a@b.example, c@d.example;', [], [1]],
    ['Ann <a@b.example>', [], [1]],
    ['a@b.example\r\nBcc: c@d.example', [], [1]],
    ['nobody', [], [1]],
    ['', [], []],
  ])('“%s” is one address or none', (who, addresses, unfit) => {
    expect(sent(one, { who })).toEqual([addresses, unfit]);
  });

  test('2,000 addresses in a text go to nobody; a list holds one each', () => {
    const many = Array.from({ length: 2000 }, (_, index) => `a${index}@b.example`).join(', ');
    expect(sent(to('who', [{ type: 'long-text', key: 'who' }]), { who: many })).toEqual([[], [1]]);
    const rows = [{ type: 'table', key: 'people', fields: [{ type: 'text', key: 'mail', name: 'Mail' }] }];
    const people = ['a@b.example', 'x', 'c@d.example'].map((address, index) => ({ id: `r${index}`, values: { mail: address } }));
    expect(sent(to('people.mail', rows), { people })).toEqual([['a@b.example', 'c@d.example'], [1]]);
  });
});

describe('what is carried over', () => {
  const cells = [
    { type: 'text', key: 'name', name: 'Name' },
    { type: 'number', key: 'n', name: 'N', scale: 2 },
  ];
  const other = smallCompiled({
    key: 'other',
    fields: [
      { type: 'table', key: 'items', fields: cells },
      { type: 'date-time', key: 'at' },
      { type: 'number', key: 'half', scale: 1 },
    ],
  }).definition;
  const workflow = smallCompiled(
    {
      fields: [
        { type: 'table', key: 'lines', fields: [...cells, { type: 'text', key: 'own', name: 'Own' }] },
        { type: 'date-time', key: 'at' },
      ],
      handOffs: {
        send: {
          followUps: [
            {
              key: 'f',
              name: 'F',
              workflow: 'other',
              handOff: 'send',
              carried: [
                { field: 'items', value: 'lines' },
                { field: 'at', value: 'at' },
                { field: 'half', value: 'lines[1].n' },
              ],
            },
          ],
        },
      },
    },
    (key) => (key === 'other' ? other : null),
  );

  test('tables with their cells, date-times as instants, numbers at the scale of where they go', () => {
    const lines = [{ id: 'r', values: { name: 'Lamp', n: '1.25', own: 'x' } }];
    const { followUps } = handedOn(workflow, recordOf(workflow), 'send', { lines, at: '2027-01-02T00:30:00' });
    expect(followUps[0]?.values).toEqual({
      items: [{ id: expect.any(String), values: { name: 'Lamp', n: '1.25' } }],
      at: '2027-01-01T23:30:00Z',
      half: '1.2',
    });
  });
});

describe('the policy single', () => {
  const workflow = smallCompiled({
    fields: [{ type: 'number', key: 'n' }],
    handOffs: {
      send: {
        policy: 'single',
        branches: [
          { key: 'low', name: 'Low', when: 'n < 10', to: 'work' },
          { key: 'odd', name: 'Odd', when: 'odd(n)', to: 'done' },
        ],
        otherwise: null,
      },
    },
  });

  test.each([
    ['8', []],
    ['11', []],
    ['9', ['send: hand-off/two-branches']],
    ['12', ['send: hand-off/no-branch']],
  ])('%s', (n, expected) => {
    expect(refusalsOf(workflow, recordOf(workflow), 'send', { n })).toEqual(expected);
  });
});

test('yes and no are written in the language of the workspace', () => {
  const workflow = smallCompiled({
    fields: [{ type: 'yes-no', key: 'fragile' }],
    handOffs: { send: { acknowledgements: [{ key: 'a', text: '{{fragile}}' }] } },
  });
  const told = (locale: string) =>
    answerOf(handedOn(workflow, recordOf(workflow), 'send', { fragile: true }, undefined, makeOutside({ ...OUTSIDE, locale })));
  expect(['en', 'de-AT', 'fr', 'nl'].map(told)).toEqual(['yes', 'ja', 'oui', 'ja']);
});
