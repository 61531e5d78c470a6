import { describe, expect, test } from '@jest/globals';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { CHIEF, CLERK, handedOn, recordOf, type SmallParts, smallCompiled } from '@ypomet/testkit/small-workflow';
import { answerOf, mailsOf } from '@ypomet/testkit/told';
import { exactInteger } from '../values/exact.ts';
import type { Value } from '../values/value.ts';
import { makeOutside, type Outside } from './record.ts';

// A text for somebody who may not know a condition writes neither side of a passage: either side would tell them, or tell them wrongly.

/** Returns a template with a passage in a line, a plural, and a passage around a paragraph. */
const passages = (condition: string, count: string): string =>
  [
    `[{{#when ${condition}}}dear{{#else}}cheap{{/when}}]`,
    `[{{#plural ${count}: one | many}}]`,
    `\n\n{{#when ${condition}}}\nDear.\n{{#else}}\nCheap.\n{{/when}}`,
    '\n\nEnd.',
  ].join('');

const deliveries = (text: string, line: string): readonly object[] =>
  ['chief', 'clerk'].map((role) => ({
    kind: 'mail',
    key: role,
    name: role,
    to: [{ kind: 'role', role }],
    subject: line,
    body: text,
  }));

const LINE = (condition: string): string => `Subject {{#when ${condition}}}dear{{#else}}cheap{{/when}}`;
const parts = (fields: NonNullable<SmallParts['fields']>, condition: string, count: string): SmallParts => ({
  fields,
  handOffs: {
    finish: {
      acknowledgements: [{ key: 'told', text: passages(condition, count) }],
      deliveries: deliveries(passages(condition, count), LINE(condition)),
    },
  },
});
const KNOWN = '[dear][many]\n\nDear.\n\nEnd.';
const UNKNOWN = '[][]\n\nEnd.';

describe('a passage under a condition over a confidential value', () => {
  const salary = { type: 'number', key: 'salary', confidentialTo: ['chief'] };
  const high = { type: 'yes-no', key: 'high', expression: 'salary > 50' };
  const workflow = smallCompiled(parts([salary, high], 'high', 'salary'));
  const record = recordOf(workflow, { salary: '100' }, 'work');

  test.each([
    ['the chief', CHIEF, KNOWN],
    ['the clerk', CLERK, UNKNOWN],
  ])('says what it is for %s, or nothing', (_, actor, expected) => {
    expect(answerOf(handedOn(workflow, record, 'finish', {}, actor))).toBe(expected);
  });

  test('says it in the mail of whoever may read it alone, and in no subject, which stands in the dispatch log', () => {
    const sent = mailsOf(handedOn(workflow, record, 'finish', {}, CHIEF));
    expect(sent.map(({ delivery, subject, body }) => [delivery, subject, body])).toEqual([
      ['chief', 'Subject', KNOWN],
      ['clerk', 'Subject', UNKNOWN],
    ]);
  });

  test('is a warning that names the value and who doesn’t get the passage', () => {
    const warnings = workflow.diagnostics.filter(({ code }) => code === 'readers/withheld-passage');
    expect([...new Set(warnings.map(({ path }) => path))]).toEqual([
      'handOffs.finish.deliveries.chief.subject',
      'handOffs.finish.deliveries.clerk.subject',
      'handOffs.finish.deliveries.clerk.body',
      'handOffs.finish.acknowledgements.told.text',
    ]);
    expect(warnings.at(-1)?.params).toEqual({ sources: ['salary'], who: 'Clerk' });
  });
});

describe('a passage under a condition over another record', () => {
  const other = smallCompiled({
    key: 'other',
    fields: [
      { type: 'number', key: 'cost' },
      { type: 'text', key: 'title' },
    ],
  }).definition;
  const find = (key: string) => (key === 'other' ? other : null);
  const seen: Readonly<Record<string, Value>> = { cost: exactInteger(100), title: 'T' };
  const { cost: _, ...withoutCost } = seen;
  const about = { type: 'reference', key: 'about', workflow: 'other' };

  const outsideFor = (clerk: Readonly<Record<string, Value>> | null): Outside =>
    makeOutside({
      ...OUTSIDE,
      findRecord: () => seen,
      findRecordFor: (reader) => (reader.kind === 'role' && reader.role === 'chief' ? seen : clerk),
    });

  test.each<[string, string, string]>([
    ['read from it', 'about.cost > 50', 'about.cost'],
    ['computed from it', 'high', 'twice'],
    ['read from it in a row', 'some l in lines satisfies l.on.cost > 50', 'sum(for l in lines return l.on.cost)'],
  ])('says nothing to whoever may not see that record, or that field of it: %s', (_name, condition, count) => {
    const fields = [
      about,
      { type: 'yes-no', key: 'high', expression: 'about.cost > 50' },
      { type: 'number', key: 'twice', expression: 'about.cost * 2' },
      { type: 'table', key: 'lines', fields: [{ ...about, key: 'on', name: 'On' }] },
    ];
    const workflow = smallCompiled(parts(fields, condition, count), find);
    const values = { about: 'o1', lines: [{ id: 'a', values: { on: 'o1' } }] };
    const record = recordOf(workflow, values, 'work');
    const bodies = (clerk: typeof seen | null): readonly string[] =>
      mailsOf(handedOn(workflow, record, 'finish', {}, CHIEF, outsideFor(clerk))).map(({ body }) => body);
    expect(bodies(seen)).toEqual([KNOWN, KNOWN]);
    expect(bodies(null)).toEqual([KNOWN, UNKNOWN]);
    expect(bodies(withoutCost)).toEqual([KNOWN, UNKNOWN]);
  });

  test('a reference that is empty is nothing withheld: what follows #else is so', () => {
    const workflow = smallCompiled(parts([about], 'about.cost > 50', 'about.cost'), find);
    const sent = mailsOf(handedOn(workflow, recordOf(workflow, {}, 'work'), 'finish', {}, CHIEF, outsideFor(null)));
    expect(sent.map(({ body }) => body)).toEqual(Array(2).fill('[cheap][many]\n\nCheap.\n\nEnd.'));
  });

  test('of follow-ups that somebody sees in part, or that others read of, nothing is said but how many there are', () => {
    const followUp = { key: 'f', name: 'F', workflow: 'other', handOff: 'send', carried: [] };
    const condition = 'count(followUps.other) = 2';
    const text = `${passages(condition, 'count(followUps.other)')} {{followUps.open}}`;
    const workflow = smallCompiled(
      {
        handOffs: {
          finish: { followUps: [followUp], acknowledgements: [{ key: 'a', text }], deliveries: deliveries(text, 'S') },
        },
      },
      find,
    );
    const record = { ...recordOf(workflow, {}, 'work'), followUps: { open: 2, done: 0 } };
    const told = (list: readonly (typeof seen)[]) => {
      const result = handedOn(workflow, record, 'finish', {}, CHIEF, makeOutside({ ...OUTSIDE, findFollowUps: () => list }));
      return [answerOf(result), ...new Set(mailsOf(result).map(({ body }) => body))];
    };
    expect(told([seen, seen])).toEqual([`${KNOWN} 2`, `${UNKNOWN} 2`]);
    expect(told([seen])).toEqual([`${UNKNOWN} 2`, `${UNKNOWN} 2`]);
  });
});
