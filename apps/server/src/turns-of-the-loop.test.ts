import { expect, test } from '@jest/globals';
import { inTurns } from './turns-of-the-loop.ts';

/** Keeps the event loop for some milliseconds. */
const keepBusy = (ms: number): void => {
  const until = performance.now() + ms;
  while (performance.now() < until);
};

test('long work on many items gives others their turn in between, and comes to every item once, in order', async () => {
  let turns = 0;
  let isDone = false;
  const other = (): void => {
    turns += 1;
    if (!isDone) setImmediate(other);
  };
  setImmediate(other);
  const seen: number[] = [];
  for await (const item of inTurns([1, 2, 3, 4, 5])) {
    keepBusy(20);
    seen.push(item);
  }
  isDone = true;
  expect(seen).toEqual([1, 2, 3, 4, 5]);
  expect(turns).toBeGreaterThanOrEqual(4);
});

test('an error of the work ends it, and reaches whoever does it', async () => {
  const work = async (): Promise<void> => {
    for await (const item of inTurns([1, 2])) if (item === 1) throw new Error('not this one');
  };
  await expect(work()).rejects.toThrow('not this one');
});
