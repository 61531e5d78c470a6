import { writeInstant, yearOfInstant } from '../values/temporal.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { type Actor, memberOf, type Outside, type WorkflowRecord } from './record.ts';

/** A record as it begins at an intake stage: no values, on the stage's first track. */
export function openRecord(
  workflow: CompiledWorkflow,
  stage: string,
  id: string,
  version: number | null,
  actor: Actor,
  outside: Outside,
): WorkflowRecord {
  if (workflow.stages.get(stage)?.stage.kind !== 'intake') throw new Error(`no intake stage ${stage}`);
  return blankRecord(workflow, stage, id, version, actor, outside);
}

/** A record without values at any stage, as if it had begun there: of a design without an intake, records can be rehearsed all the same. */
export function blankRecord(
  workflow: CompiledWorkflow,
  stage: string,
  id: string,
  version: number | null,
  actor: Actor,
  outside: Outside,
): WorkflowRecord {
  const now = writeInstant(outside.now);
  return {
    id,
    number: null,
    workflow: workflow.definition.key,
    version,
    stage,
    intake: stage,
    track: workflow.stages.get(stage)?.stage.tracks[0] ?? null,
    values: {},
    defaulted: [],
    assignee: null,
    submittedBy: memberOf(actor),
    createdAt: now,
    arrivedAt: now,
    due: null,
    reminded: [],
    followUps: { open: 0, done: 0 },
    awaited: 0,
  };
}

/** The running number of a record in the analyst's pattern: `{year}` (the workspace's), `{number}`, `{number:4}`. */
export function formatRecordNumber(pattern: string, number: number, outside: Pick<Outside, 'now' | 'zone'>): string {
  const year = yearOfInstant(outside.now, outside.zone);
  return pattern.replace(/\{(year|number)(?::(\d{1,2}))?\}/g, (_, name: string, width: string | undefined) =>
    String(name === 'year' ? year : number).padStart(Number(width ?? 0), '0'),
  );
}
