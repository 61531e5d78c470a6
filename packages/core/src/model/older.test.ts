import { describe, expect, test } from '@jest/globals';
import { type SmallParts, smallWorkflow } from '@ypomet/testkit/small-workflow';
import { openStoredWorkflow } from './stored.ts';
import type { Workflow } from './workflow.ts';

// A definition that was stored before the model had something in it opens as if it had been read today.
const MAIL = {
  kind: 'mail',
  key: 'tell',
  name: 'Tell',
  to: [{ key: 'one', kind: 'role', role: 'clerk' }],
  subject: 's',
  body: 'b',
};
const PARTS: SmallParts = {
  fields: [
    { type: 'text', key: 'title' },
    { type: 'number', key: 'size' },
    { type: 'file', key: 'papers' },
    { type: 'table', key: 'rows', fields: [{ type: 'number', key: 'n', name: 'N' }] },
    { type: 'note', key: 'hint', text: 'x' },
  ],
  stages: {
    work: { assignment: { kind: 'role', role: 'clerk' }, onArrival: { deliveries: [MAIL] } },
    done: { notes: 'seen by colleagues' },
  },
  handOffs: {
    send: {
      deliveries: [MAIL, { kind: 'web', key: 'ask', name: 'Ask', outlet: 'insurer' }],
      acknowledgements: [{ key: 'thanks', text: 'Thanks' }],
      followUps: [{ key: 'next', name: 'Next', workflow: 'other', handOff: 'send' }],
    },
  },
};
const today = smallWorkflow(PARTS);

/** A copy in which whatever `at` finds lacks some properties. */
function without(workflow: Workflow, at: (copy: Loose) => readonly Loose[], ...names: readonly string[]): Workflow {
  const copy = structuredClone(workflow) as unknown as Loose;
  for (const part of at(copy)) for (const name of names) delete part[name];
  return copy as unknown as Workflow;
}
// biome-ignore lint/suspicious/noExplicitAny: parts of every shape lose properties here
type Loose = any;

describe('what came since is filled in', () => {
  test.each<[string, (copy: Loose) => readonly Loose[], readonly string[]]>([
    ['to the workflow', (copy) => [copy], ['submitterSees', 'tests']],
    ['to stages and tracks', (copy) => [copy.stages[0], copy.stages[1], ...copy.tracks], ['notes']],
    ['to a hand-off', (copy) => copy.handOffs, ['followUpPolicy']],
    ['to a follow-up', (copy) => copy.handOffs[0].followUps, ['carriesFiles', 'assignee']],
    ['to an acknowledgement', (copy) => copy.handOffs[0].acknowledgements, ['name']],
    ['to an assignment', (copy) => [copy.stages[1].assignment], ['share', 'otherwise']],
    [
      'to a mail, wherever it is sent',
      (copy) => [copy.handOffs[0].deliveries[0], copy.stages[1].onArrival.deliveries[0]],
      ['outlet', 'cc', 'bcc', 'replyTo', 'senderName', 'attach', 'attachFiles'],
    ],
    ['to fields', (copy) => copy.fields, ['short', 'messages']],
    ['to fields that can be filled', (copy) => copy.fields.slice(0, 2), ['default']],
    ['to files', (copy) => [copy.fields[2]], ['kinds']],
    ['to tables', (copy) => [copy.fields[3]], ['layout']],
    ['to columns', (copy) => copy.fields[3].fields, ['short', 'messages', 'default', 'total']],
  ])('%s', (_, at, names) => {
    const stored = without(today, at, ...names);
    expect(stored).not.toEqual(today);
    expect(openStoredWorkflow(stored)).toEqual(today);
  });

  test('all of it at once', () => {
    let stored = without(today, (copy) => copy.handOffs, 'followUpPolicy');
    stored = without(stored, (copy) => copy.fields, 'short', 'messages');
    stored = without(stored, (copy) => [copy], 'tests');
    stored = without(stored, (copy) => [copy.stages[1].assignment], 'share', 'otherwise');
    expect(openStoredWorkflow(stored)).toEqual(today);
  });
});

describe('what is there stays', () => {
  test('a definition of today is the same one', () => {
    expect(openStoredWorkflow(today)).toBe(today);
  });

  test('what was said is not said otherwise', () => {
    const said = smallWorkflow({
      ...PARTS,
      stages: { work: { assignment: { kind: 'role', role: 'clerk', share: 'in-turn', otherwise: 'chief' } } },
      handOffs: { send: { followUpPolicy: 'first', deliveries: [{ ...MAIL, attach: 'pdf', senderName: 'House' }] } },
    });
    const stored = without(said, (copy) => [copy.handOffs[0].deliveries[0]], 'cc', 'attachFiles');
    expect(openStoredWorkflow(stored)).toEqual(said);
  });

  test('requests and files are as they were', () => {
    const stored = without(today, (copy) => [copy], 'tests');
    expect(openStoredWorkflow(stored).handOffs[0]?.deliveries[1]).toBe(stored.handOffs[0]?.deliveries[1]);
  });
});

test('the message of a pattern, once a property of its own', () => {
  const stored = structuredClone(today) as unknown as Loose;
  Object.assign(stored.fields[0], { patternMessage: 'Letters only.' });
  delete stored.fields[0].messages;
  expect(openStoredWorkflow(stored as Workflow).fields[0]).toMatchObject({ messages: { pattern: 'Letters only.' } });
  Object.assign(stored.fields[0], { patternMessage: '' });
  expect(openStoredWorkflow(stored as Workflow).fields[0]).toMatchObject({ messages: {} });
  expect(openStoredWorkflow(stored as Workflow).fields[0]).not.toHaveProperty('patternMessage');
});
