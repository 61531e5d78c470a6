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
  /** The name of the member who has it. */
  readonly assigneeName: string | null;
  readonly submittedBy: string | null;
  readonly values: Readonly<Record<string, Json>>;
  readonly defaulted: readonly string[];
  readonly revision: number;
  readonly createdAt: string;
  readonly arrivedAt: string;
  /** How many records it opened that are open still, and that are done. */
  readonly followUps: { readonly open: number; readonly done: number };
  /** Web requests whose answers are to be taken into it and haven't been. */
  readonly awaited: number;
  /** The record that opened it; what its form of entry refused. */
  readonly openedBy: string | null;
  readonly depth: number;
  readonly due: string | null;
  readonly reminded: readonly string[];
  readonly refused: readonly string[];
  readonly issues: readonly Json[] | null;
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
  `case when r.assignee ->> 'kind' = 'member' then (select a.name from members a where a.id = r.waiting_member) end as "assigneeName"`,
  'r.submitted_by as "submittedBy"',
  'r.values',
  'r.defaulted',
  'r.revision',
  `to_char(r.created_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as "createdAt"`,
  `to_char(r.arrived_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as "arrivedAt"`,
  'r.opened_by as "openedBy"',
  'r.depth',
  'r.due',
  'r.reminded',
  'r.refused',
  'r.issues',
  // Pending follow-ups count as open, so that a stage that waits for its follow-ups also waits for those not begun yet.
  `(select json_build_object('open', count(*) filter (where f.stage_kind <> 'end')
      + (select count(*) from pending_follow_ups p where p.source = r.id), 'done', count(*) filter (where f.stage_kind = 'end'))
    from records f where f.opened_by = r.id) as "followUps"`,
  `(select count(*)::int from deliveries d where d.record = r.id and d.status in ('queued', 'waiting')
    and jsonb_array_length(d.content -> 'answers') > 0) as awaited`,
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
  due: row.due,
  reminded: row.reminded,
  followUps: row.followUps,
  awaited: row.awaited,
});

/** A record with the name of whoever submitted it. */
export type ListedRow = RecordRow & { readonly submitter: string | null };
