import { describe, expect, test } from '@jest/globals';
import { show } from '@ypomet/testkit/evaluate';
import type { Json } from '../shared/json.ts';
import { Field } from './field.ts';
import { isEmpty, type ReadContext, readFieldValue, writeFieldValue } from './field-value.ts';

const field = (type: string, more: object = {}): Field => Field.parse({ type, key: 'f', name: 'F', section: 's', ...more });
const OPTIONS = ['red', 'green', 'blue'].map((code) => ({ code, label: code }));
const FIELDS = {
  text: field('text'),
  'long-text': field('long-text'),
  number: field('number', { scale: 2 }),
  money: field('money', { currency: 'EUR' }),
  'yes-no': field('yes-no'),
  date: field('date'),
  time: field('time'),
  'date-time': field('date-time'),
  choice: field('choice', { options: OPTIONS }),
  'multi-choice': field('multi-choice', { options: OPTIONS }),
  member: field('member'),
  file: field('file'),
  reference: field('reference', { workflow: 'other' }),
  table: field('table', {
    fields: [
      { type: 'number', key: 'n', name: 'N' },
      { type: 'text', key: 't', name: 'T' },
    ],
  }),
  'sign-off': field('sign-off'),
  note: field('note', { text: 'Read this.' }),
} as const;
type Kind = keyof typeof FIELDS;

const CONTEXT: ReadContext = {
  zone: 'Europe/Vienna',
  findRecord: (workflow, id) => (workflow === 'other' && id === 'r7' ? { title: 'Lamp' } : null),
};
const FILE = { name: 'a.pdf', mediaType: 'application/pdf', bytes: 1200, sha256: 'ab'.repeat(32) };
const SIGNED = { by: 'carla', name: 'Carla', at: '2027-03-12T09:30:00Z', sha256: 'cd'.repeat(32), fields: ['text'] };
/** As it was stored before names and fields were. */
const SIGNED_BEFORE = { by: 'carla', at: '2027-03-12T09:30:00Z', sha256: 'cd'.repeat(32) };

function read(kind: Kind, json: Json | undefined): string {
  const result = readFieldValue(FIELDS[kind], json, CONTEXT);
  return result.ok ? show(result.value) : `${result.diagnostic.path}: ${result.diagnostic.code}`;
}

describe('reading a value', () => {
  test.each<[Kind, Json, string]>([
    ['text', '  Café ', '"Café"'],
    ['text', 'Cafe\u0301', '"Caf\u00e9"'],
    ['text', '   ', 'null'],
    ['long-text', 'a\nb', '"a\\nb"'],
    ['number', '12.50', '12.5'],
    ['number', ' -3 ', '-3'],
    ['number', '', 'null'],
    ['number', '0.1000000000000000000000000000000001', '0.1000000000000000000000000000000001'],
    ['money', '50000.01', '50000.01'],
    ['yes-no', true, 'true'],
    ['yes-no', false, 'false'],
    ['date', '2024-02-29', '2024-02-29'],
    ['time', '09:30', '09:30:00'],
    ['date-time', '2027-07-12T10:00:00Z', '2027-07-12T12:00:00+02:00'],
    ['date-time', '2027-07-12T10:00:00-05:00', '2027-07-12T17:00:00+02:00'],
    ['choice', 'red', '"red"'],
    ['choice', 'purple', '"purple"'],
    ['multi-choice', ['blue', 'red', 'blue'], '["red", "blue"]'],
    ['multi-choice', ['old', 'red'], '["red", "old"]'],
    ['multi-choice', [], 'null'],
    ['member', 'carla', '"carla"'],
    ['file', [], 'null'],
    ['note', 'anything', 'null'],
    ['table', [], '[]'],
    ['table', [{ id: 'a', values: { n: '1' } }], '[{n: 1, t: null}]'],
  ])('%s from %j', (kind, json, expected) => {
    expect(read(kind, json)).toBe(expected);
  });

  test.each(Object.keys(FIELDS) as readonly Kind[])('%s from nothing is empty', (kind) => {
    for (const nothing of [null, undefined]) {
      const result = readFieldValue(FIELDS[kind], nothing, CONTEXT);
      expect(result.ok && isEmpty(result.value)).toBe(true);
    }
  });

  test.each<[Kind, Json]>([
    ['text', 5],
    ['text', ['a']],
    ['number', 12],
    ['number', '1,5'],
    ['number', '1e'],
    ['number', 'Infinity'],
    ['yes-no', 'true'],
    ['yes-no', 1],
    ['date', '2023-02-29'],
    ['date', '12.03.2027'],
    ['time', '25:00'],
    ['date-time', 'yesterday'],
    ['choice', true],
    ['multi-choice', 'red'],
    ['multi-choice', [1]],
    ['file', 'a.pdf'],
    ['file', ['a.pdf']],
    ['file', [{ ...FILE, bytes: 1.5 }]],
    ['file', [{ ...FILE, sha256: 5 }]],
    ['reference', 7],
    ['sign-off', 'carla'],
    ['sign-off', { ...SIGNED, at: 'now' }],
    ['table', 'rows'],
    ['table', ['row']],
    ['table', [{ id: 'a' }]],
    ['table', [{ id: 'with space', values: {} }]],
    ['table', [{ id: 1, values: {} }]],
  ])('%s refuses %j', (kind, json) => {
    expect(read(kind, json)).toBe('f: value/wrong-type');
  });

  test.each<[string, Json, string]>([
    ['a cell of another type', [{ id: 'a', values: { n: true } }], 'f[a].n: value/wrong-type'],
    ['a column that isn’t there', [{ id: 'a', values: { m: '1' } }], 'f[a].m: value/unknown-field'],
    [
      'one id twice',
      [
        { id: 'a', values: {} },
        { id: 'a', values: {} },
      ],
      'f[a]: value/wrong-type',
    ],
    ['too many rows', Array.from({ length: 10_001 }, (_, index) => ({ id: `r${index}`, values: {} })), 'f: value/too-many-rows'],
  ])('a table refuses %s, at its place', (_, json, expected) => {
    expect(read('table', json)).toBe(expected);
  });

  test('a text beyond all bounds is refused', () => {
    expect(read('text', 'x'.repeat(100_001))).toBe('f: value/too-long');
    // A decimal128 holds 34 significant digits. A 35th would be rounded away without a word, so it is refused. Leading and trailing zeros
    // aren't significant.
    expect(read('number', '12345678901234567890123456789012345')).toBe('f: value/too-many-digits');
    expect(read('number', '0.000012345678901234567890123456789012345')).toBe('f: value/too-many-digits');
    expect(read('number', '00012345678901234567890123456789012340000')).not.toContain('value/');
  });

  test('prototype keys in a row are columns that aren’t there', () => {
    const rows = JSON.parse('[{"id":"a","values":{"__proto__":"1"}}]');
    expect(read('table', rows)).toBe('f[a].__proto__: value/unknown-field');
  });

  test('a reference reads through to what may be read of its record', () => {
    expect(read('reference', 'r7')).toBe('{title: "Lamp"}');
    expect(read('reference', 'r8')).toBe('{}');
  });
});

describe('writing a value', () => {
  test.each<[Kind, Json, Json]>([
    ['text', 'Lamp', 'Lamp'],
    ['number', '1.5', '1.50'],
    ['number', '1.005', '1.005'],
    ['money', '900', '900.00'],
    ['money', '-0.1', '-0.10'],
    ['money', '99999999999999999999.5', '99999999999999999999.50'],
    ['yes-no', false, false],
    ['date', '2024-02-29', '2024-02-29'],
    ['time', '09:30', '09:30:00'],
    ['date-time', '2027-07-12T12:00:00+02:00', '2027-07-12T10:00:00Z'],
    ['multi-choice', ['blue', 'red'], ['red', 'blue']],
    ['file', [FILE], [FILE]],
    ['reference', 'r7', 'r7'],
    ['sign-off', SIGNED, SIGNED],
    ['sign-off', SIGNED_BEFORE, { ...SIGNED_BEFORE, name: 'carla', fields: [] }],
    ['table', [{ id: 'a', values: { n: '1', t: ' x ' } }], [{ id: 'a', values: { n: '1', t: 'x' } }]],
  ])('%s %j', (kind, json, expected) => {
    const result = readFieldValue(FIELDS[kind], json, CONTEXT);
    if (!result.ok) throw new Error(result.diagnostic.code);
    expect(writeFieldValue(FIELDS[kind], result.value)).toEqual(expected);
    // What was written reads back as the same.
    const again = readFieldValue(FIELDS[kind], writeFieldValue(FIELDS[kind], result.value), CONTEXT);
    expect(again.ok && writeFieldValue(FIELDS[kind], again.value)).toEqual(expected);
  });

  test('without a field, as exactly as it is', () => {
    const value = readFieldValue(FIELDS.number, '1.50', CONTEXT);
    expect(value.ok && writeFieldValue(null, value.value)).toBe('1.5');
    expect(writeFieldValue(null, { kind: 'days-duration', ms: 1 })).toBeNull();
  });
});
