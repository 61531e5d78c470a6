import { type Field, type Json, readWorkflow, TREATMENTS, type Treatment, type Workflow } from '@ypomet/core';
import fc from 'fast-check';
import { plainConditions, toFeel } from './plain-conditions.ts';

/** Fields of a random workflow that can be entered; `rows` is a table with the first four as its sub-fields. */
export const ENTERED = ['amount', 'size', 'shade', 'flag', 'remark', 'extra', 'rows'] as const;
export const CELLS = ['amount', 'size', 'shade', 'flag'] as const;

const OPTIONS = ['red', 'green', 'blue'].map((code) => ({ code, label: code }));
const plain = (key: string): object => {
  if (key === 'amount' || key === 'size') return { type: 'number', key, name: key, scale: 2 };
  if (key === 'shade') return { type: 'choice', key, name: key, options: OPTIONS };
  return { type: key === 'flag' ? 'yes-no' : 'text', key, name: key };
};

const treatment = fc.constantFrom<Treatment>(...TREATMENTS);
const clauses = plainConditions(['all', 'not', 'if', 'some']);

type Choices = {
  readonly sections: readonly number[];
  readonly confidential: readonly string[];
  readonly plan: Readonly<Record<string, Readonly<Record<string, Treatment>>>>;
  readonly adjustments: readonly object[];
  readonly branch: string;
  readonly onward: string;
  readonly policy: string;
  readonly sets: readonly object[];
  readonly offered: string | null;
};

/**
 * An adjustment never covers a field that its condition reads, so that there is no cycle: conditions over the whole
 * record cover `remark`, `extra` and sections of these; those over a row cover its cells.
 */
const adjustment = fc
  .record({
    when: plainConditions(),
    row: clauses,
    kind: fc.constantFrom('field', 'field', 'section', 'cell', 'cell'),
    field: fc.constantFrom('remark', 'extra'),
    cell: fc.constantFrom('size', 'shade', 'flag'),
    treatment,
    keep: fc.boolean(),
    everywhere: fc.boolean(),
  })
  .map((one): object => {
    const stages = one.everywhere ? [] : ['work'];
    const common = { treatment: one.treatment, keep: one.keep, stages };
    if (one.kind === 'section') return { ...common, when: toFeel(one.when), sections: ['loose'] };
    const ofRow = one.cell === 'flag' && one.row.kind !== 'flag' ? toFeel(one.row, 'row.') : 'row.amount > amount';
    if (one.kind === 'cell') return { ...common, when: ofRow, fields: [`rows.${one.cell}`] };
    return { ...common, when: toFeel(one.when), fields: [one.field] };
  });

const choices: fc.Arbitrary<Choices> = fc.record({
  sections: fc.array(fc.nat({ max: 1 }), { minLength: 4, maxLength: 4 }),
  confidential: fc.subarray(['amount', 'size', 'remark', 'extra', 'twice']),
  plan: fc
    .record(
      Object.fromEntries(
        [...ENTERED, 'twice', 'anyGood', ...CELLS.map((cell) => `rows.${cell}`)].map((key) => [
          key,
          fc.record({ ask: treatment, work: treatment }),
        ]),
      ),
      { noNullPrototype: true },
    )
    .map((plan) => plan as Choices['plan']),
  adjustments: fc.array(adjustment, { maxLength: 6 }),
  branch: plainConditions().map((condition) => toFeel(condition)),
  onward: plainConditions().map((condition) => toFeel(condition)),
  policy: fc.constantFrom('first', 'single'),
  sets: fc.subarray([
    { field: 'amount', value: '2' },
    { field: 'flag', value: 'true' },
    { field: 'remark', value: '"a"' },
  ]),
  offered: fc.option(plainConditions(['some']).map((condition) => toFeel(condition))),
});

const confidentialTo = (key: string, of: Choices): readonly string[] => (of.confidential.includes(key) ? ['auditor'] : []);

const mail = (key: string, when: string | null): object => ({
  kind: 'mail',
  key,
  name: key,
  when,
  to: [{ kind: 'role', role: 'worker' }],
  subject: 'To {{destination.name}}',
  body: '{{amount}} {{twice}} {{rows}}',
});

function build(of: Choices): Workflow {
  const fields = ENTERED.map((key): object => ({
    ...(key === 'rows' ? { type: 'table', key, name: key, fields: CELLS.map(plain) } : plain(key)),
    section: key === 'remark' || key === 'extra' ? 'loose' : 'main',
    confidentialTo: confidentialTo(key, of),
  }));
  const result = readWorkflow({
    format: 'ypomet.workflow/1',
    key: 'random',
    name: 'Random',
    roles: [
      { key: 'worker', name: 'Worker' },
      { key: 'auditor', name: 'Auditor' },
    ],
    sections: [
      { key: 'main', name: 'Main' },
      { key: 'loose', name: 'Loose' },
    ],
    fields: [
      ...fields,
      {
        type: 'number',
        key: 'twice',
        name: 'twice',
        section: 'main',
        scale: 2,
        expression: 'amount * 2',
        confidentialTo: confidentialTo('twice', of),
      },
      { type: 'yes-no', key: 'anyGood', name: 'anyGood', section: 'main', expression: 'some r in rows satisfies r.flag' },
    ],
    tracks: [{ key: 'one', name: 'One' }],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['one'] },
      {
        key: 'work',
        name: 'Work',
        kind: 'work',
        tracks: ['one'],
        roles: ['worker'],
        onArrival: { deliveries: [mail('again', of.branch)] },
      },
      { key: 'sorting', name: 'Sorting', kind: 'junction', tracks: ['one'] },
      { key: 'done', name: 'Done', kind: 'end', tracks: ['one'] },
    ],
    plan: of.plan,
    adjustments: of.adjustments.map((one, index) => ({ key: `a${index}`, name: `A${index}`, ...one })),
    handOffs: [
      { key: 'send', name: 'Send', from: 'ask', checking: 'none', otherwise: { to: 'work' } },
      {
        key: 'pass',
        name: 'Pass',
        from: 'work',
        checking: 'none',
        offeredWhen: of.offered,
        policy: of.policy,
        sets: of.sets,
        branches: [
          { key: 'back', name: 'Back', when: of.branch, to: 'work' },
          { key: 'on', name: 'On', when: of.onward, to: 'sorting' },
        ],
        otherwise: { to: 'done' },
        deliveries: [mail('passed', of.onward)],
        acknowledgements: [
          { key: 'held', when: of.onward, text: 'Held {{amount}}' },
          { key: 'other', text: 'Other {{remark}}' },
        ],
      },
      {
        key: 'sort',
        name: 'Sort',
        from: 'sorting',
        sets: [...of.sets].reverse(),
        branches: [{ key: 'homeward', name: 'Homeward', when: of.branch, to: 'work' }],
        otherwise: { to: 'done' },
        deliveries: [mail('sorted', null)],
      },
    ],
  });
  if (!result.ok) throw new Error(JSON.stringify(result.diagnostics));
  return result.value;
}

/** Workflows of two stages with a random plan, adjustments, confidential fields and conditions. They have no faults. */
export const randomWorkflow: fc.Arbitrary<Workflow> = choices.map(build);

const amounts = fc.integer({ min: -40, max: 40 }).map((quarters) => (quarters / 4).toFixed(2));
const cells = {
  amount: fc.option(amounts),
  size: fc.option(amounts),
  shade: fc.option(fc.constantFrom('red', 'green', 'blue')),
  flag: fc.option(fc.boolean()),
};

/** Values by field key as a record holds them, some of them empty. */
export const randomValues: fc.Arbitrary<Record<string, Json>> = fc
  .record({
    ...cells,
    remark: fc.option(fc.constantFrom('a', 'b')),
    extra: fc.option(fc.constantFrom('c', 'd')),
    rows: fc
      .array(fc.record(cells), { maxLength: 3 })
      .map((rows) => rows.map((values, index): Json => ({ id: `r${index}`, values }))),
  })
  .map((values) => Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null)) as Record<string, Json>);

/** The field of a key. */
export function fieldOf(workflow: Workflow, key: string): Field {
  const field = workflow.fields.find((one) => one.key === key);
  if (!field) throw new Error(`no field ${key}`);
  return field;
}
