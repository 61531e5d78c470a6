import type pg from 'pg';
import { groupRequests } from '../../db/grouping.ts';
import { type HandOffWrite, writeHandOffs } from './repository.ts';

/** Stores a hand-off; false when the record has changed since its revision was read. */
export type WriteHandOff = (write: HandOffWrite) => Promise<boolean>;

/**
 * Hand-offs that wait for the disk at the same time share one commit. What fails for the group (a request answered twice,
 * say) is tried again one by one, so that each gets its own answer and none suffers for another.
 */
export function makeHandOffWriter(pool: pg.Pool): WriteHandOff {
  const alone = async (write: HandOffWrite): Promise<boolean | Error> => {
    try {
      return (await writeHandOffs(pool, [write]))[0] === true;
    } catch (error) {
      return error instanceof Error ? error : new Error(String(error));
    }
  };
  const inTurn = async (writes: readonly HandOffWrite[]): Promise<readonly (boolean | Error)[]> => {
    const results: (boolean | Error)[] = [];
    for (const write of writes) results.push(await alone(write));
    return results;
  };
  return groupRequests<HandOffWrite, boolean>(async (writes) => {
    const ids = new Set(writes.map(({ record }) => record.id));
    if (writes.length === 1 || ids.size < writes.length) return inTurn(writes);
    try {
      return await writeHandOffs(pool, writes);
    } catch {
      // Nothing of the group was stored: whose fault it was shows one by one.
      return inTurn(writes);
    }
  });
}
