import { describe, expect, test } from '@jest/globals';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { checkInvariants } from './invariants.ts';
import { plannedTreatment } from './lookup.ts';
import { readWorkflow } from './read-workflow.ts';
import { workflowJsonSchema, writeWorkflow } from './workflow.ts';

const sample = sampleWorkflow();

describe('definition files', () => {
  test('reading what was written gives the same, byte for byte', () => {
    const text = writeWorkflow(sample);
    const again = readWorkflow(JSON.parse(text));
    expect(again.ok && writeWorkflow(again.value)).toBe(text);
  });

  // The reference is ajv, the JSON Schema validator (2020-12).
  test('the JSON Schema takes what the reader takes, and refuses what it refuses', () => {
    const validate = new Ajv2020({ strict: false }).compile(workflowJsonSchema());
    expect(validate(JSON.parse(writeWorkflow(sample)))).toBe(true);
    for (const broken of [
      { ...sample, surprise: 1 },
      { ...sample, format: 'other/1' },
      { ...sample, stages: [] },
      { ...sample, fields: [{ type: 'wish' }] },
      null,
      [],
    ]) {
      expect(validate(broken)).toBe(false);
      expect(readWorkflow(broken).ok).toBe(false);
    }
  });

  test('what is wrong is named by its path', () => {
    const read = readWorkflow({ ...sample, tracks: [{ key: 'Main', name: '' }] });
    expect(read.ok ? [] : read.diagnostics.map(({ code, path }) => `${path}: ${code}`)).toEqual([
      'tracks.0.key: workflow/shape',
      'tracks.0.name: workflow/shape',
    ]);
  });
});

describe('invariants', () => {
  const broken = (change: object): readonly string[] =>
    checkInvariants({ ...sample, ...change }).map(({ code, path }) => `${path}: ${code}`);

  test.each<[string, object, string]>([
    ['a key used twice', { roles: [...sample.roles, { key: 'boss', name: 'Again' }] }, 'roles.boss: workflow/duplicate-key'],
    ['a misspelt stage', { plan: { price: { chekc: 'optional' } } }, 'plan.price.chekc: workflow/unknown-key-near'],
    ['an unknown field', { plan: { colour: { check: 'optional' } } }, 'plan.colour: workflow/unknown-key'],
    ['no intake', { stages: sample.stages.filter((stage) => stage.kind !== 'intake') }, 'stages: workflow/no-intake'],
    [
      'a hand-off that leads nowhere',
      { handOffs: sample.handOffs.map((one) => (one.key === 'send' ? { ...one, otherwise: null } : one)) },
      'handOffs.send: workflow/leads-nowhere',
    ],
    [
      'an end that is left',
      { handOffs: [...sample.handOffs, { ...sample.handOffs[0], key: 'again', from: 'done' }] },
      'stages.done: workflow/end-hand-off',
    ],
    [
      'a junction without its hand-off',
      { handOffs: sample.handOffs.filter((one) => one.key !== 'sort') },
      'stages.sorting: workflow/junction-hand-off',
    ],
  ])('%s', (_name, change, expected) => {
    expect(broken(change)).toContain(expected);
  });

  test('fields that depend on each other in a circle are a fault of the design', () => {
    const adjustments = [
      { key: 'a', name: 'A', when: 'delivery = null', stages: ['ask'], fields: ['price'], treatment: 'hidden' },
      { key: 'b', name: 'B', when: 'price > 1', stages: ['ask'], fields: ['delivery'], treatment: 'hidden' },
    ];
    const { diagnostics } = compileWorkflow(sampleWorkflow({ adjustments }));
    expect(diagnostics.map(({ code, path, params }) => [code, path, params.names])).toEqual([
      ['form/cycle', 'stages.ask', ['Price', 'Delivery']],
    ]);
  });
});

test('the plan falls back to the field, and sub-fields to their table', () => {
  expect(plannedTreatment(sample, 'price', 'ask')).toBe('required');
  expect(plannedTreatment(sample, 'price', 'done')).toBe('read-only');
  expect(plannedTreatment(sample, 'parts.name', 'ask')).toBe('optional');
  expect(plannedTreatment(sample, 'parts.name', 'check')).toBe('read-only');
});
