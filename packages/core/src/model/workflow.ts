import { z } from 'zod';
import { Key } from '../shared/identifiers.ts';
import { DecisionTable } from './decision-table.ts';
import { Field, Treatment } from './field.ts';
import { Adjustment, Check, HandOff, Stage } from './flow.ts';

export const FORMAT = 'ypomet.workflow/1';

export const Section = z.strictObject({
  key: Key,
  name: z.string().min(1).max(200),
  /** Starts a page of the participant's form. */
  page: z.boolean().default(false),
});
export type Section = z.infer<typeof Section>;

export const Track = z.strictObject({ key: Key, name: z.string().min(1).max(200) });
export const Role = z.strictObject({ key: Key, name: z.string().min(1).max(200) });

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
});
export type Workflow = z.infer<typeof Workflow>;

/**
 * A definition that was stored when the model had less in it, with the defaults of what came since. It was read in full
 * before it was stored, so nothing is looked at twice.
 */
export const openStoredWorkflow = (stored: Workflow): Workflow =>
  stored.submitterSees === undefined ? { ...stored, submitterSees: {} } : stored;

/** The definition as JSON text: keys in the model's order, two spaces, a final line break. Reading it back gives the same. */
export const writeWorkflow = (workflow: Workflow): string => `${JSON.stringify(Workflow.parse(workflow), null, 2)}\n`;

/** The JSON Schema (2020-12) of definition files. */
export const workflowJsonSchema = (): object => ({
  $id: `https://ypomet.invalid/schemas/${FORMAT}`,
  title: 'Ypomet workflow definition',
  ...z.toJSONSchema(Workflow, { io: 'input', target: 'draft-2020-12' }),
});
