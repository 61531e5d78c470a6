import type { Actor } from '@ypomet/core';
import type { Config } from '../../config.ts';
import { type Database, inTransaction } from '../../db/database.ts';
import { ProblemError } from '../../problem.ts';
import { requeueConfirmed } from '../deliveries/repository.ts';
import { Confirmations } from './confirmations.ts';
import { type Pass, Passes } from './passes.ts';
import { countGuestBytes, findGuest, keepGuest, noteConfirmed } from './repository.ts';

/** Somebody without an account, by the pass they sent. */
export type Guest = {
  readonly id: string;
  /** The public link their pass is of. */
  readonly link: string;
  readonly issuedAt: number;
  /** The record they began; null while they haven't. */
  readonly record: string | null;
};

/** How guests are called who gave no name. */
export const NAMELESS = 'A guest';
/** How long a pass is good for that nothing was handed in with. */
export const PASS_GOOD_MS = 7 * 24 * 3_600_000;
/** Bytes that the guests of one link may hand over in a day. */
export const LINK_BYTES = 2_000_000_000;

type Means = {
  readonly config: Pick<Config, 'secretKeys'>;
  readonly database: Pick<Database, 'pool'>;
  readonly clock: () => number;
};

/** Guests: who they are by their passes, and what is kept of them. */
export class Guests {
  readonly passes: Passes;
  readonly confirmations: Confirmations;

  constructor(private readonly context: Means) {
    this.passes = new Passes(context.config.secretKeys);
    this.confirmations = new Confirmations(context.config.secretKeys);
  }

  /** Whose pass it is, and as whom they act; null where it is none, or has run out unused. */
  async find(text: string): Promise<{ readonly guest: Guest; readonly actor: Actor } | null> {
    const pass = this.passes.read(text);
    if (!pass) return null;
    const row = await findGuest(this.context.database.pool, pass.guest, pass.link);
    const guest = { id: pass.guest, link: pass.link, issuedAt: pass.issuedAt, record: row?.record ?? null };
    if (guest.record === null && this.isOver(pass)) return null;
    return { guest, actor: { id: guest.id, name: row?.name ?? NAMELESS, email: row?.email || null, roles: [] } };
  }

  /** Keeps a guest before they hand over a file, unless their link's guests handed over enough for a day. */
  async admitFile(guest: Guest): Promise<void> {
    const { pool } = this.context.database;
    if ((await countGuestBytes(pool, guest.link)) >= LINK_BYTES)
      throw new ProblemError('request/too-many', { retryAfterSeconds: 3600 });
    if (guest.record === null) await keepGuest(pool, guest, { name: NAMELESS, email: '' });
  }

  /**
   * Confirms the address of a token, and queues the mails that wait for it. Returns the address in small letters. Code
   * `confirmation/over` for a token that is none, or ran out.
   */
  async confirm(token: string): Promise<string> {
    const address = this.confirmations.read(token, this.context.clock());
    if (address === null) throw new ProblemError('confirmation/over');
    await inTransaction(this.context.database.pool, async (client) => {
      await noteConfirmed(client, address);
      await requeueConfirmed(client, address);
    });
    return address;
  }

  /** The name and mail address that are known of a guest. */
  async known(guest: Guest): Promise<{ readonly name: string; readonly email: string }> {
    const row = await findGuest(this.context.database.pool, guest.id, guest.link);
    return { name: row?.name ?? NAMELESS, email: row?.email ?? '' };
  }

  private isOver({ issuedAt }: Pass): boolean {
    return this.context.clock() - issuedAt > PASS_GOOD_MS;
  }
}
