import { type CompiledWorkflow, clockMoments, dueInstant, type Outside, type WorkflowRecord } from '@ypomet/core';

/** What the database keeps of a record's due date for itself, to find what is overdue and what the clock has to do. */
export type ClockColumns = {
  readonly due_at: string | null;
  /** Hand-offs by the clock that were refused with the record as it is. */
  readonly refused: readonly string[];
  /** When the clock next has something to do. */
  readonly clock_at: string | null;
};

/** The instants the database is given at most: a design may put a due date after all times, and an old one before most. */
const FIRST = Date.parse('0001-01-01T00:00:00Z');
const LAST = Date.parse('9999-12-31T00:00:00Z');
const written = (ms: number | null): string | null =>
  ms === null ? null : new Date(Math.max(FIRST, Math.min(ms, LAST))).toISOString();

/** The columns of a record as it is now; `refused`: hand-offs that were, and are not tried again before it changes. */
export function clockColumns(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  outside: Pick<Outside, 'zone' | 'calendar'>,
  refused: readonly string[] = [],
): ClockColumns {
  if (record.due === null) return { due_at: null, refused: [], clock_at: null };
  const [next] = clockMoments(workflow, record, outside).filter(
    (moment) => moment.kind === 'reminder' || !refused.includes(moment.handOff),
  );
  return { due_at: written(dueInstant(record.due, outside.zone)), refused, clock_at: written(next?.at ?? null) };
}
