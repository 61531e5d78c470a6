import type { z } from 'zod';
import { Acknowledgement, Answer, Delivery, FollowUp, Header, Property, Recipient } from '../model/consequence.ts';
import { DecisionInput, DecisionOutput, DecisionRule, DecisionTable } from '../model/decision-table.ts';
import { Field, Option, SubField } from '../model/field.ts';
import { Adjustment, Arrival, Branch, Check, HandOff, Reminder, Stage } from '../model/flow.ts';
import { KeptTest, TestStep } from '../model/kept-test.ts';
import { termOfIssue } from '../model/read-workflow.ts';
import { SetValue } from '../model/set-value.ts';
import { keyPropertyOf, type PartKind } from '../model/shape.ts';
import type { Part } from '../model/walk.ts';
import { Role, Section, Track, Workflow } from '../model/workflow.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { term } from '../shared/terms.ts';

const SCHEMAS: Readonly<Record<PartKind, z.ZodType>> = {
  workflow: Workflow,
  role: Role,
  section: Section,
  track: Track,
  field: Field,
  'sub-field': SubField,
  option: Option,
  stage: Stage,
  arrival: Arrival,
  reminder: Reminder,
  adjustment: Adjustment,
  'decision-table': DecisionTable,
  input: DecisionInput,
  output: DecisionOutput,
  rule: DecisionRule,
  'hand-off': HandOff,
  branch: Branch,
  delivery: Delivery,
  recipient: Recipient,
  header: Header,
  property: Property,
  answer: Answer,
  set: SetValue,
  acknowledgement: Acknowledgement,
  'follow-up': FollowUp,
  carried: SetValue,
  check: Check,
  test: KeptTest,
  step: TestStep,
};

/** Reads a part: its form checked, defaults filled in. Code `edit/unfit`, with the first thing wrong. */
export function readPart(kind: PartKind, json: unknown, path: string): Result<Part> {
  const parsed = SCHEMAS[kind].safeParse(json);
  if (parsed.success) return success(parsed.data as Part);
  const [issue] = parsed.error.issues;
  const key = String((json as Part | null)?.[keyPropertyOf(kind)] ?? '');
  const detail = issue ? termOfIssue(issue) : '';
  const at = [path, ...(issue?.path ?? [])].filter((step) => step !== '').join('.');
  return failure([diagnostic('edit/unfit', at, { part: term(`part/${kind}`), key, detail })]);
}

/**
 * Reads a part after some of its properties were set. Where its type or kind changes, what the new one doesn't have is
 * dropped; a property that is set and isn't known is refused.
 */
export function readChanged(kind: PartKind, part: Part, set: Part, path: string): Result<Part> {
  let candidate: Part = { ...part, ...set };
  const parsed = SCHEMAS[kind].safeParse(candidate);
  if (!parsed.success) {
    const strange = parsed.error.issues.flatMap((issue) =>
      issue.code === 'unrecognized_keys' && issue.path.length === 0 ? issue.keys : [],
    );
    const dropped = new Set(strange.filter((name) => !Object.hasOwn(set, name)));
    if (dropped.size > 0) candidate = Object.fromEntries(Object.entries(candidate).filter(([name]) => !dropped.has(name)));
  }
  return readPart(kind, candidate, path);
}
