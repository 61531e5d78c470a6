import type { Assignee, Json, WorkflowRecord } from '@ypomet/core';

/** A record as the database has it. */
export type RecordRow = {
  readonly id: string;
  readonly workflow: string;
  readonly version: number;
  readonly number: string;
  readonly stage: string;
  readonly stageKind: string;
  readonly intake: string | null;
  readonly track: string | null;
  readonly assignee: Assignee | null;
  readonly submittedBy: string | null;
  readonly values: Readonly<Record<string, Json>>;
  readonly defaulted: readonly string[];
  readonly revision: number;
  readonly createdAt: string;
  readonly arrivedAt: string;
};

const COLUMNS = [
  'r.id',
  'r.workflow',
  'r.version',
  'r.number',
  'r.stage',
  'r.stage_kind as "stageKind"',
  'r.intake',
  'r.track',
  'r.assignee',
  'r.submitted_by as "submittedBy"',
  'r.values',
  'r.defaulted',
  'r.revision',
  `to_char(r.created_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as "createdAt"`,
  `to_char(r.arrived_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as "arrivedAt"`,
];
/** The select list for {@link RecordRow}, of a `records r`. */
export const RECORD_COLUMNS = COLUMNS.join(', ');

export const toRecord = (row: RecordRow): WorkflowRecord => ({
  id: row.id,
  number: row.number,
  workflow: row.workflow,
  version: row.version,
  stage: row.stage,
  intake: row.intake,
  track: row.track,
  values: row.values,
  defaulted: row.defaulted,
  assignee: row.assignee,
  submittedBy: row.submittedBy,
  createdAt: row.createdAt,
  arrivedAt: row.arrivedAt,
  followUps: { open: 0, done: 0 },
});
