import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { faultsIn, handedOn, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { mailsOf } from '@ypomet/testkit/told';
import { writePlain } from '../templates/rich-text.ts';
import { writeInstant } from '../values/temporal.ts';
import { enterFollowUp } from './enter-follow-up.ts';
import type { FileConsequence, WebConsequence } from './events.ts';
import { makeOutside, type Outside } from './record.ts';
import { takeAnswer } from './take-answer.ts';

// What a hand-off sends, by kind, and to whom values may go (semantics 4.7 and 7).
const FIELDS = [
  { type: 'text', key: 'borrower' },
  { type: 'date', key: 'from' },
  { type: 'money', key: 'worth', currency: 'EUR' },
  { type: 'number', key: 'secret', confidentialTo: ['chief'] },
  { type: 'member', key: 'keeper' },
  { type: 'choice', key: 'kind', options: [{ code: 'loan', label: 'A loan' }] },
  {
    type: 'table',
    key: 'rows',
    fields: [
      { type: 'text', key: 'title', name: 'Title' },
      { type: 'number', key: 'n', name: 'N' },
    ],
  },
];
const VALUES = {
  borrower: '=HYPERLINK("x") & Søn/ltd',
  from: '2027-03-12',
  worth: '1200.50',
  kind: 'loan',
  rows: [{ id: 'a', values: { title: 'Lamp', n: '1' } }],
};
const CHIEF_VALUES = { ...VALUES, secret: '4711' };

function allSent(delivery: object, values: object = VALUES, outside?: Outside) {
  const workflow = smallCompiled({ fields: FIELDS, handOffs: { send: { deliveries: [{ key: 'd', name: 'D', ...delivery }] } } });
  const record = { ...recordOf(workflow), values: values as never };
  return handedOn(workflow, record, 'send', {}, undefined, outside).deliveries;
}
const sent = (delivery: object, values?: object) => allSent(delivery, values)[0];
const web = (more: object, values?: object) => sent({ kind: 'web', outlet: 'o', ...more }, values) as WebConsequence;
const file = (more: object, values?: object) =>
  sent({ kind: 'file', outlet: 'o', fileName: 'f', ...more }, values) as FileConsequence;

describe('a web request', () => {
  test('holds properties by name, numbers with their digits, days by ISO 8601', () => {
    const properties = [
      { name: 'loan.value', value: 'worth' },
      { name: 'loan.from', value: 'from' },
      { name: 'rows', value: 'rows' },
      { name: 'none', value: 'null' },
      { name: 'third', value: '1 / 3' },
    ];
    expect(web({ properties }).body).toBe(
      '{"loan":{"value":1200.5,"from":"2027-03-12"},"rows":[{"title":"Lamp","n":1}],"none":null,"third":0.3333333333333333333333333333333333}',
    );
  });

  test('or the whole record, without what the outlet may not read', () => {
    const { body } = web({}, CHIEF_VALUES);
    expect(JSON.parse(body)).toMatchObject({
      record: { workflow: 'small' },
      values: { borrower: VALUES.borrower, kind: 'loan' },
    });
    expect(body).not.toContain('4711');
    expect(web({ readsAs: ['chief'] }, CHIEF_VALUES).body).toContain('"secret":4711');
  });

  test('a property made from what the outlet may not read is nothing; a header too', () => {
    const properties = [{ name: 'x', value: 'secret + 1' }];
    const headers = [{ name: 'X-Secret', value: 'a{{secret}}b' }];
    const shut = web({ properties, headers }, CHIEF_VALUES);
    expect([shut.body, shut.headers]).toEqual(['{"x":null}', [['X-Secret', 'ab']]]);
    const open = web({ properties, headers, readsAs: ['chief'] }, CHIEF_VALUES);
    expect([open.body, open.headers]).toEqual(['{"x":4712}', [['X-Secret', 'a4,711b']]]);
  });

  // WHATWG URL, section 5.2: application/x-www-form-urlencoded.
  test('as a form', () => {
    const properties = [
      { name: 'who', value: 'borrower' },
      { name: 'n', value: 'worth' },
    ];
    expect(web({ encoding: 'form', properties }).body).toBe(
      new URLSearchParams([
        ['who', VALUES.borrower],
        ['n', '1200.5'],
      ]).toString(),
    );
  });

  test('values in its address can’t lead elsewhere', () => {
    expect(web({ address: '/loans/{{borrower}}?from={{from}}' }).address).toBe(
      '/loans/%3DHYPERLINK(%22x%22)%20%26%20S%C3%B8n%2Fltd?from=2027-03-12',
    );
  });
});

type AtDesign = Readonly<Record<string, unknown>> & { readonly properties?: readonly (readonly [string, string])[] };
test.each<[string, AtDesign, readonly string[]]>([
  [
    'properties in each other’s place',
    {
      properties: [
        ['a', 'worth'],
        ['a.b', 'worth'],
      ],
    },
    ['properties.p1: delivery/properties-cross'],
  ],
  [
    'the same property twice',
    {
      properties: [
        ['a', 'worth'],
        ['a', 'kind'],
      ],
    },
    ['properties.p1: delivery/properties-cross'],
  ],
  [
    'a property within one that comes later',
    {
      properties: [
        ['a.b.c', 'worth'],
        ['a.b', 'kind'],
      ],
    },
    ['properties.p0: delivery/properties-cross'],
  ],
  [
    'properties beside each other',
    {
      properties: [
        ['a.b', 'worth'],
        ['a.c', 'kind'],
        ['ab', 'kind'],
      ],
    },
    [],
  ],
  [
    'a form, whose names are flat',
    {
      encoding: 'form',
      properties: [
        ['a', 'worth'],
        ['a.b', 'kind'],
      ],
    },
    [],
  ],
  [
    'a header of the connection',
    { headers: [{ key: 'h', name: 'Transfer-Encoding', value: 'chunked' }] },
    ['headers.h: delivery/connection-header'],
  ],
  ['a header of its own', { headers: [{ key: 'h', name: 'X-Museum', value: '{{borrower}}' }] }, []],
])('a web request at design: %s', (_, { properties = [], ...more }, expected) => {
  const list = properties.map(([name, value], index) => ({ key: `p${index}`, name, value }));
  const delivery = { kind: 'web', key: 'd', name: 'D', outlet: 'o', properties: list, ...more };
  const { diagnostics } = smallCompiled({ fields: FIELDS, handOffs: { send: { deliveries: [delivery] } } });
  expect(diagnostics.map(({ path, code }) => `${path.replace('handOffs.send.deliveries.d.', '')}: ${code}`)).toEqual(expected);
});

describe('a file', () => {
  test('has a name of values that file systems take, days by number', () => {
    expect(file({ fileName: '{{borrower}}-{{from}}', folder: '{{kind}}/{{worth}}' })).toMatchObject({
      fileName: 'HYPERLINK-x-Søn-ltd-2027-03-12',
      folder: 'A-loan/1200.5',
    });
  });

  // OWASP: CSV injection. Numbers may begin with a sign.
  test('as a row: formulas are quoted, numbers and days as sheets read them, labels for codes', () => {
    const properties = [
      { name: 'borrower', value: 'borrower' },
      { name: 'worth', value: '0 - worth' },
      { name: 'from', value: 'from' },
      { name: 'kind', value: 'kind' },
      { name: 'minus', value: '"-1+2"' },
    ];
    expect(file({ format: 'csv', properties }).written).toEqual({
      format: 'csv',
      head: ['borrower', 'worth', 'from', 'kind', 'minus'],
      row: [`'${VALUES.borrower}`, '-1200.5', '2027-03-12', 'A loan', "'-1+2"],
    });
  });

  test('as a document', () => {
    const { written } = file({ format: 'pdf', body: '# For {{borrower}}\n\n{{rows}}\n\n{{secret}}' }, CHIEF_VALUES);
    expect(written.format === 'pdf' && writePlain(written.text)).toBe(`For ${VALUES.borrower}\n\nLamp · 1`);
  });
});

describe('a mail', () => {
  const mail = (more: object, values?: object) =>
    sent({ kind: 'mail', to: [{ kind: 'expression', expression: '"a@b.example"' }], subject: 's', body: 'b', ...more }, values);

  test('to an outside address has every field that a submitter would be shown, and no confidential one', () => {
    const [told] = mailsOf({ deliveries: [mail({ body: '{{#fields}}', attach: 'json' }, CHIEF_VALUES) as never] });
    expect(told?.body).toContain('worth: €1,200.50');
    expect(told?.body).not.toContain('4711');
    expect(told?.attached?.format === 'json' && told.attached.text).not.toContain('4711');
  });

  test('a copy to somebody who may read less is a mail of its own, and the other holds what it held', () => {
    const chief = [{ kind: 'role', role: 'chief' }];
    const alone = mailsOf({ deliveries: [mail({ to: chief, body: '{{secret}}' }, CHIEF_VALUES) as never] });
    expect(alone[0]?.body).toBe('4,711');
    const clerk = { kind: 'role', role: 'clerk' };
    const copied = allSent({ kind: 'mail', to: chief, subject: 's', body: '{{secret}}', bcc: [clerk] }, CHIEF_VALUES);
    expect(copied.map((one) => one.type === 'mail' && [one.to, one.bcc, one.body])).toEqual([
      [chief, [], [{ kind: 'paragraph', runs: [{ text: '4,711' }] }]],
      [[], [clerk], []],
    ]);
  });

  test.each([
    ['a fixed address', { kind: 'address', address: 'a@b.example' }, [{ kind: 'address', address: 'a@b.example' }], []],
    ['a member whom a field names', { kind: 'member-of', expression: 'keeper' }, [{ kind: 'member', member: 'm1' }], []],
    ['nobody, where that field is empty', { kind: 'member-of', expression: 'null' }, [], []],
    ['a member who is gone can’t be written to', { kind: 'member-of', expression: '"m9"' }, [], [1]],
    [
      'a role that an expression names',
      { kind: 'role-of', expression: 'if worth > 1000 then "chief" else "clerk"' },
      [{ kind: 'role', role: 'chief' }],
      [],
    ],
    [
      'addresses of a list',
      { kind: 'expression', expression: '["a@b.example", "nobody"]' },
      [{ kind: 'address', address: 'a@b.example' }],
      [1],
    ],
  ])('goes to %s', (_, recipient, to, unfit) => {
    const outside = makeOutside({ ...OUTSIDE, findMember: (id) => (id === 'm1' ? { id, name: 'M', roles: [] } : null) });
    const values = { ...VALUES, keeper: 'm1' };
    const [one] = allSent({ kind: 'mail', to: [recipient], subject: 's', body: 'b' }, values, outside);
    expect(one).toMatchObject({ to, unfit });
  });

  test.each([
    ['neither subject nor text', { subject: ' ', body: '' }, ['body: delivery/blank-mail']],
    [
      'a fixed address that is none',
      { to: [{ key: 'x', kind: 'address', address: 'nobody' }] },
      ['to.x.address: delivery/no-address'],
    ],
    [
      'a text that is no address',
      { to: [{ key: 'x', kind: 'expression', expression: '"a@b, c@d"' }] },
      ['to.x.expression: delivery/no-address'],
    ],
    [
      'an address with a line break',
      { to: [{ key: 'x', kind: 'expression', expression: '"a@b.example\\nBcc: c@d.example"' }] },
      ['to.x.expression: delivery/no-address'],
    ],
    ['a choice', { cc: [{ key: 'x', kind: 'expression', expression: 'kind' }] }, ['cc.x.expression: delivery/no-address']],
    [
      'a member field taken for an address',
      { bcc: [{ key: 'x', kind: 'expression', expression: 'keeper' }] },
      ['bcc.x.expression: delivery/member-as-address'],
    ],
    ['a text field', { to: [{ key: 'x', kind: 'expression', expression: 'borrower' }] }, []],
    [
      'a role that the workflow hasn’t',
      { to: [{ key: 'x', kind: 'role-of', expression: '"nobody"' }] },
      ['to.x.expression: expression/unknown-option'],
    ],
  ])('at design: %s', (_, more, expected) => {
    const delivery = {
      kind: 'mail',
      key: 'd',
      name: 'D',
      to: [{ key: 'a', kind: 'submitter' }],
      subject: 's',
      body: 'b',
      ...more,
    };
    const { diagnostics } = smallCompiled({ fields: FIELDS, handOffs: { send: { deliveries: [delivery] } } });
    expect(diagnostics.map(({ path, code }) => `${path.replace('handOffs.send.deliveries.d.', '')}: ${code}`)).toEqual(expected);
  });

  test('its sender and subject stand in the log, so they tell nothing confidential', () => {
    expect(mail({ subject: 'S {{secret}}', senderName: 'N {{secret}}' }, CHIEF_VALUES)).toMatchObject({
      subject: 'S',
      senderName: 'N',
    });
  });
});

describe('what comes back', () => {
  const workflow = smallCompiled({
    fields: [
      { type: 'money', key: 'premium', currency: 'EUR', max: '500' },
      { type: 'text', key: 'quote', maxLength: 5 },
      { type: 'yes-no', key: 'agreed' },
      { type: 'number', key: 'double', scale: 1, expression: 'premium * 2' },
      { type: 'text', key: 'entered' },
    ],
    plan: { premium: { work: 'read-only' }, quote: { work: 'hidden' }, agreed: { work: 'read-only' } },
  });
  const record = { ...recordOf(workflow), stage: 'work', values: { quote: 'old' } };
  const outside = makeOutside(OUTSIDE);
  const take = (answers: readonly { name: string; field: string }[], answer: unknown) =>
    takeAnswer(workflow, record as never, { delivery: 'd', outlet: 'o', answers }, answer as never, outside);

  test('is read like entered values, and what is computed follows; the record doesn’t move', () => {
    const taken = take(
      [
        { name: 'offer.premium', field: 'premium' },
        { name: 'list.1', field: 'quote' },
        { name: 'ok', field: 'agreed' },
      ],
      { offer: { premium: '193.4449' }, list: ['a', ' Q-1 '], ok: true },
    );
    expect(taken).toMatchObject({
      ok: true,
      value: {
        record: { stage: 'work', values: { premium: '193.44', quote: 'Q-1', agreed: true, double: '386.88' } },
        event: { type: 'answered', outlet: 'o', delivery: 'd', changed: ['agreed', 'double', 'premium', 'quote'] },
      },
    });
  });

  test.each<[string, { name: string; field: string }, unknown, string]>([
    ['a field that somebody enters there', { name: 'x', field: 'entered' }, { x: 'y' }, 'answer/entered'],
    ['a computed field', { name: 'x', field: 'double' }, { x: '1' }, 'answer/entered'],
    ['a property that isn’t there', { name: 'x', field: 'quote' }, { y: '1' }, 'answer/missing'],
    ['no JSON', { name: 'x', field: 'quote' }, null, 'answer/missing'],
    ['text for a number', { name: 'x', field: 'premium' }, { x: 'much' }, 'answer/unfit'],
    ['a list for a number', { name: 'x', field: 'premium' }, { x: ['1'] }, 'answer/unfit'],
    ['beyond the field’s limits', { name: 'x', field: 'premium' }, { x: '501' }, 'form/above'],
    ['too long', { name: 'x', field: 'quote' }, { x: '123456' }, 'form/too-long'],
  ])('%s: nothing is written', (_, answer, json, code) => {
    const taken = take([answer, { name: 'ok', field: 'agreed' }], { ...(json as object), ok: true });
    expect(taken.ok ? [] : taken.diagnostics.map((one) => one.code)).toContain(code);
  });

  test('the same answer again changes nothing, and is no event', () => {
    const first = take([{ name: 'x', field: 'quote' }], { x: 'old' });
    expect(first).toMatchObject({ ok: true, value: { event: null } });
  });
});

describe('a follow-up in its own workflow', () => {
  const target = smallCompiled({
    key: 'other',
    fields: [
      { type: 'text', key: 'title', treatment: 'required', maxLength: 5 },
      { type: 'text', key: 'given', default: '"as ever"' },
      { type: 'number', key: 'n' },
    ],
  });
  const opening = (values: object, more: object = {}) => ({
    consequence: {
      type: 'follow-up' as const,
      followUp: 'f',
      name: 'F',
      workflow: 'other',
      handOff: 'send',
      link: null,
      row: null,
      values: values as never,
      assignee: null,
      ...more,
    },
    source: { workflow: 'small', record: 'r', number: 'S-1' },
    id: 'new',
    number: 'O-1',
    version: 3,
    actor: { id: 'asker', name: 'Asker', email: null, roles: [] },
    outside: makeOutside(OUTSIDE),
  });

  test('is handed on at once where its form takes what was carried, defaults filled in', () => {
    const opened = enterFollowUp(target, opening({ title: 'Lamp', n: '3' }));
    expect(opened.record).toMatchObject({
      stage: 'work',
      number: 'O-1',
      version: 3,
      values: { title: 'Lamp', n: '3', given: 'as ever' },
    });
    expect(opened.events.map(({ type }) => type)).toEqual(['opened', 'handed-on']);
    expect(opened.issues).toEqual([]);
  });

  test.each<[string, object, object, readonly string[]]>([
    ['what is missing', {}, {}, ['form/required']],
    ['what is too long', { title: 'Lantern' }, {}, ['form/too-long']],
    ['what is no number', { title: 'Lamp', n: 'many' }, {}, ['value/wrong-type']],
    ['an entry that is gone', { title: 'Lamp' }, { handOff: 'gone' }, ['follow-up/no-entry']],
  ])('%s leaves it at its intake, with the issues and all that was carried', (_, values, more, codes) => {
    const opened = enterFollowUp(target, opening(values, more));
    expect([opened.record.stage, opened.issues.map(({ code }) => code)]).toEqual(['ask', codes]);
    expect(opened.record.values).toEqual(values);
    expect([opened.deliveries, opened.followUps]).toEqual([[], []]);
  });

  test('that waits at an intake with a due date has one', () => {
    const due = smallCompiled({
      key: 'other',
      fields: [{ type: 'text', key: 'title', treatment: 'required' }],
      stages: { ask: { due: 'today()' } },
    });
    expect(enterFollowUp(due, opening({})).record).toMatchObject({ stage: 'ask', due: writeInstant(OUTSIDE.now).slice(0, 10) });
  });

  test('is whoever’s it names, if they may act there', () => {
    const of = (role: string) =>
      enterFollowUp(target, opening({ title: 'Lamp' }, { assignee: { kind: 'role', role } })).record.assignee;
    expect([of('clerk'), of('chief')]).toEqual([{ kind: 'role', role: 'clerk' }, null]);
  });
});

describe('what would go wrong is told at design', () => {
  const sending = (delivery: object) => ({
    fields: FIELDS,
    plan: { worth: { work: 'read-only' } },
    handOffs: { send: { deliveries: [{ key: 'd', name: 'D', outlet: 'o', ...delivery }] } },
  });
  test.each<[string, object, readonly string[]]>([
    ['a file without a name', { kind: 'file', fileName: ' ' }, ['handOffs.send.deliveries.d.fileName: delivery/no-file-name']],
    [
      'a document that says nothing',
      { kind: 'file', fileName: 'f', format: 'pdf' },
      ['handOffs.send.deliveries.d.body: delivery/blank'],
    ],
    [
      'an answer into a field that people enter there',
      { kind: 'web', answers: [{ name: 'x', field: 'borrower' }] },
      ['handOffs.send.deliveries.d.answers.answer1: answer/entered-there'],
    ],
    [
      'an answer into a table',
      { kind: 'web', answers: [{ name: 'x', field: 'rows' }] },
      ['handOffs.send.deliveries.d.answers.answer1: answer/no-place'],
    ],
    ['an answer that fits', { kind: 'web', answers: [{ name: 'x', field: 'worth' }] }, []],
    [
      'a template over a field that is gone',
      { kind: 'file', fileName: '{{borower}}' },
      ['handOffs.send.deliveries.d.fileName: expression/unknown-name-near'],
    ],
    [
      'an address of money',
      { kind: 'web', properties: [{ name: 'x', value: 'worth +' }] },
      ['handOffs.send.deliveries.d.properties.property1.value: expression/ends-early'],
    ],
  ])('%s', (_, delivery, expected) => {
    expect(faultsIn(sending(delivery))).toEqual(expected);
  });
});
