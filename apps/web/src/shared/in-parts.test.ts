import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { inPartsOf, runInParts } from './in-parts.ts';

beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

test.each([
  [0, []],
  [1, [1]],
  [4, [4]],
  [5, [4, 1]],
  [9, [4, 4, 1]],
])('a list of %i in parts of at most four', (length, expected) => {
  expect(inPartsOf(Array.from({ length }), 4).map((part) => part.length)).toEqual(expected);
});

const failure = (status?: number): Error =>
  Object.assign(new Error(String(status)), status === undefined ? {} : { problem: { status } });

test.each([
  ['a lost answer', undefined, 3],
  ['too much asked', 429, 3],
  ['a fault of the server', 503, 3],
  ['a refusal', 422, 1],
] as const)('after %s it is sent again, as often as that makes sense', async (_name, status, times) => {
  let sent = 0;
  const running = runInParts(
    [1, 2],
    async () => {
      sent += 1;
      throw failure(status);
    },
    () => {},
    new AbortController().signal,
  );
  const ended = expect(running).rejects.toThrow();
  await jest.advanceTimersByTimeAsync(60_000);
  await ended;
  expect(sent).toBe(times);
});

test('a part whose answer was lost once is told once, and the rest goes on', async () => {
  const told: number[] = [];
  let sent = 0;
  const running = runInParts(
    [1, 2, 3],
    async (part) => {
      sent += 1;
      if (sent === 2) throw failure();
      return part;
    },
    (part) => told.push(part),
    new AbortController().signal,
  );
  await jest.advanceTimersByTimeAsync(60_000);
  await running;
  expect(told).toEqual([1, 2, 3]);
});
