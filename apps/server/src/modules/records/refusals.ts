import type { ProblemDetail } from '@ypomet/contract';
import { ProblemError } from '../../problem.ts';

/** What concerns one of many alone. */
const OF_ONE: ReadonlySet<string> = new Set([
  'hand-off/refused',
  'revision/stale',
  'take-back/too-late',
  'thing/not-found',
  'request/idempotency-mismatch',
]);

/** Why one of many was refused. What concerns all of them, the server above all, is thrown on. */
export function refusalOf(error: unknown): ProblemDetail[] {
  if (!(error instanceof ProblemError) || !OF_ONE.has(error.problem.code)) throw error;
  const { details, code, title, detail } = error.problem;
  if (details.length > 0) return [...details];
  return [{ code, message: title, path: '', mend: detail, params: {}, field: null, row: null, subField: null }];
}
