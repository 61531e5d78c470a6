import DataLoader from 'dataloader';

/**
 * Does what is asked for at about the same time in one go: while one group is under way, what comes in gathers into the
 * next. Alone, a request waits for nothing. `run` answers each item of a group in order; an Error is that item's failure.
 */
export function groupRequests<K, V>(
  run: (items: readonly K[]) => Promise<ReadonlyArray<V | Error>>,
  maxSize = 100,
): (item: K) => Promise<V> {
  let underWay: Promise<unknown> = Promise.resolve();
  const loader = new DataLoader<K, V>(
    (items) => {
      const result = run(items);
      underWay = result.catch(() => undefined);
      return result;
    },
    { cache: false, maxBatchSize: maxSize, batchScheduleFn: (start) => void underWay.then(() => setImmediate(start)) },
  );
  return (item) => loader.load(item);
}
