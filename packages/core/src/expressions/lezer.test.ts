import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { conditionNode } from '@ypomet/testkit/generators';
import fc from 'fast-check';
import { parser } from 'lezer-feel';
import { parseExpression } from './parse.ts';
import { printExpression } from './print.ts';

/*
 * The grammar of lezer-feel 3.0.1, which we didn't write: both accept the same texts. lezer-feel recovers from errors and
 * marks them in its tree; a text without marks is accepted.
 */
const expressionParser = parser.configure({ top: 'Expression' });
function isAcceptedElsewhere(text: string): boolean {
  let isError = false;
  expressionParser.parse(text).iterate({
    enter: (node) => {
      isError ||= node.type.isError;
    },
  });
  return !isError;
}
const isAccepted = (text: string): boolean => parseExpression(text).ok;

const folder = path.resolve(import.meta.dirname, '../../../../conformance');
type Case = { readonly expression: string; readonly refused?: string };
const cases: readonly Case[] = readdirSync(folder).flatMap(
  (name) => JSON.parse(readFileSync(path.join(folder, name), 'utf8')).expressions ?? [],
);
test.each(cases.filter((one) => one.refused === undefined).map((one) => one.expression))('accepted by both: %s', (text) => {
  expect(isAccepted(text)).toBe(true);
  expect(isAcceptedElsewhere(text)).toBe(true);
});

/** Errors that the profile finds while reading, where the grammar alone has none. */
const STRICTER: Readonly<Record<string, string>> = {
  'expression/bad-temporal': 'a literal of a date, time or duration is read at once',
  'expression/unknown-function': 'only built-ins can be called',
  'expression/unknown-function-near': 'only built-ins can be called',
  'expression/left-out': 'the profile leaves it out',
  'expression/unexpected': 'unary tests stand only in decision tables and after `in`',
};

test.each(cases.filter((one) => !isAccepted(one.expression)).map((one) => [one.expression, one.refused ?? ''] as const))(
  'refused: %s',
  (text, code) => {
    if (isAcceptedElsewhere(text)) expect(Object.keys(STRICTER)).toContain(code);
  },
);

/** A printed condition with one or two of its tokens replaced, dropped or doubled. */
const damaged = (tokens: readonly string[]): fc.Arbitrary<string> =>
  fc.tuple(conditionNode, fc.nat(), fc.nat({ max: 2 }), fc.constantFrom(...tokens)).map(([node, at, count, token]) => {
    const parts = printExpression(node).split(/(\s+|[()[\],"]|\.\.)/);
    parts.splice(at % parts.length, count, token);
    return parts.join('');
  });

describe('damaged texts', () => {
  test('whatever is accepted is accepted by the other grammar', () => {
    const tokens = ['', ' ', '(', ')', '[', ']', ',', '..', '"', 'and', ' or ', 'not', ' in ', '1', '-', '@', '.', '**', '='];
    let accepted = 0;
    fc.assert(
      fc.property(damaged(tokens), (text) => {
        if (!isAccepted(text)) return;
        accepted += 1;
        expect([text, isAcceptedElsewhere(text)]).toEqual([text, true]);
      }),
      { numRuns: 3000 },
    );
    expect(accepted).toBeGreaterThan(300);
  });

  test('brackets, quotes and commas out of place are refused by both', () => {
    let refused = 0;
    fc.assert(
      fc.property(damaged(['(', ')', '[', ']', ',', '"']), (text) => {
        if (isAcceptedElsewhere(text)) return;
        refused += 1;
        expect([text, isAccepted(text)]).toEqual([text, false]);
      }),
      { numRuns: 2000 },
    );
    expect(refused).toBeGreaterThan(500);
  });
});
