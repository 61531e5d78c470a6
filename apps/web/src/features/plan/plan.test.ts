import { describe, expect, test } from '@jest/globals';
import { applyEdit, compileWorkflow, plannedTreatment, type Workflow } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { makePlanLayout } from './layout.ts';
import { type Added, newAdjustment, newBranch, newHandOff, newNamed, stageAfter } from './panels/new-parts.ts';
import { adjustmentsAt, fieldsReadBy, moveWithin, planRows } from './rows.ts';

const workflow = sampleWorkflow();

describe('rows of the plan', () => {
  test('sections with their fields, tables with their columns, in the order of the definition', () => {
    const shown = planRows(workflow).map((row) =>
      row.kind === 'section' ? `# ${row.name}` : `${row.isSub ? '  ' : ''}${row.path} ${row.type}`,
    );
    expect(shown).toEqual([
      '# What',
      'thing text',
      'kind choice',
      'price money',
      'delivery date',
      'parts table',
      '  parts.name text',
      '  parts.amount number',
      '  parts.serial text',
      '  parts.double number',
      '# Inner',
      'total computed',
      'limit number',
      'outcome text',
    ]);
  });

  test('a cell says what the plan says, or the field, or its table', () => {
    expect(plannedTreatment(workflow, 'thing', 'ask')).toBe('required');
    expect(plannedTreatment(workflow, 'thing', 'check')).toBe('read-only');
    expect(plannedTreatment(workflow, 'parts.name', 'ask')).toBe('optional');
    expect(plannedTreatment(workflow, 'parts.name', 'check')).toBe('read-only');
  });

  test('the adjustments that cover a cell, at their stages only', () => {
    const keys = (path: string, stage: string) => adjustmentsAt(workflow, path, stage).map(({ key }) => key);
    expect(keys('delivery', 'ask')).toEqual(['noDelivery', 'dear']);
    expect(keys('delivery', 'check')).toEqual(['overLimit']);
    expect(keys('delivery', 'done')).toEqual([]);
    expect(keys('parts.serial', 'ask')).toEqual(['serials']);
    expect(keys('parts.name', 'ask')).toEqual([]);
  });

  test('what a condition reads, through computed fields', () => {
    const compiled = compileWorkflow(workflow);
    expect([...fieldsReadBy(compiled, ['total'])]).toEqual(['total', 'parts']);
    expect([...fieldsReadBy(compiled, ['price', 'record'])]).toEqual(['price']);
  });
});

test('columns take the room there is, within reason; the submitter has the last', () => {
  const stages = workflow.stages.length;
  expect(makePlanLayout(stages, 400).columnWidth).toBe(80);
  expect(makePlanLayout(stages, 9000).columnWidth).toBe(140);
  const some = makePlanLayout(stages, 800);
  expect(some.width).toBeLessThanOrEqual(800);
  expect(some.columns).toBe(stages + 1);
  expect(some.width).toBe(some.labelWidth + some.columns * some.columnWidth);
});

describe('moving a field with the keyboard', () => {
  const moved = (path: string, by: -1 | 1): readonly string[] => {
    const edit = moveWithin(workflow, path, by);
    if (!edit) return [];
    const edited = applyEdit(workflow, edit);
    if (!edited.ok) throw new Error(JSON.stringify(edited.diagnostics));
    return planRows(edited.value.definition).flatMap((row) => (row.kind === 'field' ? [row.path] : []));
  };
  const paths = planRows(workflow).flatMap((row) => (row.kind === 'field' ? [row.path] : []));

  test('it changes places with its neighbour in the section', () => {
    expect(moved('price', -1).slice(0, 3)).toEqual(['thing', 'price', 'kind']);
    expect(moved('thing', 1).slice(0, 3)).toEqual(['kind', 'thing', 'price']);
    expect(moved('parts.serial', -1).slice(5, 8)).toEqual(['parts.name', 'parts.serial', 'parts.amount']);
  });

  test('it stays within its section, and its table', () => {
    expect(moved('thing', -1)).toEqual([]);
    expect(moved('parts.double', 1)).toEqual([]);
    expect(moved('total', -1)).toEqual([]);
    expect([...moved('limit', 1)].sort()).toEqual([...paths].sort());
  });
});

describe('what is added', () => {
  const after = ({ edit }: Added): Workflow => {
    const edited = applyEdit(workflow, edit);
    if (!edited.ok) throw new Error(JSON.stringify(edited.diagnostics));
    return edited.value.definition;
  };
  const stage = (key: string) => workflow.stages.find((own) => own.key === key) as Workflow['stages'][number];

  test('a stage put into a line: what led on to the next leads to it, and it leads there', () => {
    const [first, second] = workflow.stages;
    if (!first || !second) throw new Error('no stages');
    const made = stageAfter(workflow, first);
    const changed = after(made);
    expect(changed.stages.slice(0, 3).map(({ key }) => key)).toEqual([first.key, made.key, second.key]);
    const ends = (from: string) =>
      changed.handOffs
        .filter((one) => one.from === from)
        .flatMap((one) => [...one.branches.map(({ to }) => to), one.otherwise?.to]);
    expect(ends(made.key)).toHaveLength(1);
    expect(ends(first.key)).toContain(made.key);
    expect(compileWorkflow(changed).diagnostics.filter(({ code }) => code.startsWith('workflow/'))).toEqual([]);
  });

  test('a hand-off, a branch, an adjustment and named parts have keys and names of their own, again and again', () => {
    const from = workflow.stages[0] ?? stage('ask');
    let now = workflow;
    const add = (make: (of: Workflow) => Added): string => {
      const made = make(now);
      const edited = applyEdit(now, made.edit);
      if (!edited.ok) throw new Error(JSON.stringify(edited.diagnostics));
      now = edited.value.definition;
      return made.key;
    };
    for (let time = 0; time < 2; time++) {
      const key = add((of) => newHandOff(of, from));
      add((of) => newBranch(of, of.handOffs.find((own) => own.key === key) as Workflow['handOffs'][number]));
      add((of) => newAdjustment(of, ['thing'], [from.key]));
      for (const list of ['roles', 'tracks', 'sections'] as const) add((of) => newNamed(of, list, 'New'));
    }
    const names = now.handOffs.map(({ name }) => name);
    expect(new Set(names).size).toBe(names.length);
    expect(now.roles.map(({ name }) => name).slice(-2)).toEqual(['New', 'New 2']);
  });
});
