import { describe, expect, test } from '@jest/globals';
import { Field } from '../model/field.ts';
import { readFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { readExact } from '../values/exact.ts';
import { readDateTime, readDuration } from '../values/temporal.ts';
import type { Value } from '../values/value.ts';
import { formatValue, type Style } from './format-value.ts';

const EN: Style = { locale: 'en', zone: 'Europe/Vienna' };
const DE: Style = { locale: 'de', zone: 'Europe/Vienna' };
const field = (type: string, more: object = {}): Field => Field.parse({ type, key: 'f', name: 'F', section: 's', ...more });

function formatted(own: Field, json: Json, style: Style = EN): string {
  const read = readFieldValue(own, json, { zone: style.zone, findRecord: () => null });
  if (!read.ok) throw new Error(read.diagnostic.code);
  return formatValue(read.value, own, style).replaceAll('\u202f', ' ').replaceAll('\u00a0', ' ');
}

describe('values as people read them (formats of Unicode CLDR, by the language’s own Intl)', () => {
  const options = [
    { code: 'home', label: 'At home' },
    { code: 'away', label: 'Away' },
  ];
  test.each<[string, Field, Json, Style, string]>([
    ['text', field('text'), 'Lamp', EN, 'Lamp'],
    ['a number at its scale', field('number', { scale: 2 }), '1234.5', EN, '1,234.50'],
    ['a number in German', field('number', { scale: 2 }), '1234.5', DE, '1.234,50'],
    ['more places than the scale are not hidden', field('number', { scale: 1 }), '0.125', EN, '0.125'],
    ['a unit', field('number', { unit: 'lux' }), '50', EN, '50 lux'],
    ['money', field('money', { currency: 'EUR' }), '50000', EN, '€50,000.00'],
    ['money in German', field('money', { currency: 'EUR' }), '50000.5', DE, '50.000,50 €'],
    ['a currency without cents', field('money', { currency: 'JPY', scale: 0 }), '1200', EN, '¥1,200'],
    [
      'beyond doubles, every digit',
      field('money', { currency: 'EUR' }),
      '90071992547409931.25',
      EN,
      '€90,071,992,547,409,931.25',
    ],
    ['yes', field('yes-no'), true, EN, 'yes'],
    ['no', field('yes-no'), false, EN, 'no'],
    ['a date', field('date'), '2027-03-12', EN, 'Mar 12, 2027'],
    ['a date in German', field('date'), '2027-03-12', DE, '12. März 2027'],
    ['a time', field('time'), '13:05', DE, '13:05'],
    ['a moment, in the workspace’s zone', field('date-time'), '2027-07-12T22:30:00Z', DE, '13. Juli 2027, 00:30'],
    ['an option by its label', field('choice', { options }), 'home', EN, 'At home'],
    ['an option that is gone by its code', field('choice', { options }), 'gone', EN, 'gone'],
    ['several options', field('multi-choice', { options }), ['away', 'home'], EN, 'At home, Away'],
    ['files by name', field('file'), [{ name: 'a.pdf', mediaType: 'x/y', bytes: 1, sha256: 'f' }], EN, 'a.pdf'],
    [
      'a sign-off',
      field('sign-off'),
      { by: 'Carla', at: '2027-03-12T09:30:00Z', sha256: 'f' },
      DE,
      'Carla, 12. März 2027, 10:30',
    ],
    ['a reference by its id', field('reference', { workflow: 'w' }), 'r7', EN, 'r7'],
    ['nothing', field('text'), null, EN, ''],
  ])('%s', (_, own, json, style, expected) => {
    expect(formatted(own, json, style)).toBe(expected);
  });

  test('rows, one a line, without their empty cells', () => {
    const table = field('table', {
      fields: [
        { type: 'text', key: 't', name: 'T' },
        { type: 'money', key: 'm', name: 'M', currency: 'EUR' },
      ],
    });
    const rows = [
      { id: 'a', values: { t: 'Lamp', m: '5' } },
      { id: 'b', values: { t: 'Table' } },
    ];
    expect(formatted(table, rows)).toBe('Lamp · €5.00\nTable');
  });

  test('values without a field', () => {
    expect(formatValue(readDuration('P1DT2H'), null, EN)).toBe('1 day 2 hours');
    expect(formatValue(readDuration('-P1Y2M'), null, EN)).toBe('−1 year 2 months');
    expect(formatValue(readDuration('PT0.5S'), null, EN)).toBe('0.5 seconds');
    expect(formatValue(readDuration('P0D'), null, EN)).toBe('0 seconds');
    expect(formatValue(readDuration('P30D'), null, { locale: 'de-DE', zone: 'UTC' })).toBe('30 Tage');
    const [low, high] = [readExact('1'), readExact('5')] as [Value, Value];
    expect(formatValue({ kind: 'range', low, high, includesLow: true, includesHigh: true }, null, EN)).toBe('1 – 5');
    expect(formatValue({ kind: 'context', id: null, entries: { name: 'Registrar' } }, null, EN)).toBe('Registrar');
    expect(formatValue([low, null, high], null, EN)).toBe('1, 5');
    expect(formatValue(readDateTime('2027-01-12T10:00:00', 'Europe/Vienna'), null, EN)).toContain('Jan 12, 2027');
  });
});
