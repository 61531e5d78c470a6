import { readFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { listBuiltinNames } from '../expressions/builtins/registry.ts';
import { DIAGNOSTIC_CODES } from '../shared/codes.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { term } from '../shared/terms.ts';
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
