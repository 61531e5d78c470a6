import { ProblemError } from './problem.ts';

type Waiting = { active: number; readonly queue: (() => void)[] };

/** Lets a few of a kind run at a time, by key; the others wait their turn, and beyond a bound they are refused. */
export class Turns {
  private readonly byKey = new Map<string, Waiting>();

  constructor(
    private readonly atOnce: number,
    private readonly maxWaiting: number,
  ) {}

  /** Runs work when it is its turn. Code `request/too-many` when too many wait already. */
  async take<T>(key: string, work: () => Promise<T>): Promise<T> {
    const waiting = this.byKey.get(key) ?? { active: 0, queue: [] };
    this.byKey.set(key, waiting);
    if (waiting.active >= this.atOnce) {
      if (waiting.queue.length >= this.maxWaiting) throw new ProblemError('request/too-many', { retryAfterSeconds: 5 });
      await new Promise<void>((resolve) => waiting.queue.push(resolve));
    } else waiting.active += 1;
    try {
      return await work();
    } finally {
      const next = waiting.queue.shift();
      if (next) next();
      else waiting.active -= 1;
      if (waiting.active === 0) this.byKey.delete(key);
    }
  }
}
