import { describe, expect, test } from '@jest/globals';
import type { OutcomeDifference } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { differenceWords } from './test-words.ts';

const definition = sampleWorkflow();
const crates = { ...definition, key: 'crates', name: 'Crates' };
const workflow = { definition, findWorkflow: (key: string) => (key === 'crates' ? crates : null) };
const said = (
  what: OutcomeDifference['what'],
  expected: string | null,
  found: string | null,
  key: string | null = null,
): string => differenceWords({ step: 2, what, key, expected, found }, workflow);

describe('what a test found otherwise, in a sentence', () => {
  test.each<[string, string]>([
    [said('to', 'check', 'done'), 'Step 2: went to Check, now goes to Done.'],
    [said('to', 'check', null), 'Step 2: went to Check, now goes to nowhere, it is refused.'],
    [said('to', 'gone', 'done'), 'Step 2: went to gone, now goes to Done.'],
    [said('treatment', 'required', 'hidden', 'price'), 'Step 2: Price was required, now is hidden.'],
    [said('treatment', null, 'hidden', 'gone'), 'Step 2: gone was as planned, now is hidden.'],
    [said('sent', null, 'Mail → boss: Hello'), 'Step 2: now sends Mail → Boss: Hello.'],
    [said('not-sent', 'Mail → boss: Hello', null), 'Step 2: no longer sends Mail → Boss: Hello.'],
    [said('opened', null, 'gone by send'), 'Step 2: now opens gone by send.'],
    [said('not-opened', 'crates by send for row 7f3', null), 'Step 2: no longer opens Crates by “Send”, for one row.'],
    [said('answer', 'Thanks.', null), 'Step 2: said “Thanks.”, now says “nothing”.'],
    [said('not-reached', 'done', null), 'Step 2: is no longer reached.'],
  ])('%s', (sentence, expected) => {
    expect(sentence).toBe(expected);
  });
});
