import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { ASKER, CHIEF, CLERK, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import { aboutRecord } from './about.ts';

const options = [{ code: 'x', label: 'Express' }];
const workflow = smallCompiled({
  fields: [
    { type: 'number', key: 'count' },
    { type: 'text', key: 'secret', confidentialTo: ['chief'] },
    { type: 'choice', key: 'kind', options },
    { type: 'text', key: 'care', treatment: 'hidden' },
    { type: 'text', key: 'title' },
    { type: 'long-text', key: 'notes' },
  ],
  plan: { care: { work: 'optional' } },
});
const aboutFor = (who: typeof ASKER, values: object): string =>
  aboutRecord(workflow, recordOf(workflow, values as never, 'work'), who, OUTSIDE);

describe('what a record is about', () => {
  const values = { count: '3', secret: '42', kind: 'x', care: 'brittle', title: 'Lamp', notes: 'long' };

  test('is its first text and its first choice, by label, among what somebody is shown', () => {
    expect(aboutFor(ASKER, values)).toBe('Lamp · Express');
    expect(aboutFor(CLERK, values)).toBe('brittle · Express');
    expect(aboutFor(CHIEF, values)).toBe('42 · Express');
  });

  test('skips what is empty, and is empty where nothing is there', () => {
    expect(aboutFor(CLERK, { title: 'Lamp' })).toBe('Lamp');
    expect(aboutFor(CLERK, { kind: 'x' })).toBe('Express');
    expect(aboutFor(CLERK, { count: '3', notes: 'long' })).toBe('');
  });

  test('is cut, between characters', () => {
    expect(aboutFor(ASKER, { title: '🏺'.repeat(100) })).toBe(`${'🏺'.repeat(79)}…`);
  });
});
