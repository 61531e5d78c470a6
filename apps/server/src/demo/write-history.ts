import { findStage, writeInstant } from '@ypomet/core';
import type { Database } from '../db/database.ts';
import { inTransaction } from '../db/database.ts';
import { clockColumns } from '../modules/records/clock-columns.ts';
import { waitingFor } from '../modules/records/repository.ts';
import type { Workspace } from '../modules/workspace/workspace.ts';
import type { PastRecord } from './history.ts';

/** Rows written with one statement. */
const AT_ONCE = 500;

const RECORDS = `
insert into records (id, workflow, version, number, stage, stage_kind, intake, track, waiting_roles, waiting_member, assignee, submitted_by,
  values, opened_by, follow_up, opened_row, depth, defaulted, revision, created_at, arrived_at, due, due_at, reminded, refused, clock_at)
select id, workflow, version, number, stage, stage_kind, intake, track, waiting_roles, waiting_member, nullif(assignee, 'null'::jsonb), submitted_by,
  values, opened_by, follow_up, opened_row, depth, defaulted, revision, created_at, arrived_at, due, due_at, reminded, '{}', clock_at
from jsonb_to_recordset($1::jsonb) as n(id uuid, workflow text, version int, number text, stage text, stage_kind text, intake text, track text,
  waiting_roles text[], waiting_member uuid, assignee jsonb, submitted_by uuid, values jsonb, opened_by uuid, follow_up text, opened_row text,
  depth int, defaulted text[], revision int, created_at timestamptz, arrived_at timestamptz, due text, due_at timestamptz, reminded text[],
  clock_at timestamptz) on conflict do nothing`;

const EVENTS = `
insert into record_events (record, revision, event, told, by, at)
select record, revision, event, nullif(told, 'null'::jsonb), by, at
from jsonb_to_recordset($1::jsonb) as n(record uuid, revision int, event jsonb, told jsonb, by uuid, at timestamptz)`;

/** Writes records of the past with what happened to them, in one transaction; running numbers go on after them. */
export async function writePast(
  { pool }: Pick<Database, 'pool'>,
  { zone, counting }: Pick<Workspace, 'zone' | 'counting'>,
  past: readonly PastRecord[],
): Promise<void> {
  const rows = past.map((one) => toRow(one, zone, counting));
  const events = past
    .flatMap(({ record, events: own }) => own.map((entry) => ({ ...entry, record: record.id })))
    .sort((a, b) => a.at - b.at)
    .map((entry) => ({ ...entry, at: writeInstant(entry.at) }));
  const counts = new Map<string, number>();
  for (const { record } of past) counts.set(record.workflow, (counts.get(record.workflow) ?? 0) + 1);
  await inTransaction(pool, async (client) => {
    for (let from = 0; from < rows.length; from += AT_ONCE)
      await client.query(RECORDS, [JSON.stringify(rows.slice(from, from + AT_ONCE))]);
    for (let from = 0; from < events.length; from += AT_ONCE)
      await client.query(EVENTS, [JSON.stringify(events.slice(from, from + AT_ONCE))]);
    for (const [workflow, count] of counts)
      await client.query('update workflows set next_number = greatest(next_number, $2 + 1) where key = $1', [workflow, count]);
  });
}

function toRow(
  { record, workflow, revision, openedBy, followUp, row, depth }: PastRecord,
  zone: string,
  calendar: Workspace['counting'],
) {
  const stage = findStage(workflow.definition, record.stage);
  if (!stage) throw new Error(`no stage ${record.stage}`);
  const waiting = waitingFor({ record, stage });
  // Whoever has it was reminded in its time.
  const reminded = stage.reminders.map(({ key }) => key);
  const { due_at, clock_at } = clockColumns(workflow, { ...record, reminded }, { zone, calendar });
  return {
    id: record.id,
    workflow: record.workflow,
    version: record.version,
    number: record.number,
    stage: record.stage,
    stage_kind: stage.kind,
    intake: record.intake,
    track: record.track,
    waiting_roles: waiting.roles,
    waiting_member: waiting.member,
    assignee: record.assignee,
    submitted_by: record.submittedBy,
    values: record.values,
    opened_by: openedBy,
    follow_up: followUp,
    opened_row: row,
    depth,
    defaulted: record.defaulted,
    revision,
    created_at: record.createdAt,
    arrived_at: record.arrivedAt,
    due: record.due,
    due_at,
    reminded,
    clock_at,
  };
}
