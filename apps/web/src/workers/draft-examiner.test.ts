import { expect, test } from '@jest/globals';
import { applyEdit, compileWorkflow, type Edit, isFault } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { DraftExaminer } from './draft-examiner.ts';
import type { FromWorker } from './draft-messages.ts';

/** An examiner, what it has answered, and what it will do later. */
function examiner() {
  const answers: FromWorker[] = [];
  const later: (() => void)[] = [];
  const worker = new DraftExaminer(
    (message) => answers.push(message),
    (run) => later.push(run),
  );
  const work = (): void => {
    for (const run of later.splice(0)) run();
  };
  return { worker, answers, work, later };
}

const condition = (when: string): Edit => ({ type: 'change-part', part: 'handOffs.pass.branches.cheap', set: { when } });

test('what it finds after replayed edits is what compiling the page’s definition finds', () => {
  const { worker, answers, work } = examiner();
  let definition = sampleWorkflow();
  worker.take({ type: 'open', sequence: 0, definition, neighbours: null, surroundings: null });
  work();
  const edits = [
    condition('prise > 1'),
    condition('price > 1'),
    { type: 'rename-key', part: 'fields.price', key: 'cost' } as const,
  ];
  edits.forEach((edit, index) => {
    worker.take({ type: 'edit', sequence: index + 1, edit });
    const result = applyEdit(definition, edit);
    if (!result.ok) throw new Error('refused');
    definition = result.value.definition;
    work();
    const found = answers.flatMap((one) => (one.type === 'found' ? [one] : []));
    expect(found.at(-1)?.sequence).toBe(index + 1);
    const told = found.map(({ diagnostics }) => diagnostics).findLast((diagnostics) => diagnostics !== null);
    expect(told).toEqual(compileWorkflow(definition).diagnostics);
  });
  const faulty = answers.flatMap((one) => (one.type === 'found' ? [one.diagnostics?.some(isFault) ?? null] : []));
  // A new key leaves the sentences as they were: null.
  expect(faulty).toEqual([false, true, false, null]);
});

test('of several edits in a row only the last is compiled', () => {
  const { worker, answers, work, later } = examiner();
  worker.take({ type: 'open', sequence: 0, definition: sampleWorkflow(), neighbours: null, surroundings: null });
  for (let index = 1; index <= 5; index++) worker.take({ type: 'edit', sequence: index, edit: condition(`price > ${index}`) });
  expect(later).toHaveLength(1);
  work();
  expect(answers.map(({ sequence }) => sequence)).toEqual([5]);
  work();
  expect(answers.map(({ type, sequence }) => `${type} ${sequence}`)).toEqual(['found 5', 'used 5']);
});

test('an edit that can’t be replayed asks for the whole draft', () => {
  const { worker, answers, work } = examiner();
  worker.take({ type: 'open', sequence: 0, definition: sampleWorkflow(), neighbours: null, surroundings: null });
  work();
  worker.take({ type: 'edit', sequence: 1, edit: { type: 'change-part', part: 'fields.gone', set: { name: 'x' } } });
  worker.take({ type: 'edit', sequence: 2, edit: condition('price > 1') });
  work();
  expect(answers.slice(1)).toEqual([
    { type: 'lost', sequence: 1 },
    { type: 'lost', sequence: 2 },
  ]);
});

test('what names what comes after what is wrong, of the last change only', () => {
  const { worker, answers, work } = examiner();
  worker.take({ type: 'open', sequence: 0, definition: sampleWorkflow(), neighbours: null, surroundings: null });
  work();
  worker.take({ type: 'edit', sequence: 1, edit: condition('thing = "Lamp"') });
  work();
  work();
  const used = answers.flatMap((one) => (one.type === 'used' ? [one] : []));
  expect(used.map(({ sequence }) => sequence)).toEqual([1]);
  expect(new Map(used[0]?.used).get('fields.thing')).toContain('handOffs.pass.branches.cheap');
});

test('what hasn’t changed isn’t told again', () => {
  const { worker, answers, work } = examiner();
  worker.take({ type: 'open', sequence: 0, definition: sampleWorkflow(), neighbours: null, surroundings: null });
  work();
  work();
  const cell: Edit = { type: 'set-treatments', cells: [{ field: 'thing', stage: 'done', treatment: 'nudged' }] };
  worker.take({ type: 'edit', sequence: 1, edit: cell });
  work();
  work();
  expect(answers.slice(2)).toEqual([{ type: 'found', sequence: 1, diagnostics: null }]);
});

test('what the workspace doesn’t have is found as well, before everything else', () => {
  const { worker, answers, work } = examiner();
  const workflow = sampleWorkflow();
  const [first] = workflow.handOffs;
  const definition = {
    ...workflow,
    handOffs: workflow.handOffs.map((one) =>
      one === first
        ? {
            ...one,
            acknowledgements: [
              { key: 'a', name: '', when: null, text: 'Thanks', next: 'https://elsewhere.example/x', mailed: false },
            ],
          }
        : one,
    ),
  };
  const surroundings = { outlets: [['mail', 'mail'] as const], members: [], openings: [], nextPages: ['https://museum.example'] };
  worker.take({ type: 'open', sequence: 0, definition, neighbours: null, surroundings });
  work();
  const [found] = answers.flatMap((one) => (one.type === 'found' ? [one.diagnostics ?? []] : []));
  expect(found?.[0]).toMatchObject({ code: 'answer/next-page', path: `handOffs.${first?.key}.acknowledgements.a.next` });
});
