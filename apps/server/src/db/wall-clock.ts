import type pg from 'pg';

/** How far a process's clock may be from the database's. */
const MAX_OFF_MS = 30_000;
/** How long what was found holds. */
const KNOWN_FOR_MS = 10_000;

/**
 * The clock of this process beside the database's. A process whose clock is off must not do what depends on time: it would
 * send reminders and hand records on too early or too late, while the clocks of other processes are right.
 */
export class WallClock {
  private looked: { readonly at: number; readonly offMs: Promise<number> } | null = null;

  /** `wall`: the process's clock, in milliseconds since 1970. */
  constructor(
    private readonly pool: Pick<pg.Pool, 'query'>,
    private readonly wall: () => number = Date.now,
  ) {}

  /** Whether the clock is off by more than half a minute. Rejects where the database can't be reached. */
  async isOff(): Promise<boolean> {
    const now = performance.now();
    if (this.looked === null || now - this.looked.at > KNOWN_FOR_MS) this.looked = { at: now, offMs: this.measure() };
    try {
      return Math.abs(await this.looked.offMs) > MAX_OFF_MS;
    } catch (error) {
      this.looked = null;
      throw error;
    }
  }

  private async measure(): Promise<number> {
    const before = this.wall();
    const { rows } = await this.pool.query<{ ms: number }>('select (extract(epoch from clock_timestamp()) * 1000)::float8 as ms');
    // The database looked at its clock between these two.
    return (before + this.wall()) / 2 - (rows[0]?.ms ?? Number.NaN);
  }
}
