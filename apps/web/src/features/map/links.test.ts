import { expect, test } from '@jest/globals';
import { smallWorkflow } from '@ypomet/testkit/small-workflow';
import { linksOf } from './links.ts';

const workflow = smallWorkflow({
  handOffs: {
    finish: {
      followUps: [
        { key: 'a', name: 'A', workflow: 'report', handOff: 'send' },
        { key: 'b', name: 'B', workflow: 'report', handOff: 'send' },
        { key: 'c', name: 'C', workflow: 'unseen', handOff: 'send' },
      ],
    },
  },
});
const other = (key: string, ...opens: readonly { from: string; workflow: string; handOff: string }[]) => ({
  key,
  name: key.toUpperCase(),
  opens,
});

test('a workflow that is opened several times from a stage is drawn there once; one that isn’t known goes by its key', () => {
  expect(linksOf(workflow, [other('report'), other('small', { from: 'work', workflow: 'report', handOff: 'send' })])).toEqual([
    { stage: 'work', kind: 'opens', workflow: 'report', name: 'REPORT' },
    { stage: 'work', kind: 'opens', workflow: 'unseen', name: 'unseen' },
  ]);
});

test('what opens its records stands at the stage at which they are entered, or at its intake', () => {
  const links = linksOf(workflow, [
    other('loan', { from: 'x', workflow: 'small', handOff: 'send' }, { from: 'y', workflow: 'small', handOff: 'send' }),
    other('older', { from: 'x', workflow: 'small', handOff: 'gone' }),
    other('else', { from: 'x', workflow: 'report', handOff: 'send' }),
  ]);
  expect(links.filter(({ kind }) => kind === 'opened-by')).toEqual([
    { stage: 'ask', kind: 'opened-by', workflow: 'loan', name: 'LOAN' },
    { stage: 'ask', kind: 'opened-by', workflow: 'older', name: 'OLDER' },
  ]);
});
