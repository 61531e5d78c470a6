import { setImmediate } from 'node:timers/promises';

/** How long one piece of work may hold up the other requests of the event loop. */
const AT_MOST_MS = 8;

/**
 * Gives out items one after another for work that takes long in all, and lets other requests have their turn whenever the
 * work since the last turn took longer than 8 ms.
 *
 * @example for await (const row of inTurns(rows)) write(row);
 */
export async function* inTurns<T>(items: Iterable<T>): AsyncGenerator<T> {
  let since = performance.now();
  for (const item of items) {
    if (performance.now() - since > AT_MOST_MS) {
      await setImmediate();
      since = performance.now();
    }
    yield item;
  }
}
