import { describe, expect, test } from '@jest/globals';
import { WallClock } from './wall-clock.ts';

/** A database whose clock shows noon of a day; `asked` counts how often it was asked. */
function database() {
  const state = { asked: 0 };
  const query = async () => {
    state.asked += 1;
    return { rows: [{ ms: Date.UTC(2026, 11, 1, 12) }] };
  };
  return { pool: { query } as never, state };
}
const NOON = Date.UTC(2026, 11, 1, 12);

describe('the clock of a process', () => {
  test.each([
    ['right', 0, false],
    ['a little late', -20_000, false],
    ['a minute late', -60_000, true],
    ['an hour early', 3_600_000, true],
  ])('that is %s: %i ms, off: %s', async (_, offMs, expected) => {
    expect(await new WallClock(database().pool, () => NOON + offMs).isOff()).toBe(expected);
  });

  test('is looked at again after a while only', async () => {
    const { pool, state } = database();
    const clock = new WallClock(pool, () => NOON);
    for (let count = 0; count < 5; count++) await clock.isOff();
    expect(state.asked).toBe(1);
  });

  test('that can’t be compared is no answer, and is asked for anew', async () => {
    let isAway = true;
    const query = async () => {
      if (isAway) throw new Error('away');
      return { rows: [{ ms: NOON }] };
    };
    const clock = new WallClock({ query } as never, () => NOON);
    await expect(clock.isOff()).rejects.toThrow('away');
    isAway = false;
    expect(await clock.isOff()).toBe(false);
  });
});
