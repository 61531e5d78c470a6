import { z } from 'zod';
import { DecisionTable } from './decision-table.ts';
import { Field, Treatment } from './field.ts';
import { fieldPath } from './field-path.ts';
import { Adjustment, Check, HandOff, Notes, Stage } from './flow.ts';
import { FORMAT } from './format.ts';
import { KeptTest } from './kept-test.ts';
import { GIVEN_KEY, Key } from './keys.ts';

export const Section = z.strictObject({
  key: Key,
  name: z.string().min(1).max(200),
  /** Starts a page of the participant's form. */
  page: z.boolean().default(false),
});
export type Section = z.infer<typeof Section>;

export const Track = z.strictObject({ key: Key, name: z.string().min(1).max(200), notes: Notes });
/**
 * What of the register holders of a role see: nothing; every record, of each what the stages where they act show them; or
 * every record with all that isn't confidential to others.
 */
export const REGISTER_RIGHTS = ['none', 'shown', 'all'] as const;
export type RegisterRight = (typeof REGISTER_RIGHTS)[number];

export const Role = z.strictObject({
  key: Key,
  name: z.string().min(1).max(200),
  register: z.enum(REGISTER_RIGHTS).default('none'),
});

/** Treatments by field (or `table.subField`), then by stage. What is absent is the field's own default. */
export const Plan = z.record(z.string().max(130), z.record(Key, Treatment));
export type Plan = z.infer<typeof Plan>;

/** What a submitter sees when looking in on a record that others have, by field (or `table.subField`). */
export const SubmitterSees = z.record(z.string().max(130), z.enum(['hidden', 'shown']));
export type SubmitterSees = z.infer<typeof SubmitterSees>;

/** A workflow definition, as stored, exported and compiled. */
export const Workflow = z.strictObject({
  format: z.literal(FORMAT),
  key: Key,
  name: z.string().min(1).max(200),
  description: z.string().max(5000).default(''),
  /** Pattern of the running number: `{year}` and `{number:4}` (padded to four digits) are filled in. */
  numbering: z.string().min(1).max(60).default('{number:4}'),
  roles: z.array(Role).max(100).default([]),
  sections: z.array(Section).min(1).max(200),
  fields: z.array(Field).max(1000),
  tracks: z.array(Track).min(1).max(20),
  stages: z.array(Stage).min(1).max(300),
  plan: Plan.default({}),
  /** The plan's column *Submitter*. A field it doesn't name is seen as the intake showed it. */
  submitterSees: SubmitterSees.default({}),
  adjustments: z.array(Adjustment).max(1000).default([]),
  decisionTables: z.array(DecisionTable).max(200).default([]),
  handOffs: z.array(HandOff).max(1000).default([]),
  checks: z.array(Check).max(500).default([]),
  /** Rehearsals that are run again at each change. */
  tests: z.array(KeptTest).max(500).default([]),
});
export type Workflow = z.infer<typeof Workflow>;

type Entries<T> = Readonly<Record<string, T>>;

/** A record's entries in the order of some keys; others after them, as they come. */
function inOrderOf<T>(entries: Entries<T>, keys: readonly string[]): Record<string, T> {
  const known = keys.filter((key) => Object.hasOwn(entries, key)).map((key): [string, T] => [key, entries[key] as T]);
  return { ...Object.fromEntries(known), ...Object.fromEntries(Object.entries(entries).filter(([key]) => !keys.includes(key))) };
}

const keysOf = (list: readonly { readonly key: string }[]): readonly string[] => list.map(({ key }) => key);

/** The definition with its cells in the order of their rows and columns, which is what they are read by. */
function inOrder(workflow: Workflow): Workflow {
  const paths = workflow.fields.flatMap((field) => [
    field.key,
    ...(field.type === 'table' ? field.fields.map((own) => fieldPath(field.key, own.key)) : []),
  ]);
  const stages = keysOf(workflow.stages);
  const rows = Object.entries(workflow.plan).map(([row, cells]) => [row, inOrderOf(cells, stages)] as const);
  const decisionTables = workflow.decisionTables.map((table) => ({
    ...table,
    rules: table.rules.map((rule) => ({
      ...rule,
      when: inOrderOf(rule.when, keysOf(table.inputs)),
      then: inOrderOf(rule.then, keysOf(table.outputs)),
    })),
  }));
  const plan = inOrderOf(Object.fromEntries(rows), paths);
  return { ...workflow, plan, submitterSees: inOrderOf(workflow.submitterSees, paths), decisionTables };
}

/**
 * The definition as JSON text: keys in the model's order, cells in the order of their fields and stages, two spaces, a final
 * line break. Reading it back gives the same.
 */
export const writeWorkflow = (workflow: Workflow): string => `${JSON.stringify(inOrder(Workflow.parse(workflow)), null, 2)}\n`;

/** The JSON Schema (2020-12) of definition files. */
export const workflowJsonSchema = (): object => ({
  $id: `https://ypomet.invalid/schemas/${FORMAT}`,
  title: 'Ypomet workflow definition',
  ...z.toJSONSchema(Workflow, {
    io: 'input',
    target: 'draft-2020-12',
    // Given keys may be left out: they are filled in before the definition is read.
    override: ({ jsonSchema }) => {
      const key = jsonSchema.properties?.key;
      if (typeof key === 'object' && key.description === GIVEN_KEY && jsonSchema.required)
        jsonSchema.required = jsonSchema.required.filter((name) => name !== 'key');
    },
  }),
});
