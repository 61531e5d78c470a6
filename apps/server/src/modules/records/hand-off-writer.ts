import type pg from 'pg';
import { isOutcomeUnknown } from '../../db/database.ts';
import { groupRequests } from '../../db/grouping.ts';
import { type HandOffWrite, writeHandOffs } from './repository.ts';

/** Stores a hand-off; false when the record has changed since its revision was read. */
export type WriteHandOff = (write: HandOffWrite) => Promise<boolean>;

/**
 * Hand-offs that wait for the disk at the same time share one commit. What fails for the group (a request answered twice,
 * say), and records that somebody holds, are tried again one by one, so that each gets its own answer and none suffers for
 * another. When it isn't known whether the group was stored nothing is tried again: whoever asked has a key to ask with.
 */
export function makeHandOffWriter(pool: pg.Pool): WriteHandOff {
  const alone = async (write: HandOffWrite): Promise<boolean | Error> => {
    try {
      return (await writeHandOffs(pool, [write]))[0] === true;
    } catch (error) {
      return error instanceof Error ? error : new Error(String(error));
    }
  };
  return groupRequests<HandOffWrite, boolean>(async (writes) => {
    const [first, ...rest] = writes;
    if (!first) return [];
    const ids = new Set(writes.map(({ record }) => record.id));
    if (rest.length === 0) return [await alone(first)];
    if (ids.size < writes.length) return inTurn(writes, alone);
    try {
      const stored = await writeHandOffs(pool, writes, 'skips-held');
      // Those that were passed over are stale, or held by somebody: each waits for its own row.
      return await Promise.all(writes.map((write, index) => stored[index] || alone(write)));
    } catch (error) {
      if (isOutcomeUnknown(error)) throw error;
      // Nothing of the group was stored: whose fault it was shows one by one.
      return inTurn(writes, alone);
    }
  });
}

async function inTurn(
  writes: readonly HandOffWrite[],
  write: (one: HandOffWrite) => Promise<boolean | Error>,
): Promise<readonly (boolean | Error)[]> {
  const results: (boolean | Error)[] = [];
  for (const one of writes) results.push(await write(one));
  return results;
}
