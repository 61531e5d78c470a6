import { describe, expect, test } from '@jest/globals';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { fillGivenKeys, fillTableKeys } from './given-keys.ts';
import { readWorkflow } from './read-workflow.ts';
import { writeWorkflow } from './workflow.ts';

describe('parts of which a file gives no keys', () => {
  test('sets and carried values are called by their field, each once; recipients by their place', () => {
    const filled = fillGivenKeys({
      handOffs: [
        {
          sets: [{ field: 'a' }, { key: 'a_2', field: 'b' }, { field: 'a' }, { field: 'a' }],
          deliveries: [{ to: [{ kind: 'submitter' }, { key: 'to1', kind: 'role' }] }],
          followUps: [{ carried: [{ field: 'x' }] }],
        },
      ],
      stages: [{ onArrival: { sets: [{ field: 'c' }], deliveries: [{ to: [{ kind: 'submitter' }] }] } }, {}],
    });
    expect(filled).toEqual({
      handOffs: [
        {
          sets: [
            { key: 'a', field: 'a' },
            { key: 'a_2', field: 'b' },
            { key: 'a_3', field: 'a' },
            { key: 'a_4', field: 'a' },
          ],
          deliveries: [
            {
              to: [
                { key: 'to1_2', kind: 'submitter' },
                { key: 'to1', kind: 'role' },
              ],
            },
          ],
          followUps: [{ carried: [{ key: 'x', field: 'x' }] }],
        },
      ],
      stages: [
        { onArrival: { sets: [{ key: 'c', field: 'c' }], deliveries: [{ to: [{ key: 'to1', kind: 'submitter' }] }] } },
        {},
      ],
    });
  });

  test('rules of decision tables, whose cells once stood in a list, name them by their columns; "-" is no cell', () => {
    const filled = fillTableKeys({
      inputs: [{ expression: 'a' }, { expression: 'b' }],
      outputs: [{ key: 'out' }],
      rules: [
        { when: ['> 1', '-'], then: ['"x"'] },
        { key: 'rule1', when: { input2: '"y"' }, then: {} },
      ],
    });
    expect(filled).toEqual({
      inputs: [
        { key: 'input1', expression: 'a' },
        { key: 'input2', expression: 'b' },
      ],
      outputs: [{ key: 'out' }],
      rules: [
        { key: 'rule1_2', when: { input1: '> 1' }, then: { out: '"x"' } },
        { key: 'rule1', when: { input2: '"y"' }, then: {} },
      ],
    });
  });

  test('where every part has a key, the same object comes back', () => {
    const sample = sampleWorkflow();
    expect(fillGivenKeys(sample)).toBe(sample);
  });

  test.each([
    null,
    1,
    'text',
    [],
    { handOffs: 1, stages: [null, 1], decisionTables: { a: 1 } },
    { handOffs: [{ sets: [1, null] }] },
  ])('what is no definition is left as it is: %j', (given) => {
    expect(fillGivenKeys(given)).toEqual(given);
  });

  test('a file without these keys reads as the one with them, and is written with them', () => {
    const sample = sampleWorkflow();
    const without = JSON.parse(writeWorkflow(sample), (name, value) => {
      if ((name !== 'sets' && name !== 'rules') || !Array.isArray(value)) return value;
      return value.map((part: object) => ({ ...part, key: undefined }));
    });
    const read = readWorkflow(without);
    if (!read.ok) throw new Error(JSON.stringify(read.diagnostics));
    const again = readWorkflow(JSON.parse(writeWorkflow(read.value)));
    expect(again.ok && again.value).toEqual(read.value);
  });
});
