import { statfs } from 'node:fs/promises';
import type { Actor } from '@ypomet/core';
import type pg from 'pg';
import { inTransaction } from '../../db/database.ts';
import { ProblemError } from '../../problem.ts';
import { type Guest, LINK_BYTES } from '../public-intake/guests.ts';

/** How long a file that wasn't handed over whole can be gone on with. */
export const PARTS_KEPT_MS = 24 * 3_600_000;
/** Files that one member, one guest, and all guests behind one address may have under way at once. */
const MEMBER_UNFINISHED = 20;
const GUEST_UNFINISHED = 5;
const ADDRESS_UNFINISHED = 20;
/** Bytes that one member may hand over in a day; those still under way count as announced, and so they do for a link's guests. */
export const DAILY_BYTES = 500_000_000;
/** Members go on handing over files until this share of the floor is left. */
export const MEMBERS_SHARE = 0.2;
/** Any number, the same in every process: one upload is admitted at a time. */
const LOCK = 7_045_293;

type Counts = {
  readonly own: number;
  readonly ownBytes: number;
  readonly address: number;
  readonly linkBytes: number;
  readonly allBytes: number;
};

/** What somebody wants to hand over. */
export type Announced = {
  readonly id: string;
  readonly actor: Pick<Actor, 'id'>;
  readonly guest: Guest | null;
  readonly address: string;
  readonly bytes: number;
};

/**
 * Uploads that were begun and aren't finished. What is announced counts from its beginning: many uploads that are never ended
 * can fill neither a quota twice nor the disk.
 */
export class BegunUploads {
  constructor(
    private readonly pool: pg.Pool,
    private readonly folder: string,
    /** Bytes of the disk that files of guests leave free. */
    private readonly keepFreeBytes: number,
  ) {}

  /**
   * Notes that an upload begins. Codes: `upload/too-many` where too many are under way, `request/too-many` where the day's bytes
   * are used up, `server/no-room` where the disk is nearly full.
   */
  async begin(announced: Announced): Promise<void> {
    const { id, actor, guest, address, bytes } = announced;
    await inTransaction(this.pool, async (client) => {
      await client.query('select pg_advisory_xact_lock($1)', [LOCK]);
      const counts = await this.count(client, announced);
      if (counts.own >= (guest ? GUEST_UNFINISHED : MEMBER_UNFINISHED) || (guest && counts.address >= ADDRESS_UNFINISHED))
        throw new ProblemError('upload/too-many');
      if (counts.ownBytes + bytes > DAILY_BYTES || (guest && counts.linkBytes + bytes > LINK_BYTES))
        throw new ProblemError('request/too-many', { retryAfterSeconds: 3600 });
      await this.admit(bytes + counts.allBytes, guest !== null);
      await client.query('insert into uploads (id, member, link, address, bytes) values ($1, $2, $3, $4, $5)', [
        id,
        actor.id,
        guest?.link ?? null,
        address,
        bytes,
      ]);
    });
  }

  /** Refuses bytes for which the disk has no room. Code `server/no-room`. */
  async admit(bytes: number, isGuest: boolean): Promise<void> {
    const { bavail, bsize } = await statfs(this.folder);
    if (bavail * bsize - bytes < this.keepFreeBytes * (isGuest ? 1 : MEMBERS_SHARE)) throw new ProblemError('server/no-room');
  }

  /** Notes that an upload is over: handed over whole, refused, or taken away. */
  async end(id: string): Promise<void> {
    await this.pool.query('delete from uploads where id = $1', [id]);
  }

  /** Forgets uploads whose parts are no longer kept. */
  async forgetOld(): Promise<void> {
    await this.pool.query(`delete from uploads where begun_at < now() - $1 * interval '1 millisecond'`, [PARTS_KEPT_MS]);
  }

  private async count(db: Pick<pg.Pool, 'query'>, { actor, guest, address }: Announced): Promise<Counts> {
    const { rows } = await db.query<Counts>(
      `select count(*) filter (where member = $1)::int as own,
         count(*) filter (where link is not null and address = $3)::int as address,
         coalesce(sum(bytes) filter (where member = $1), 0)::float8
           + (select coalesce(sum(f.bytes), 0) from files f where f.member = $1 and f.at > now() - interval '1 day')::float8 as "ownBytes",
         coalesce(sum(bytes) filter (where link = $2), 0)::float8
           + (select coalesce(sum(f.bytes), 0) from files f join guests g on g.member = f.member
              where g.link = $2 and f.at > now() - interval '1 day')::float8 as "linkBytes",
         coalesce(sum(bytes), 0)::float8 as "allBytes"
       from uploads`,
      [actor.id, guest?.link ?? null, address],
    );
    return rows[0] as Counts;
  }
}
