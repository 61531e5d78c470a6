import { setTimeout as delay } from 'node:timers/promises';
import DataLoader from 'dataloader';

/** A group that takes longer holds up no other: the next begins beside it. */
const PATIENCE_MS = 40;
const MAX_GROUPS = 6;

/**
 * Does what is asked for at about the same time in one go: while one group is under way, what comes in gathers into the
 * next. Alone, a request waits for nothing; behind a group that stalls it waits for a moment. `run` answers each item of a
 * group in order; an Error is that item's failure.
 */
export function groupRequests<K, V>(
  run: (items: readonly K[]) => Promise<ReadonlyArray<V | Error>>,
  maxSize = 100,
): (item: K) => Promise<V> {
  const underWay = new Set<Promise<unknown>>();
  let newest: Promise<unknown> | null = null;
  const mayBegin = async (): Promise<void> => {
    if (newest && underWay.has(newest)) await Promise.race([newest, delay(PATIENCE_MS)]);
    while (underWay.size >= MAX_GROUPS) await Promise.race(underWay);
  };
  const loader = new DataLoader<K, V>(
    (items) => {
      const result = run(items);
      const settled: Promise<unknown> = result.then(
        () => underWay.delete(settled),
        () => underWay.delete(settled),
      );
      underWay.add(settled);
      newest = settled;
      return result;
    },
    {
      cache: false,
      maxBatchSize: maxSize,
      batchScheduleFn: (start) => {
        if (newest && underWay.has(newest)) void mayBegin().then(() => setImmediate(start));
        else setImmediate(start);
      },
    },
  );
  return (item) => loader.load(item);
}
