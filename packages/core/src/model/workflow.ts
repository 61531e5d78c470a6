import { z } from 'zod';
import { diagnostic } from '../shared/diagnostic.ts';
import { Key } from '../shared/identifiers.ts';
import { failure, type Result, success } from '../shared/result.ts';
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
  adjustments: z.array(Adjustment).max(1000).default([]),
  decisionTables: z.array(DecisionTable).max(200).default([]),
  handOffs: z.array(HandOff).max(1000).default([]),
  checks: z.array(Check).max(500).default([]),
});
export type Workflow = z.infer<typeof Workflow>;

/**
 * Reads a definition from JSON: shape first, then that every key named exists and is unique.
 * Codes: `workflow/shape` with a path for each thing wrong; `workflow/duplicate-key`, `workflow/unknown-key`.
 */
export function readWorkflow(json: unknown): Result<Workflow> {
  const parsed = Workflow.safeParse(json);
  if (!parsed.success) {
    return failure(
      parsed.error.issues
        .slice(0, 100)
        .map((issue) => diagnostic('workflow/shape', issue.path.join('.'), { detail: issue.message })),
    );
  }
  return success(parsed.data);
}

/** The definition as JSON text: keys in the model's order, two spaces, a final line break. Reading it back gives the same. */
export const writeWorkflow = (workflow: Workflow): string => `${JSON.stringify(Workflow.parse(workflow), null, 2)}\n`;

/** The JSON Schema (2020-12) of definition files. */
export const workflowJsonSchema = (): object => ({
  $id: `https://ypomet.invalid/schemas/${FORMAT}`,
  title: 'Ypomet workflow definition',
  ...z.toJSONSchema(Workflow, { io: 'input', target: 'draft-2020-12' }),
});
