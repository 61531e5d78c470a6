import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Json } from '../shared/json.ts';
import { readExact } from './exact.ts';
import type { Value } from './value.ts';
import { findProperty, nestProperties, type OutsideJson, toOutsideJson, writeFormValue, writeOutsideJson } from './write-json.ts';

const number = (text: string): Value => readExact(text) as Value;
const text = (value: Value): string => writeOutsideJson(toOutsideJson(value));

describe('a value as other programs read it', () => {
  test.each<[string, Value, string]>([
    ['nothing', null, 'null'],
    ['yes', true, 'true'],
    ['no', false, 'false'],
    ['a text', 'a "b"\n\\ ü \u2028', JSON.stringify('a "b"\n\\ ü \u2028')],
    ['an empty text', '', '""'],
    // RFC 8259, section 6: a number has no leading zeros and no plus.
    ['a whole number', number('12'), '12'],
    ['a negative one', number('-0.50'), '-0.5'],
    ['nought', number('0'), '0'],
    // A double has about 16 digits; this has more.
    ['all digits', number('12345678901234567890.123456789'), '12345678901234567890.123456789'],
    // ISO 8601-1, sections 5.2 to 5.5.
    ['a day', { kind: 'date', day: 0 } as Value, '"1970-01-01"'],
    ['days', { kind: 'days-duration', ms: 90_000_000 } as Value, '"P1DT1H"'],
    ['months', { kind: 'months-duration', months: 14 } as Value, '"P1Y2M"'],
    ['a list', ['a', null, number('1')] as Value, '["a",null,1]'],
    ['an empty list', [] as Value, '[]'],
    ['a row', { kind: 'context', id: 'r', entries: { b: 'x', a: number('2') } } as Value, '{"b":"x","a":2}'],
    ['a range', { kind: 'range', low: null, high: null } as unknown as Value, 'null'],
  ])('%s', (_, value, expected) => {
    expect(text(value)).toBe(expected);
  });

  test('every text is what JSON.parse reads back (ECMA-404)', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (own) => expect(JSON.parse(text(own))).toBe(own)));
  });

  test('every number is what JSON.parse reads as nearest', () => {
    fc.assert(
      fc.property(fc.bigInt({ min: -(10n ** 20n), max: 10n ** 20n }), fc.nat({ max: 6 }), (digits, places) => {
        const written = `${digits < 0n ? '-' : ''}${String(digits < 0n ? -digits : digits).padStart(places + 1, '0')}`;
        const cut = written.length - places;
        const decimal = places === 0 ? written : `${written.slice(0, cut)}.${written.slice(cut)}`;
        expect(JSON.parse(text(number(decimal)))).toBeCloseTo(Number(decimal), 6);
      }),
    );
  });
});

describe('a value in a form', () => {
  test.each<[string, OutsideJson, string]>([
    ['nothing is empty', null, ''],
    ['a text is itself', 'a b', 'a b'],
    ['a number has its digits', { number: '1.50' }, '1.50'],
    ['yes', true, 'true'],
    ['a list is JSON', ['a', { number: '1' }], '["a",1]'],
    ['an object is JSON', { object: [['a', null]] }, '{"a":null}'],
  ])('%s', (_, json, expected) => {
    expect(writeFormValue(json)).toBe(expected);
  });
});

describe('names with points', () => {
  const nested = (...names: readonly string[]): string =>
    writeOutsideJson(nestProperties(names.map((name, at) => [name, { number: String(at) }] as const)));

  test.each<[string, readonly string[], string]>([
    ['no names', [], '{}'],
    ['within each other', ['a.b.c'], '{"a":{"b":{"c":0}}}'],
    ['beside each other, wherever they stand', ['a.x', 'b', 'a.y'], '{"a":{"x":0,"y":2},"b":1}'],
    ['of the same name the first stays', ['a', 'a'], '{"a":0}'],
    ['a value that should hold another stays a value', ['a', 'a.b'], '{"a":0}'],
    ['an object that should be a value stays an object', ['a.b', 'a'], '{"a":{"b":0}}'],
    ['names of JavaScript’s objects are names', ['__proto__.x', 'constructor'], '{"__proto__":{"x":0},"constructor":1}'],
  ])('%s', (_, names, expected) => {
    expect(nested(...names)).toBe(expected);
  });

  test('what is put under a name is found under it', () => {
    const step = fc.stringMatching(/^[a-z]{1,3}$/);
    const name = fc.array(step, { minLength: 1, maxLength: 3 }).map((steps) => steps.join('.'));
    fc.assert(
      fc.property(name, fc.string(), (own, value) => {
        const json = JSON.parse(writeOutsideJson(nestProperties([[own, value]]))) as Json;
        expect(findProperty(json, own)).toBe(value);
      }),
    );
  });

  const ANSWER: Json = { offer: { premium: 12, tags: ['a', { b: true }] }, none: null, '': 'empty' };
  test.each<[string, unknown]>([
    ['offer.premium', 12],
    ['offer.tags.0', 'a'],
    ['offer.tags.1.b', true],
    ['none', null],
    ['', 'empty'],
    ['offer.tags.2', undefined],
    ['offer.tags.-1', undefined],
    ['offer.tags.length', undefined],
    ['offer.tags.0x0', undefined],
    ['none.more', undefined],
    ['offer.premium.more', undefined],
    ['toString', undefined],
    ['__proto__', undefined],
    ['offer.constructor.name', undefined],
  ])('“%s” leads to %s', (name, expected) => {
    expect(findProperty(ANSWER, name)).toEqual(expected);
  });
});
