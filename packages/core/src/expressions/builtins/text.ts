import { exactInteger, findInteger } from '../../values/exact.ts';
import { writeText } from '../../values/text.ts';
import { isList, type Value } from '../../values/value.ts';
import { MAX_TEXT_VALUE } from '../tree.ts';
import { listOf, TYPES } from '../types.ts';
import { type Builtin, optional, parameter } from './builtin.ts';
import type { Pattern } from './pattern-engine.ts';
import { findPattern, readReplacement, replaceMatches } from './patterns.ts';

const CLAUSE = '10.3.4.3';
const { text, number, boolean, any } = TYPES;

const points = (value: string): string[] => Array.from(value);
const asText = (value: Value): string => value as string;

function integer(value: Value | undefined): number | null {
  return value !== null && typeof value === 'object' && !isList(value) && value?.kind === 'number' ? findInteger(value) : null;
}

function substring(given: readonly Value[]): Value {
  const characters = points(asText(given[0] as Value));
  const start = integer(given[1]);
  if (start === null || start === 0 || Math.abs(start) > characters.length) return null;
  const from = start > 0 ? start - 1 : characters.length + start;
  if (given[2] === undefined) return characters.slice(from).join('');
  const length = integer(given[2]);
  return length === null || length < 1 ? null : characters.slice(from, from + length).join('');
}

const replace = (given: readonly Value[]): Value => {
  const pattern = findPattern(asText(given[1] as Value), asText(given[3] ?? ''));
  const parts = pattern && readReplacement(asText(given[2] as Value), pattern.groupCount());
  return parts ? replaceMatches(pattern as Pattern, asText(given[0] as Value), parts) : null;
};

function matches(given: readonly Value[]): Value {
  const pattern = findPattern(asText(given[1] as Value), asText(given[2] ?? ''));
  return pattern ? pattern.matcher(asText(given[0] as Value)).find() : null;
}

function split(given: readonly Value[]): Value {
  const pattern = findPattern(asText(given[1] as Value));
  return pattern ? pattern.split(asText(given[0] as Value), -1) : null;
}

function join(given: readonly Value[]): Value {
  const parts = (given[0] as readonly Value[]).filter((part) => part !== null);
  if (!parts.every((part) => typeof part === 'string')) return null;
  const delimiter = (given[1] as string | null | undefined) ?? '';
  // Looked at before it is built: a long delimiter between many parts would fill the memory.
  const length = parts.reduce((sum, part) => sum + part.length, delimiter.length * Math.max(0, parts.length - 1));
  return length > MAX_TEXT_VALUE ? null : parts.join(delimiter);
}

const before = (whole: string, part: string): string => (whole.includes(part) ? whole.slice(0, whole.indexOf(part)) : '');
const after = (whole: string, part: string): string =>
  whole.includes(part) ? whole.slice(whole.indexOf(part) + part.length) : '';

const two = (
  name: string,
  second: string,
  result: typeof text | typeof boolean,
  call: (a: string, b: string) => Value,
): Builtin => ({
  name,
  clause: CLAUSE,
  signatures: [{ parameters: [parameter('string', text), parameter(second, text)], result }],
  call: ([a, b]) => call(asText(a as Value), asText(b as Value)),
});

const one = (name: string, result: typeof text | typeof number, call: (a: string) => Value): Builtin => ({
  name,
  clause: CLAUSE,
  signatures: [{ parameters: [parameter('string', text)], result }],
  call: ([a]) => call(asText(a as Value)),
});

export const textBuiltins: readonly Builtin[] = [
  {
    name: 'substring',
    clause: CLAUSE,
    partial: true,
    signatures: [
      { parameters: [parameter('string', text), parameter('start position', number), optional('length', number)], result: text },
    ],
    call: substring,
  },
  one('string length', number, (value) => exactInteger(points(value).length)),
  one('upper case', text, (value) => value.toUpperCase()),
  one('lower case', text, (value) => value.toLowerCase()),
  two('substring before', 'match', text, before),
  two('substring after', 'match', text, after),
  two('contains', 'match', boolean, (a, b) => a.includes(b)),
  two('starts with', 'match', boolean, (a, b) => a.startsWith(b)),
  two('ends with', 'match', boolean, (a, b) => a.endsWith(b)),
  {
    name: 'matches',
    steps: 60,
    stepsPerItem: 10,
    clause: CLAUSE,
    partial: true,
    signatures: [
      { parameters: [parameter('input', text), parameter('pattern', text), optional('flags', text)], result: boolean },
    ],
    call: matches,
  },
  {
    name: 'replace',
    clause: CLAUSE,
    partial: true,
    steps: 60,
    stepsPerItem: 30,
    signatures: [
      {
        parameters: [
          parameter('input', text),
          parameter('pattern', text),
          parameter('replacement', text),
          optional('flags', text),
        ],
        result: text,
      },
    ],
    call: replace,
  },
  {
    name: 'split',
    clause: CLAUSE,
    partial: true,
    steps: 60,
    stepsPerItem: 30,
    signatures: [{ parameters: [parameter('string', text), parameter('delimiter', text)], result: listOf(text) }],
    call: split,
  },
  {
    name: 'string join',
    clause: `${CLAUSE} (DMN 1.4)`,
    partial: true,
    takesNull: true,
    signatures: [{ parameters: [parameter('list', listOf(text, true)), optional('delimiter', text)], result: text }],
    call: (given) => (given[0] === null ? null : join(given)),
  },
  {
    name: 'string',
    clause: '10.3.4.1',
    signatures: [{ parameters: [parameter('from', any)], result: text }],
    call: ([value]) => writeText(value as Value),
  },
];
