import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { layOutJson } from './lay-out-json.ts';

describe('JSON with a line for each property', () => {
  test.each<[string, unknown]>([
    ['within each other', { a: { b: [1, { c: null }] }, d: true }],
    ['what is empty stays on its line', { a: {}, b: [], c: '' }],
    ['marks within texts are text', { 'a,b': '{"x": [1, 2]}' }],
    ['quotes and backslashes', { a: 'say "a"', b: 'C:\\', c: '\\"', d: '\\\\' }],
    ['signs beyond the basic plane', { a: '🏺"🏺', b: [1, 2] }],
  ])('%s: as JSON.stringify lays it out (ECMA-262, 25.5.2)', (_, value) => {
    expect(layOutJson(JSON.stringify(value))).toBe(JSON.stringify(value, null, 2));
  });

  test('whatever it is', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(layOutJson(JSON.stringify(value))).toBe(JSON.stringify(value, null, 2));
      }),
    );
  });

  test('digits that a double hasn’t stay', () => {
    expect(layOutJson('{"a":0.1234567890123456789012345}')).toBe('{\n  "a": 0.1234567890123456789012345\n}');
  });

  test('text that is no JSON is shown all the same', () => {
    expect(layOutJson('none')).toBe('none');
    expect(layOutJson('')).toBe('');
  });
});
