import { type Json, readWorkflow, type Workflow } from '@ypomet/core';
import { makeRandom } from './random.ts';

const CONDITIONS = 40;

/**
 * A workflow of 300 fields, 150 adjustments and 40 conditions at a hand-off; `times` as large in fields, adjustments and
 * conditions. A tenth of the fields is computed from fields before them.
 */
export function makeLargeWorkflow(times = 1): Workflow {
  const random = makeRandom(3);
  const pick = (below: number): number => Math.floor(random() * below);
  const entered = (below: number): string => {
    const index = pick(below);
    return `f${index % 10 === 9 ? index - 1 : index}`;
  };
  const clause = (below: number): string => `${entered(below)} ${['>', '>=', '<', '<='][pick(4)]} ${pick(10_000) / 100}`;
  const condition = (below: number): string =>
    `(${clause(below)} or ${clause(below)}) and ${clause(below)} and not(${clause(below)})`;
  const fields = Math.round(300 * times);
  const half = Math.floor(fields / 20) * 10;
  const field = (index: number): object => ({
    type: 'number',
    key: `f${index}`,
    name: `Field ${index}`,
    section: `s${index % 10}`,
    scale: 4,
    treatment: 'optional',
    ...(index % 10 === 9 ? { expression: `f${index - 1} * 1.2 + f${index - 2}` } : {}),
  });
  const adjustment = (index: number): object => ({
    key: `a${index}`,
    name: `Adjustment ${index}`,
    // Fields of the second half follow conditions over the first, so that there is no cycle.
    when: condition(half),
    fields: [entered(half), entered(half)].map((key) => `f${Number(key.slice(1)) + half}`),
    treatment: ['required', 'hidden', 'read-only', 'nudged'][pick(4)],
  });
  const branch = (index: number): object => ({
    key: `b${index}`,
    name: `Branch ${index}`,
    when: `${condition(40)} and f0 < 0`,
    to: 'done',
  });
  const whole = (count: number, of: (index: number) => object): object[] => Array.from({ length: count }, (_, at) => of(at));
  const parts = { fields: whole(fields, field), adjustments: whole(Math.round(150 * times), adjustment) };
  const within = { fields: parts.fields.slice(0, 300), adjustments: parts.adjustments.slice(0, 0) };
  const read = readWorkflow({
    format: 'ypomet.workflow/1',
    key: 'large',
    name: 'Large',
    sections: Array.from({ length: 10 }, (_, index) => ({ key: `s${index}`, name: `Section ${index}` })),
    tracks: [{ key: 'main', name: 'Main' }],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
      { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
    ],
    handOffs: [{ key: 'send', name: 'Send', from: 'ask', branches: whole(CONDITIONS, branch), otherwise: { to: 'done' } }],
    ...(times === 1 ? parts : within),
  });
  if (!read.ok) throw new Error(JSON.stringify(read.diagnostics.slice(0, 3)));
  if (times === 1) return read.value;
  // Larger than a definition file may be: only growth is measured on it.
  const [sample] = read.value.fields;
  const plain = makeLargeWorkflow(1).adjustments[0];
  return {
    ...read.value,
    fields: parts.fields.map((own) => ({ ...sample, expression: null, ...own }) as Workflow['fields'][number]),
    adjustments: parts.adjustments.map((own) => ({ ...plain, ...own }) as Workflow['adjustments'][number]),
  };
}

/** Values for every field that can be entered, a fifth of them empty. */
export function makeLargeValues(workflow: Workflow): Readonly<Record<string, Json>> {
  const random = makeRandom(5);
  const entries = workflow.fields.flatMap((field): readonly (readonly [string, Json])[] => {
    const isComputed = 'expression' in field && field.expression !== null;
    return isComputed || random() < 0.2 ? [] : [[field.key, (Math.floor(random() * 10_000) / 100).toFixed(4)]];
  });
  return Object.fromEntries(entries);
}
