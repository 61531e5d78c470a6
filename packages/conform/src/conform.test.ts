import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, test } from '@jest/globals';
import Ajv2020 from 'ajv/dist/2020.js';
import { conformanceJsonSchema } from './format.ts';
import { conform, differing } from './run.ts';

const folder = path.resolve(import.meta.dirname, '../../../conformance');
const files = readdirSync(folder).filter((name) => name.endsWith('.json'));
const read = (name: string) => JSON.parse(readFileSync(path.join(folder, name), 'utf8'));

const suite = (more: object) => conform({ format: 'ypomet.conformance/1', title: 'T', source: 'S', ...more } as never);
const outcomeOf = (more: object): readonly [string, string] => {
  const { outcomes, faults } = suite(more);
  expect(faults).toEqual([]);
  const [first] = outcomes;
  return [first?.expected ?? '', first?.found ?? ''];
};

describe.each(files)('the core conforms to %s', (name) => {
  const { outcomes, faults } = conform(read(name));

  test('the file can be run, and follows its published schema', () => {
    expect(faults).toEqual([]);
    const validate = new Ajv2020({ strict: false, validateFormats: false }).compile(conformanceJsonSchema() as object);
    expect(validate(read(name)) ? [] : validate.errors).toEqual([]);
  });

  test.each(outcomes.map((one) => [one.case, one] as const))('%s', (_, { expected, found }) => {
    expect(found).toBe(expected);
  });
});

test('the suite is as large as it says: several hundred cases, of every kind', () => {
  const all = files.map(read);
  const count = (part: string): number => all.reduce((sum, file) => sum + (file[part]?.length ?? 0), 0);
  expect(count('expressions')).toBeGreaterThan(500);
  expect(count('decisions')).toBeGreaterThan(20);
  expect(count('forms')).toBeGreaterThan(25);
  expect(count('handOffs')).toBeGreaterThan(25);
});

describe('what differs is told', () => {
  test.each<[string, object, string, string]>([
    ['another value', { expression: '1 + 1', expect: 3 }, '3', '2'],
    ['another type', { expression: '"1"', expect: 1 }, '1', '"1"'],
    [
      'another kind of duration',
      { expression: '@"P1D"', expect: { duration: 'P1M' } },
      'months-duration P1M',
      'days-duration P1D',
    ],
    ['a digit far behind', { expression: '1 / 3', expect: { number: '0.333' } }, '0.333', '0.3333333333333333333333333333333333'],
    [
      'an answer where a refusal was expected',
      { expression: '1', refused: 'expression/unexpected' },
      'refused: expression/unexpected',
      '1',
    ],
    ['a refusal where an answer was expected', { expression: 'x', expect: 1 }, '1', 'refused: expression/unknown-name'],
    [
      'a value without a type',
      { expression: '1', values: { x: 1 }, expect: 1 },
      'an answer',
      'the value "x" has no type in "names"',
    ],
    [
      'a date that is none',
      { expression: 'd', names: { d: 'date' }, values: { d: { date: '2027-02-30' } }, expect: 1 },
      'an answer',
      'no typed value: {"date":"2027-02-30"}',
    ],
  ])('%s', (_, expression, expected, found) => {
    expect(outcomeOf({ expressions: [expression] })).toEqual([expected, found]);
  });

  test('a decision: its value, the rules that match, its violation', () => {
    const table = {
      key: 'fee',
      name: 'Fee',
      hitPolicy: 'U',
      inputs: [{ key: 'age', name: 'Age', expression: 'age' }],
      outputs: [{ key: 'fee', name: 'Fee', type: 'number' }],
      rules: [{ key: 'adult', when: { age: '>= 18' }, then: { fee: '10' } }],
    };
    const decide = (sample: object, own: object = table) =>
      outcomeOf({ decisions: [{ names: { age: 'number' }, table: own, cases: [sample] }] });
    expect(decide({ values: { age: 18 }, expect: 10, matched: [2] })).toEqual(['10; by rules 2', '10; by rules 1']);
    expect(decide({ values: { age: 17 }, expect: null, violation: 'not-unique' })).toEqual([
      'null; not-unique',
      'null; no violation',
    ]);
    expect(decide({ values: {}, expect: 1 }, { ...table, inputs: [{ key: 'age', name: 'Age', expression: 'aeg' }] })).toEqual([
      '1',
      'refused: table.inputs.age.expression: expression/unknown-name-near',
    ]);
  });

  test('a hand-off or a form of a workflow that isn’t there', () => {
    const at = { name: 'n', workflow: 'w', expect: {} };
    expect(outcomeOf({ handOffs: [{ ...at, at: 's', handOff: 'h' }] })[1]).toBe('no workflow "w" in the file');
    expect(outcomeOf({ forms: [{ ...at, stage: 's' }] })[1]).toBe('no workflow "w" in the file');
  });

  test('a refusal that the case says nothing of is a difference', () => {
    const file = read('hand-offs.json');
    const [one] = file.handOffs;
    const changed = { ...file, handOffs: [{ ...one, handOff: 'accept', expect: { stage: 'check' } }] };
    expect(differing(conform(changed)).map(({ found }) => found)).toEqual([
      '[["refused",["accept: hand-off/not-here"]],["stage",null]]',
    ]);
  });
});

describe('a file that can’t be run says where', () => {
  test.each<[string, object, string]>([
    ['another format', { format: 'x/1' }, 'format: Invalid input: expected "ypomet.conformance/1"'],
    ['a misspelt part', { expresions: [] }, '(whole): Unrecognized key: "expresions"'],
    ['neither answer nor refusal', { expressions: [{ expression: '1' }] }, 'expressions.0: either "expect" or "refused"'],
    ['a definition with a fault', { workflows: [{ format: 'ypomet.workflow/1' }] }, 'workflows.0.key: workflow/shape'],
  ])('%s', (_, more, fault) => {
    expect(suite(more).faults[0]).toBe(fault);
  });
});
