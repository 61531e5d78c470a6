import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Key } from './keys.ts';
import { makeCode, makeKey } from './make-key.ts';

const key = (name: string, taken: readonly string[] = []): string => makeKey(name, new Set(taken), 'field');

test.each([
  ['Venue country', 'venueCountry'],
  ['  Lux limit (max.) ', 'luxLimitMax'],
  ['Prüfung: größte Höhe', 'prufungGrossteHohe'],
  ['Łódź æther', 'lodzAether'],
  ['2nd visit', 'field2ndVisit'],
  ['Straße', 'strasse'],
  ['record', 'record2'],
  ['And', 'and2'],
  ['تاريخ', 'field'],
  ['😀', 'field'],
  ['', 'field'],
  ['ﬁle №1', 'fileNo1'],
  ['a b c d e f g h', 'aBCDEF'],
])('%j is %s', (name, expected) => {
  expect(key(name)).toBe(expected);
});

test('what is taken is followed by a number', () => {
  expect(key('Total', ['total', 'total2'])).toBe('total3');
  expect(makeCode('Home', new Set(['home']))).toBe('home2');
});

test('whatever something is called, it has a key of its own', () => {
  const taken = new Set<string>();
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (name) => {
      const made = makeKey(name, taken, 'field');
      expect(Key.safeParse(made).success).toBe(true);
      expect(taken.has(made)).toBe(false);
      taken.add(made);
    }),
  );
});
