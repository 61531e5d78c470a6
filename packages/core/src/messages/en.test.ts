import { readFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { diagnostic } from '../shared/diagnostic.ts';
import { describeDiagnostic, howToMend, MESSAGES } from './en.ts';

test('every code has a sentence, a way to mend it, and its line in docs/errors.md', () => {
  const page = readFileSync(new URL('../../../../docs/errors.md', import.meta.url), 'utf8');
  for (const [code, { text, mend }] of Object.entries(MESSAGES)) {
    expect(code).toMatch(/^[a-z-]+\/[a-z-]+$/);
    expect(text.length).toBeGreaterThan(10);
    expect(mend.length).toBeGreaterThan(5);
    expect(page).toContain(`| \`${code}\` `);
  }
});

test('placeholders are filled in, lists with commas', () => {
  const one = diagnostic('hand-off/no-branch', 'pass', { handOff: 'Pass', fields: ['price', 'kind'] });
  expect(describeDiagnostic(one)).toBe('No branch of “Pass” takes these values of price, kind.');
  expect(howToMend(one)).toContain('Tell the analyst');
});
