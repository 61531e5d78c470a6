import type { WorkflowRecord } from '@ypomet/core';
import type { NewRecordRow } from './write-hand-off.sql.ts';

type Opened = Pick<NewRecordRow, 'opened_by' | 'follow_up' | 'opened_row' | 'depth'>;
const BY_NOBODY: Opened = { opened_by: null, follow_up: null, opened_row: null, depth: 0 };

/** A record as it is inserted at its intake; `opened`: by which other, where it is a follow-up. */
export const toNewRow = (record: WorkflowRecord, opened: Opened = BY_NOBODY): NewRecordRow => ({
  id: record.id,
  workflow: record.workflow,
  version: record.version ?? 0,
  number: record.number ?? '',
  stage: record.intake ?? record.stage,
  track: record.track,
  submitted_by: record.submittedBy,
  created_at: record.createdAt,
  ...opened,
});
