import { describe, expect, test } from '@jest/globals';
import { applyEdit, compileWorkflow, makeReferences, plannedTreatment, usedPartsOf, type Workflow } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { columnsInView, isDrawnFor, makePlanLayout, zoomBy } from './layout.ts';
import { lightUp } from './lighting.ts';
import {
  type Added,
  moveStage,
  moveStageBy,
  moveToTrack,
  newAdjustment,
  newBranch,
  newHandOff,
  newNamed,
  stageAfter,
} from './panels/new-parts.ts';
import { adjustmentsAt, dropRow, dropRows, moveSection, moveWithin, planRows } from './rows.ts';

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

  const shownWith = (showing: Parameters<typeof planRows>[1]) =>
    planRows(workflow, showing).map((row) => (row.kind === 'section' ? `# ${row.name} ${row.fields}` : row.path));

  test('closed sections keep their fields to themselves', () => {
    expect(shownWith({ closed: new Set(['what']), find: '' })).toEqual(['# What 5', '# Inner 3', 'total', 'limit', 'outcome']);
  });

  test('what is looked for is found by name or key, in closed sections too; sections without it go', () => {
    expect(shownWith({ closed: new Set(['what']), find: ' SERIAL ' })).toEqual(['# What 5', 'parts.serial']);
    expect(shownWith({ closed: new Set(), find: 'parts.n' })).toEqual(['# What 5', 'parts.name']);
    expect(shownWith({ closed: new Set(), find: 'zebra' })).toEqual([]);
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

describe('columns', () => {
  test('can all be fitted in, or be as wide as one likes', () => {
    const fit = makePlanLayout(60, 928, 'fit');
    expect(fit.width).toBeLessThanOrEqual(928);
    expect([fit.columnWidth, fit.isNarrow]).toEqual([11, true]);
    expect(makePlanLayout(60, 928, 48)).toMatchObject({ columnWidth: 48, isNarrow: true });
    expect(makePlanLayout(4, 928, 'fit').columnWidth).toBe(139);
  });

  test('are zoomed in steps, from wherever one is', () => {
    expect([zoomBy(80, 1), zoomBy(80, -1), zoomBy(87, 1), zoomBy(140, 1), zoomBy(11, -1)]).toEqual([100, 64, 100, null, null]);
  });

  test('are drawn where they are in view, and some beside', () => {
    const layout = makePlanLayout(60, 928);
    expect(columnsInView(layout, 0, 928)).toEqual({ from: 0, to: 16 });
    const far = columnsInView(layout, 30 * 80, 928);
    expect(far.from).toBeLessThanOrEqual(28);
    expect(far.to).toBeGreaterThanOrEqual(39);
    expect(columnsInView(layout, 60 * 80, 928).to).toBe(61);
    expect(columnsInView(layout, 0, 0).to).toBeGreaterThan(0);
  });
  test('what is in view after a small step is drawn already; after a leap it is not', () => {
    const layout = makePlanLayout(60, 928);
    const drawn = columnsInView(layout, 0, 928);
    expect(isDrawnFor(layout, drawn, 0, 928)).toBe(true);
    expect(isDrawnFor(layout, drawn, 4 * 80, 928)).toBe(true);
    expect(isDrawnFor(layout, drawn, 30 * 80, 928)).toBe(false);
    const end = columnsInView(layout, 60 * 80, 928);
    expect(isDrawnFor(layout, end, 60 * 80, 928)).toBe(true);
    expect(isDrawnFor(layout, end, 0, 928)).toBe(false);
  });
});

describe('stages are moved', () => {
  const keysAfter = (edit: ReturnType<typeof moveStage>): readonly string[] => {
    const result = edit && applyEdit(workflow, edit);
    return result?.ok ? result.value.definition.stages.map(({ key }) => key) : [];
  };

  test('before another column, or last', () => {
    expect(keysAfter(moveStage(workflow, 'sign', 'check'))).toEqual(['ask', 'sign', 'check', 'sorting', 'done']);
    expect(keysAfter(moveStage(workflow, 'ask', null))).toEqual(['check', 'sorting', 'sign', 'done', 'ask']);
  });

  test('not where they stand', () => {
    for (const before of ['check', 'sorting']) expect(moveStage(workflow, 'check', before)).toBeNull();
    expect(moveStage(workflow, 'done', null)).toBeNull();
    expect(moveStage(workflow, 'gone', 'ask')).toBeNull();
  });

  test('a column on or back, to the ends and no further', () => {
    expect(keysAfter(moveStageBy(workflow, 'check', 1))).toEqual(['ask', 'sorting', 'check', 'sign', 'done']);
    expect(keysAfter(moveStageBy(workflow, 'check', -1))).toEqual(['check', 'ask', 'sorting', 'sign', 'done']);
    expect([moveStageBy(workflow, 'ask', -1), moveStageBy(workflow, 'done', 1)]).toEqual([null, null]);
  });

  test('onto another track, which becomes their own', () => {
    const [stage] = workflow.stages;
    const two = { ...workflow, stages: [{ ...(stage as NonNullable<typeof stage>), tracks: ['main', 'side'] }] };
    expect(moveToTrack(two, 'ask', 'side')).toMatchObject({ set: { tracks: ['side'] } });
    expect(moveToTrack(two, 'ask', 'other')).toMatchObject({ set: { tracks: ['other', 'side'] } });
    expect(moveToTrack(two, 'ask', 'main')).toBeNull();
  });
});

test('a way that is drawn leads where it was drawn to', () => {
  const [ask, done] = [workflow.stages[0], workflow.stages.at(-1)];
  const pass = workflow.handOffs.find(({ key }) => key === 'pass');
  if (!ask || !done || !pass) throw new Error();
  expect(newHandOff(workflow, ask, done).edit).toMatchObject({ part: { from: 'ask', otherwise: { to: 'done' } } });
  expect(newBranch(workflow, pass, done).edit).toMatchObject({ part: { name: 'To Done', to: 'done', when: 'false' } });
});

describe('rows are dropped', () => {
  const rows = planRows(workflow);
  const index = (path: string): number => rows.findIndex((row) => row.kind === 'field' && row.path === path);
  const shownAfter = (from: number, to: number): readonly string[] => {
    const edit = dropRow(workflow, rows, from, to);
    const result = edit && applyEdit(workflow, edit);
    return result?.ok
      ? planRows(result.value.definition).map((row) => (row.kind === 'section' ? `# ${row.name}` : row.path))
      : [];
  };
  const PARTS = ['parts', 'parts.name', 'parts.amount', 'parts.serial', 'parts.double'];

  test('a field before another of its section', () => {
    const after = shownAfter(index('price'), index('thing'));
    expect(after.slice(0, 4)).toEqual(['# What', 'price', 'thing', 'kind']);
  });

  test('a table with its columns behind the last of its section, and into another section', () => {
    expect(shownAfter(index('thing'), index('total') - 1).slice(0, 9)).toEqual(['# What', 'kind', 'price', 'delivery', ...PARTS]);
    expect(shownAfter(index('parts'), index('limit'))).toEqual([
      '# What',
      'thing',
      'kind',
      'price',
      'delivery',
      '# Inner',
      'total',
      ...PARTS,
      'limit',
      'outcome',
    ]);
    expect(shownAfter(index('thing'), rows.length).slice(-2)).toEqual(['outcome', 'thing']);
  });

  test('a field right under the head of a section', () => {
    expect(shownAfter(index('outcome'), 1).slice(0, 3)).toEqual(['# What', 'outcome', 'thing']);
  });

  test('a column among those of its table only', () => {
    expect(shownAfter(index('parts.double'), index('parts.name')).slice(5, 10)).toEqual([
      'parts',
      'parts.double',
      'parts.name',
      'parts.amount',
      'parts.serial',
    ]);
    expect(shownAfter(index('parts.double'), index('thing'))).toEqual([]);
  });

  test('several fields at once, from whatever sections, in their order', () => {
    const dropped = (paths: readonly string[], to: number): readonly string[] => {
      const edit = dropRows(workflow, rows, paths.map(index), to);
      const result = edit && applyEdit(workflow, edit);
      return result?.ok
        ? planRows(result.value.definition).map((row) => (row.kind === 'section' ? `# ${row.name}` : row.path))
        : [];
    };
    expect(dropped(['kind', 'price'], index('thing')).slice(0, 4)).toEqual(['# What', 'kind', 'price', 'thing']);
    expect(dropped(['thing', 'kind'], rows.length).slice(-3)).toEqual(['outcome', 'thing', 'kind']);
    expect(dropped(['price', 'total'], index('thing')).slice(0, 4)).toEqual(['# What', 'price', 'total', 'thing']);
    // Columns that lie in the range go with their table.
    expect(dropped(['delivery', 'parts', 'parts.name'], index('thing')).slice(1, 8)).toEqual(['delivery', ...PARTS, 'thing']);
    expect(dropped(['price', 'delivery'], index('price'))).toEqual(
      planRows(workflow).map((row) => (row.kind === 'section' ? `# ${row.name}` : row.path)),
    );
    expect(dropped(['kind', 'price'], 0)).toEqual([]);
  });

  test('a section among sections; nothing where it is', () => {
    const inner = rows.findIndex((row) => row.kind === 'section' && row.key === 'inner');
    expect(shownAfter(inner, 0)[0]).toBe('# Inner');
    expect(shownAfter(inner, inner + 1)).toEqual([]);
    expect(dropRow(workflow, rows, 0, index('kind'))).toBeNull();
    expect(dropRow(workflow, rows, 0, rows.length)).toMatchObject({ before: null });
    expect(dropRow(workflow, rows, index('thing'), index('kind'))).toBeNull();
    expect(moveSection(workflow, 'inner', -1)).toMatchObject({ before: 'what' });
    expect(moveSection(workflow, 'what', 1)).toMatchObject({ before: null });
    expect([moveSection(workflow, 'what', -1), moveSection(workflow, 'inner', 1)]).toEqual([null, null]);
  });
});

describe('what lights up', () => {
  const used = usedPartsOf(makeReferences(workflow));
  const lit = (selection: Parameters<typeof lightUp>[2]) => {
    const { fields, stages } = lightUp(workflow, used, selection);
    return { fields: [...fields].sort(), stages: [...stages].sort() };
  };

  test.each<[string, Parameters<typeof lightUp>[2], readonly string[], readonly string[]]>([
    ['nothing', { kind: 'nothing' }, [], []],
    ['of a branch what it reads', { kind: 'branch', handOff: 'pass', branch: 'cheap' }, ['price'], []],
    [
      'of an adjustment of rows the column',
      { kind: 'adjustment', adjustment: 'serials' },
      ['parts', 'parts.amount', 'parts.serial'],
      [],
    ],
    [
      'of a hand-off all that is read in it, computed fields a step further',
      { kind: 'hand-off', handOff: 'send' },
      ['parts', 'parts.amount', 'parts.double', 'parts.name', 'price', 'thing', 'total'],
      [],
    ],
    [
      'of a field what it is made from, what it makes, and where it is read',
      { kind: 'field', field: 'total' },
      ['parts', 'parts.amount', 'parts.double'],
      ['ask'],
    ],
    ['of a field conditions at their stages', { kind: 'cell', field: 'limit', stage: 'ask' }, [], ['check']],
  ])('%s', (_, selection, fields, stages) => {
    expect(lit(selection)).toEqual({ fields, stages });
  });
});
