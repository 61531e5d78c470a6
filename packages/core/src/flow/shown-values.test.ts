import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { handedOn, recordOf, smallCompiled, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { mailsOf } from '@ypomet/testkit/told';
import { Field } from '../model/field.ts';
import { readFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { writeOutsideJson } from '../values/write-json.ts';
import type { WebConsequence } from './events.ts';
import { readsEverything } from './permissions.ts';
import { fieldToOutside, unquotedCell, writeCell } from './shown-values.ts';

// What of a record is written into what is sent, and for whom (semantics 7).
const STYLE = { locale: 'de', zone: 'Europe/Vienna' };
const field = (type: string, more: object = {}): Field => Field.parse({ type, key: 'f', name: 'F', section: 's', ...more });
const readFrom = (own: Field, json: Json) => {
  const read = readFieldValue(own, json, { zone: STYLE.zone, findRecord: () => ({}) });
  if (!read.ok) throw new Error(read.diagnostic.code);
  return read.value;
};
const OPTIONS = [
  { code: 'home', label: 'At home' },
  { code: 'away', label: '=Away' },
];
const TABLE = field('table', {
  fields: [
    { type: 'text', key: 't', name: 'T' },
    { type: 'money', key: 'm', name: 'M', currency: 'EUR' },
    { type: 'reference', key: 'r', name: 'R', workflow: 'w' },
  ],
});

describe('the cell of a sheet', () => {
  // RFC 4180 has no types: numbers are written as ISO 31-0 has them, days by ISO 8601, whatever the workspace's language.
  test.each<[string, Field, Json, string]>([
    ['nothing', field('text'), null, ''],
    ['a text', field('text'), 'Lamp', 'Lamp'],
    ['a number has no grouping', field('number', { scale: 2 }), '12345.6', '12345.6'],
    ['a negative number is none of a formula', field('number'), '-3', '-3'],
    ['money has no sign of its currency', field('money', { currency: 'EUR' }), '1200.5', '1200.5'],
    ['a day', field('date'), '2027-03-12', '2027-03-12'],
    ['a time', field('time'), '13:05', '13:05:00'],
    ['a moment is in UTC', field('date-time'), '2027-07-12T22:30:00Z', '2027-07-12T22:30:00Z'],
    ['yes in words', field('yes-no'), true, 'ja'],
    ['an option by its label', field('choice', { options: OPTIONS }), 'home', 'At home'],
    ['a label that looks like a formula', field('choice', { options: OPTIONS }), 'away', "'=Away"],
    ['several', field('multi-choice', { options: OPTIONS }), ['home', 'away'], 'At home, =Away'],
    ['rows, one a line', TABLE, [{ id: 'a', values: { t: 'Lamp', m: '5' } }], 'Lamp · 5,00 €'],
  ])('%s', (_, own, json, expected) => {
    expect(writeCell(readFrom(own, json), own, STYLE).replaceAll('\u00a0', ' ')).toBe(expected);
  });

  test.each(['=1+1', '+1', '-1', '@SUM(A1)', '\t=1', '\r=1', '=cmd|" /C calc"!A0', '＝1+1', '＠SUM(A1)'])(
    '“%s” is quoted',
    (text) => {
      expect(writeCell(text, field('text'), STYLE)).toBe(`'${text}`);
      expect(unquotedCell(`'${text}`)).toBe(text);
    },
  );
});

describe('a field for other programs', () => {
  test.each<[string, Field, Json, string]>([
    ['an option by its code', field('choice', { options: OPTIONS }), 'home', '"home"'],
    ['a member by id', field('member', { role: 'clerk' }), 'm1', '"m1"'],
    ['a record by id', field('reference', { workflow: 'w' }), 'r7', '"r7"'],
    ['no record', field('reference', { workflow: 'w' }), null, 'null'],
    ['rows as objects', TABLE, [{ id: 'a', values: { t: 'Lamp', m: '5', r: 'r1' } }], '[{"t":"Lamp","m":5,"r":"r1"}]'],
    ['no rows', TABLE, [], '[]'],
  ])('%s', (_, own, json, expected) => {
    expect(writeOutsideJson(fieldToOutside(own, readFrom(own, json)))).toBe(expected);
  });

  test('rows have only the columns that were left in them', () => {
    const row = { kind: 'context', id: 'a', entries: { t: 'Lamp' } } as const;
    expect(writeOutsideJson(fieldToOutside(TABLE, [row]))).toBe('[{"t":"Lamp"}]');
  });
});

describe('what is shown to all who get a mail', () => {
  const fields = [
    { type: 'text', key: 'open', name: 'Open' },
    { type: 'text', key: 'shut', name: 'Shut', confidentialTo: ['chief'] },
    { type: 'text', key: 'late', name: 'Late' },
    { type: 'text', key: 'empty', name: 'Empty' },
    { type: 'note', key: 'hint', name: 'Hint', text: 'x' },
  ];
  /** The bodies of the mails that go out, in the order of their receivers. */
  const allTold = (...to: readonly object[]): readonly string[] => {
    const deliveries = [{ kind: 'mail', key: 'm', name: 'M', to, subject: 's', body: '{{#fields}}' }];
    const plan = { late: { ask: 'hidden' } };
    const workflow = smallCompiled({ fields, plan, handOffs: { send: { deliveries } } });
    const record = { ...recordOf(workflow), values: { open: 'o', shut: 's', late: 'l' } as never };
    return mailsOf(handedOn(workflow, record, 'send')).map(({ body }) => body);
  };
  const told = (...to: readonly object[]): string => allTold(...to)[0] ?? '';
  const clerk = { kind: 'role', role: 'clerk' };
  const chief = { kind: 'role', role: 'chief' };
  const address = { kind: 'expression', expression: '"a@b.example"' };

  test('whoever works there: all that is filled and not confidential', () => {
    expect(told(clerk)).toBe('Open: o\nLate: l');
  });

  test('an outside address: what the intake showed', () => {
    expect(told(address)).toBe('Open: o');
  });

  test('receivers who see different fields get a mail each, those who see the same one together', () => {
    expect(allTold(clerk, address)).toEqual(['Open: o\nLate: l', 'Open: o']);
    expect(allTold(clerk, clerk)).toEqual(['Open: o\nLate: l']);
    // Whoever has no part in the workflow is shown nothing of its records.
    expect(allTold(clerk, chief)).toEqual(['Open: o\nLate: l', '']);
    expect(allTold(address, { kind: 'address', address: 'c@d.example' })).toEqual(['Open: o']);
  });

  test('a member who isn’t there is shown nothing, and the others what they see', () => {
    expect(allTold({ kind: 'member', member: 'gone' }, clerk)).toEqual(['', 'Open: o\nLate: l']);
  });
});

describe('the whole record, for an outlet', () => {
  const fields = [
    { type: 'text', key: 'open' },
    { type: 'number', key: 'shut', confidentialTo: ['chief'] },
    { type: 'number', key: 'twice', expression: 'shut * 2', discloses: false },
    {
      type: 'table',
      key: 'rows',
      fields: [
        { type: 'number', key: 'n', name: 'N' },
        { type: 'number', key: 'made', name: 'Made', expression: 'shut + row.n', discloses: false },
      ],
    },
  ];
  const body = (readsAs: readonly string[]) => {
    const deliveries = [{ kind: 'web', key: 'w', name: 'W', outlet: 'o', readsAs }];
    const workflow = smallCompiled({ fields, handOffs: { send: { deliveries } } });
    const values = { open: 'o', shut: '5', rows: [{ id: 'a', values: { n: '1' } }] };
    const [sent] = handedOn(
      workflow,
      { ...recordOf(workflow), values: values as never },
      'send',
      {},
      undefined,
      OUTSIDE,
    ).deliveries;
    return JSON.parse((sent as WebConsequence).body).values;
  };

  test('holds neither what is confidential nor what is made from it, in rows neither', () => {
    expect(body([])).toEqual({ open: 'o', rows: [{ n: 1 }] });
    expect(body(['clerk'])).toEqual({ open: 'o', rows: [{ n: 1 }] });
  });

  test('holds all of it for an outlet that reads as one of its readers', () => {
    expect(body(['chief'])).toEqual({ open: 'o', shut: 5, twice: 10, rows: [{ n: 1, made: 6 }] });
  });
});

describe('who may read all that a text could hold', () => {
  const other = smallWorkflow({ key: 'other', fields: [{ type: 'text', key: 'secret', confidentialTo: ['chief', 'auditor'] }] });
  const find = (key: string) => (key === 'other' ? other : null);
  const reads = (fields: readonly object[], ...roles: readonly string[]) =>
    readsEverything(smallCompiled({ fields: fields as never, roles: ROLES }, find), roles);
  const ROLES = ['clerk', 'chief', 'auditor'].map((key) => ({ key, name: key }));
  const SHUT = { type: 'text', key: 'shut', confidentialTo: ['auditor'] };
  const TO_OTHER = { type: 'reference', key: 'about', workflow: 'other' };

  test('anybody, where nothing is confidential', () => {
    expect(reads([{ type: 'text', key: 'open' }])).toBe(true);
  });

  test('readers of every confidential field', () => {
    expect(reads([SHUT], 'clerk')).toBe(false);
    expect(reads([SHUT], 'auditor')).toBe(true);
    expect(reads([SHUT, { ...SHUT, key: 'more', confidentialTo: ['chief'] }], 'auditor')).toBe(false);
  });

  test('of referenced records too, in rows as well', () => {
    const rows = { type: 'table', key: 'rows', fields: [{ ...TO_OTHER, name: 'About' }] };
    for (const referring of [TO_OTHER, rows]) {
      expect(reads([referring], 'clerk')).toBe(false);
      expect(reads([referring], 'chief')).toBe(true);
    }
  });

  test('nobody, where a referenced workflow isn’t known', () => {
    expect(reads([{ ...TO_OTHER, workflow: 'gone' }], 'clerk', 'chief', 'auditor')).toBe(false);
  });
});
