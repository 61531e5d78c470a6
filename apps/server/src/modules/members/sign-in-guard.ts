import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import type pg from 'pg';
import { RateLimiterPostgres } from 'rate-limiter-flexible';
import { ProblemError } from '../../problem.ts';
import { Turns } from '../../turns.ts';

/** Failed tries a minute from one address. */
export const FAILURES_PER_ADDRESS = 10;
/** Failed tries at one account before pauses begin, and how long failures are remembered. */
export const FREE_FAILURES = 5;
const REMEMBERED_SECONDS = 3600;
const LONGEST_PAUSE_SECONDS = 900;

export const DEVICE_COOKIE = 'ypomet_device';
export const DEVICE_COOKIE_SECONDS = 180 * 24 * 3600;

/** One try to sign in: where it comes from, whom it names, and the device it shows. */
export type Try = { readonly address: string; readonly email: string; readonly device: string | undefined };

/**
 * Slows down guessing of passwords, in all server processes together. An address may fail ten times a minute; an account
 * pauses after five failures for 1, 2, 4 … seconds, up to a quarter of an hour. Strangers' failures don't lock anybody out:
 * a device on which somebody signed in before (it has a signed cookie) has an account of failures and turns of its own, also
 * behind an address from which strangers fail.
 */
export class SignInGuard {
  private readonly addresses: RateLimiterPostgres;
  private readonly failures: RateLimiterPostgres;
  private readonly pauses: RateLimiterPostgres;
  private readonly turns = new Turns(4, 200);

  constructor(
    pool: pg.Pool,
    private readonly secret: string,
  ) {
    const make = (keyPrefix: string, points: number, duration: number): RateLimiterPostgres =>
      new RateLimiterPostgres({
        storeClient: pool,
        storeType: 'pool',
        tableName: 'limits',
        tableCreated: true,
        clearExpiredByTimeout: false,
        keyPrefix,
        points,
        duration,
      });
    this.addresses = make('address', FAILURES_PER_ADDRESS, 60);
    this.failures = make('failures', 1_000_000, REMEMBERED_SECONDS);
    this.pauses = make('pause', 1, LONGEST_PAUSE_SECONDS);
  }

  /**
   * Makes a try, unless it must wait: then throws `request/too-many`. `isRight` looks at the password; a wrong one is counted,
   * a right one makes the failures before it on this device forgotten. From one address only a few tries are made at a
   * time, so that many at once are counted like many in turn.
   */
  async attempt<T>(one: Try, isRight: () => Promise<T | null>): Promise<T | null> {
    const { key, isKnown } = this.accountOf(one);
    return this.turns.take(isKnown ? key : one.address, async () => {
      const [address, pause] = await Promise.all([isKnown ? null : this.addresses.get(one.address), this.pauses.get(key)]);
      if (address && address.remainingPoints <= 0) throw tooMany(address.msBeforeNext);
      if (pause && pause.consumedPoints > 0) throw tooMany(pause.msBeforeNext);
      const found = await isRight();
      if (found === null) await this.count(one, key);
      else await Promise.all([this.failures.delete(key), this.pauses.delete(key)]);
      return found;
    });
  }

  private async count(one: Try, key: string): Promise<void> {
    const [{ consumedPoints }] = await Promise.all([this.failures.penalty(key), this.addresses.penalty(one.address)]);
    if (consumedPoints <= FREE_FAILURES) return;
    const seconds = Math.min(LONGEST_PAUSE_SECONDS, 2 ** Math.min(20, consumedPoints - FREE_FAILURES - 1));
    await this.pauses.set(key, 1, seconds);
  }

  /** A cookie by which a device is known again for an account. */
  makeDevice(email: string): string {
    const id = randomBytes(12).toString('base64url');
    return `${id}.${this.sign(email, id)}`;
  }

  /** Failures are counted for the account, apart for each device that is known to be its owner's. */
  private accountOf({ email, device }: Try): { readonly key: string; readonly isKnown: boolean } {
    const account = email.toLowerCase();
    const [id = '', signature = ''] = (device ?? '').split('.');
    const expected = Buffer.from(this.sign(account, id));
    const given = Buffer.from(signature);
    const isKnown = id !== '' && given.length === expected.length && timingSafeEqual(given, expected);
    return { key: isKnown ? `${hash(account)}.${id}` : hash(account), isKnown };
  }

  private sign(email: string, id: string): string {
    return createHmac('sha256', this.secret).update(`device ${email.toLowerCase()} ${id}`).digest('base64url');
  }
}

const hash = (text: string): string => createHmac('sha256', 'account').update(text).digest('base64url').slice(0, 32);

const tooMany = (ms: number): ProblemError =>
  new ProblemError('request/too-many', { retryAfterSeconds: Math.max(1, Math.ceil(ms / 1000)) });
