import { describe, expect, test } from '@jest/globals';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { compileWorkflow } from '../flow/compile-workflow.ts';
import { applyEdit, type Edit } from './edit.ts';
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
    ['a key used twice', { roles: [...sample.roles, { key: 'boss', name: 'Again' }] }, 'roles.3.key: workflow/duplicate-key'],
    ['a misspelt stage', { plan: { price: { chekc: 'optional' } } }, 'plan.price.chekc: workflow/unknown-key-near'],
    ['an unknown field', { plan: { colour: { check: 'optional' } } }, 'plan.colour: workflow/unknown-key'],
    ['no intake', { stages: sample.stages.filter((stage) => stage.kind !== 'intake') }, 'stages: workflow/no-intake'],
    [
      'a hand-off that leads nowhere',
      { handOffs: sample.handOffs.map((one) => (one.key === 'send' ? { ...one, otherwise: null } : one)) },
      'handOffs.0: workflow/leads-nowhere',
    ],
    [
      'an end that is left',
      { handOffs: [...sample.handOffs, { ...sample.handOffs[0], key: 'again', from: 'done' }] },
      'stages.4: workflow/end-hand-off',
    ],
    [
      'a junction without its hand-off',
      { handOffs: sample.handOffs.filter((one) => one.key !== 'sort') },
      'stages.2: workflow/junction-hand-off',
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

describe('edits', () => {
  const edits: readonly Edit[] = [
    {
      type: 'set-treatments',
      cells: [
        { field: 'price', stage: 'ask', treatment: 'hidden' },
        { field: 'outcome', stage: 'check', treatment: 'optional' },
      ],
    },
    {
      type: 'set-treatments',
      cells: [
        { field: 'price', stage: 'ask', treatment: null },
        { field: 'price', stage: 'ask', treatment: 'nudged' },
      ],
    },
    { type: 'set-branch-condition', handOff: 'pass', branch: 'cheap', when: 'price <= 1000' },
    { type: 'rename-branch', handOff: 'pass', branch: 'cheap', name: 'Small' },
    { type: 'set-branch-destination', handOff: 'pass', branch: 'cheap', to: 'sign' },
    { type: 'set-adjustment-condition', adjustment: 'dear', when: 'price > 5' },
    { type: 'replace-definition', definition: sampleWorkflow({ name: 'Another' }) },
  ];

  test.each(edits.map((edit) => [edit.type, edit] as const))(
    '%s and its inverse leave the definition as it was',
    (_type, edit) => {
      const done = applyEdit(sample, edit);
      if (!done.ok) throw new Error(JSON.stringify(done.diagnostics));
      expect(done.value.definition).not.toEqual(sample);
      const undone = applyEdit(done.value.definition, done.value.inverse);
      expect(undone.ok && undone.value.definition).toEqual(sample);
    },
  );

  test('parts that don’t change stay the same objects', () => {
    const done = applyEdit(sample, edits[2] as Edit);
    expect(done.ok && done.value.definition.fields).toBe(sample.fields);
    expect(done.ok && done.value.definition.handOffs[0]).toBe(sample.handOffs[0]);
  });

  test.each<[string, Edit]>([
    ['a field', { type: 'set-treatments', cells: [{ field: 'nope', stage: 'ask', treatment: 'hidden' }] }],
    ['a branch', { type: 'rename-branch', handOff: 'pass', branch: 'nope', name: 'x' }],
    ['an adjustment', { type: 'set-adjustment-condition', adjustment: 'nope', when: 'true' }],
  ])('%s that isn’t there is refused', (_name, edit) => {
    const done = applyEdit(sample, edit);
    expect(done.ok ? [] : done.diagnostics.map(({ code }) => code)).toEqual(['edit/unknown-target']);
  });

  test('the plan falls back to the field, and sub-fields to their table', () => {
    expect(plannedTreatment(sample, 'price', 'ask')).toBe('required');
    expect(plannedTreatment(sample, 'price', 'done')).toBe('read-only');
    expect(plannedTreatment(sample, 'parts.name', 'ask')).toBe('optional');
    expect(plannedTreatment(sample, 'parts.name', 'check')).toBe('read-only');
  });
});
