import type { HandOffResponse } from '@ypomet/contract';
import type { Actor } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { isOutcomeUnknown, isUniqueViolation } from '../../db/database.ts';
import { ProblemError } from '../../problem.ts';
import { findAnswer } from './repository.ts';

/** Refusals that can come of the same request having been done a moment before: its answer is looked for once more. */
const OVERTAKEN: ReadonlySet<string> = new Set(['revision/stale', 'link/used']);

/** One request to act, and how to know it again. */
export type Request = { readonly actor: Actor; readonly idempotencyKey: string | null };

/**
 * Acts once for an idempotency key: a repeat gets the stored answer, another request under the key is refused. Pages that show
 * what was changed learn of it.
 */
export async function once(
  { database: { pool }, changes }: Pick<ServerContext, 'database' | 'changes'>,
  { actor, idempotencyKey }: Request,
  fingerprint: string,
  act: () => Promise<HandOffResponse>,
): Promise<HandOffResponse> {
  const stored = async (): Promise<HandOffResponse | null> => {
    const answer = idempotencyKey === null ? null : await findAnswer(pool, actor.id, idempotencyKey);
    if (!answer) return null;
    if (answer.fingerprint !== fingerprint) throw new ProblemError('request/idempotency-mismatch');
    return answer.answer as unknown as HandOffResponse;
  };
  const before = await stored();
  if (before) return before;
  try {
    const answer = await act();
    changes.lookSoon();
    return answer;
  } catch (error) {
    if (isOutcomeUnknown(error)) throw new ProblemError('server/outcome-unknown');
    const isRace = isUniqueViolation(error) || (error instanceof ProblemError && OVERTAKEN.has(error.problem.code));
    const answer = isRace ? await stored() : null;
    if (answer) return answer;
    throw error;
  }
}
