import { expect, test } from '@jest/globals';
import { type Field, type Json, readFieldValue, writeCell, writeFieldValue } from '@ypomet/core';
import { askWorkflow } from '../../../testing/ask-workflow.ts';
import { readCell } from './read-cell.ts';

const { fields } = askWorkflow([
  { type: 'text', key: 'title', name: 'Title' },
  { type: 'long-text', key: 'notes', name: 'Notes' },
  {
    type: 'choice',
    key: 'material',
    name: 'Material',
    options: [
      { code: 'paper', label: 'Paper' },
      { code: 'glass', label: 'Glass' },
      { code: 'lead', label: 'Lead', retired: true },
    ],
  },
  { type: 'money', key: 'value', name: 'Insured value', currency: 'EUR' },
  { type: 'number', key: 'weight', name: 'Weight', unit: 'kg', scale: 1 },
  { type: 'number', key: 'exact', name: 'Exact', scale: 3 },
  { type: 'yes-no', key: 'fragile', name: 'Fragile' },
  { type: 'date', key: 'made', name: 'Made' },
  { type: 'time', key: 'at', name: 'At' },
  { type: 'date-time', key: 'seen', name: 'Seen' },
  {
    type: 'multi-choice',
    key: 'care',
    name: 'Care',
    options: [
      { code: 'crate', label: 'Climate crate' },
      { code: 'courier', label: 'Courier' },
      { code: 'paper', label: 'Paper, acid-free' },
    ],
  },
  { type: 'member', key: 'keeper', name: 'Keeper' },
]);
const STYLE = { zone: 'Europe/Vienna', today: '2026-12-01' };
const fieldOf = (key: string): Field => fields.find((one) => one.key === key) as Field;

test.each([
  ['title', ' Storm lantern ', 'Storm lantern'],
  ['title', 'Storm\nlantern', 'Storm lantern'],
  ['title', '=1+1', '=1+1'],
  ['notes', 'a\nb', 'a\nb'],
  ['material', 'Paper', 'paper'],
  ['material', 'gLASS', 'glass'],
  ['material', 'paper', 'paper'],
  ['material', 'Lead', 'none of the options'],
  ['value', '1,250.50', '1250.5'],
  ['value', '€1,250.50', '1250.5'],
  ['value', 'EUR 1,250', '1250'],
  ['value', '-3', '-3'],
  ['value', '0.005', 'a number of more than 2 decimal places'],
  ['value', '1.005', 'either 1.005 or 1005'],
  ['value', '$5', 'an amount in another currency or unit'],
  ['value', 'much', 'not a number'],
  ['weight', '2.5 kg', '2.5'],
  ['weight', '2.5 g', 'not a number'],
  ['fragile', 'Yes', true],
  ['fragile', 'x', true],
  ['fragile', 'FALSE', false],
  ['fragile', 'maybe', 'neither yes nor no'],
  ['made', '12 Mar 2027', '2027-03-12'],
  ['made', '2027-02-31', 'not a day of the calendar'],
  ['at', '9:30', '09:30'],
  ['at', '25:00', 'not a time'],
  ['seen', '12 Mar 2027, 09:30', '2027-03-12T08:30:00Z'],
  ['seen', '28 Mar 2027, 02:30', 'a time that the clocks skip on that day'],
  ['care', 'Courier; climate crate', ['courier', 'crate']],
  ['care', 'Courier; boat', 'not all of the options'],
  ['care', 'Paper, acid-free, Courier', ['paper', 'courier']],
  ['care', ', Courier\n', ['courier']],
  ['seen', '2027-03-12T08:30:00Z', '2027-03-12T08:30:00Z'],
  ['keeper', 'Carla Wendt', 'to be chosen by hand'],
  ['value', '   ', null],
] as const)('a cell of %s: “%s”', (key, text, expected) => {
  const result = readCell(text, fieldOf(key), { ...STYLE, locale: 'en-GB' });
  expect('json' in result ? result.json : result.why).toEqual(expected);
});

test('numbers are read as the workspace’s people write them', () => {
  expect(readCell('1.250,50', fieldOf('value'), { ...STYLE, locale: 'de-DE' })).toEqual({ json: '1250.5' });
  expect(readCell('1.250,50 €', fieldOf('value'), { ...STYLE, locale: 'de-DE' })).toEqual({ json: '1250.5' });
});

test('numbers are read by another mark where somebody else wrote them', () => {
  const exact = fieldOf('exact');
  expect(readCell('1.125', exact, { ...STYLE, locale: 'de-DE' })).toEqual({ json: '1125' });
  expect(readCell('1.125', exact, { ...STYLE, locale: 'de-DE', decimal: '.' })).toEqual({ json: '1.125' });
  expect(readCell('1,125', exact, { ...STYLE, locale: 'en-GB', decimal: ',' })).toEqual({ json: '1.125' });
});

const VALUES: readonly (readonly [string, Json])[] = [
  ['title', 'Storm lantern'],
  ['notes', 'two\nlines'],
  ['material', 'glass'],
  ['value', '1250.50'],
  ['value', '-1250'],
  ['weight', '0.5'],
  ['exact', '1.125'],
  ['exact', '1250'],
  ['fragile', true],
  ['fragile', false],
  ['made', '2027-03-12'],
  ['at', '09:30'],
  ['seen', '2027-03-12T08:30:00Z'],
  // A time with milliseconds, both hours that the clocks show as 02:30 when summer time ends, and a day in the year 1.
  ['seen', '2027-03-12T08:30:15.125Z'],
  ['seen', '2026-10-25T00:30:00Z'],
  ['seen', '2026-10-25T01:30:00Z'],
  ['at', '09:30:15.125'],
  ['made', '0001-01-01'],
  ['title', 'a � b'],
  ['care', ['crate', 'courier', 'paper']],
];

// What an export writes means the same when it is brought in again, in whichever language the workspace is.
test.each(['en-GB', 'en-US', 'de-DE', 'de-CH', 'fr-FR', 'sv-SE', 'pl-PL', 'uk-UA'])(
  'cells of an export are read as they were: %s',
  (locale) => {
    const context = { zone: 'Europe/Vienna', findRecord: () => null };
    for (const [key, json] of VALUES) {
      const field = fieldOf(key);
      const value = readFieldValue(field, json, context);
      if (!value.ok) throw new Error(key);
      const cell = writeCell(value.value, field, { locale, zone: context.zone });
      const back = readCell(cell, field, { ...STYLE, locale, decimal: '.' });
      const again = 'json' in back ? readFieldValue(field, back.json, context) : null;
      expect([cell, again?.ok && writeFieldValue(field, again.value)]).toEqual([cell, writeFieldValue(field, value.value)]);
    }
  },
);
