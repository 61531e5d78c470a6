import { readFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { listBuiltinNames } from '../expressions/builtins/registry.ts';
import { Workflow } from '../model/workflow.ts';
import { DIAGNOSTIC_CODES } from '../shared/codes.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { term, termOfProperty } from '../shared/terms.ts';
import { describeDiagnostic, howToMend } from './describe.ts';
import { EN } from './en.ts';

test('every code has a sentence, a way to mend it, and its line in docs/errors.md', () => {
  const page = readFileSync(new URL('../../../../docs/errors.md', import.meta.url), 'utf8');
  for (const code of DIAGNOSTIC_CODES) {
    const { text, mend } = EN.messages[code];
    expect(code).toMatch(/^[a-z-]+\/[a-z-]+$/);
    expect(text.length).toBeGreaterThan(10);
    expect(mend.length).toBeGreaterThan(5);
    expect(page).toContain(`| \`${code}\` `);
  }
});

test('every built-in has a sentence, and nothing else does', () => {
  expect(Object.keys(EN.builtins).sort()).toEqual([...listBuiltinNames()].sort());
});

test('placeholders are filled in: lists with commas, terms with their words', () => {
  const one = diagnostic('hand-off/no-branch', 'pass', { handOff: 'Pass', fields: ['price', 'kind'] });
  expect(describeDiagnostic(one)).toBe('No branch of “Pass” takes these values of price, kind.');
  expect(howToMend(one)).toContain('Tell the analyst');
  const list = term('type/list-of', { of: term('type/money', { currency: 'EUR' }) });
  const two = diagnostic('expression/wrong-result', 'x', { expected: term('type/date'), found: list });
  expect(describeDiagnostic(two)).toBe('This must give a date, and it gives a list of values, each an amount in EUR.');
});

test('every property of the model has words of its own for the history', () => {
  const found = new Set<string>();
  const seen = new Set<unknown>();
  type Schema = { readonly def: Readonly<Record<string, unknown>> };
  const visit = (schema: Schema | undefined): void => {
    if (!schema || seen.has(schema)) return;
    seen.add(schema);
    const { shape, options = [], innerType, element, valueType } = schema.def;
    for (const [name, inner] of Object.entries((shape ?? {}) as Record<string, Schema>)) {
      found.add(name);
      visit(inner);
    }
    for (const inner of [...(options as Schema[]), innerType, element, valueType]) visit(inner as Schema | undefined);
  };
  visit(Workflow as unknown as Schema);
  const without = [...found].filter((name) => typeof termOfProperty(name) === 'string');
  // Keys and codes have edits of their own.
  expect(without.sort()).toEqual(['code', 'key']);
  expect(termOfProperty('patternMessage')).toBe('patternMessage');
});
