import { describe, expect, test } from '@jest/globals';
import { compileWorkflow } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { colourOfTrack, makePlanLayout, TRACK_COLOURS } from './layout.ts';
import { adjustmentsAt, cellTreatment, fieldsReadBy, planRows } from './rows.ts';

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
    expect(cellTreatment(workflow, 'thing', 'ask')).toBe('required');
    expect(cellTreatment(workflow, 'thing', 'check')).toBe('read-only');
    expect(cellTreatment(workflow, 'parts.name', 'ask')).toBe('optional');
    expect(cellTreatment(workflow, 'parts.name', 'check')).toBe('read-only');
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

describe('the map stands over the plan', () => {
  test('stations stand over the middle of their columns; the submitter has the last', () => {
    const layout = makePlanLayout(workflow, 1000);
    workflow.stages.forEach((stage, index) => {
      expect(layout.xOf(stage.key)).toBe(layout.labelWidth + (index + 0.5) * layout.columnWidth);
    });
    expect(layout.width).toBe(layout.labelWidth + (workflow.stages.length + 1) * layout.columnWidth);
  });

  test('columns take the room there is, within reason', () => {
    expect(makePlanLayout(workflow, 400).columnWidth).toBe(80);
    expect(makePlanLayout(workflow, 9000).columnWidth).toBe(140);
    const some = makePlanLayout(workflow, 800);
    expect(some.width).toBeLessThanOrEqual(800);
  });

  test('tracks lie one under the other, each in its colour; colours come round again', () => {
    const tracks = ['a', 'b', 'c', 'd', 'e'].map((key) => ({ key, name: key }));
    const many = { ...workflow, tracks, stages: workflow.stages.map((stage) => ({ ...stage, tracks: ['c'] })) };
    const layout = makePlanLayout(many, 1000);
    const heights = tracks.map(({ key }) => layout.yOf(key));
    expect([...heights].sort((a, b) => a - b)).toEqual(heights);
    expect(layout.stationY('ask')).toBe(layout.yOf('c'));
    expect(layout.mapHeight).toBeGreaterThan(heights.at(-1) ?? 0);
    expect(colourOfTrack(many, 'e')).toBe(TRACK_COLOURS[0]);
    expect(colourOfTrack(many, 'nowhere')).toBe(TRACK_COLOURS[0]);
  });
});
