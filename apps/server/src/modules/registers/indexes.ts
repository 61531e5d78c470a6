import { createHash } from 'node:crypto';
import type { FastifyBaseLogger } from 'fastify';
import type pg from 'pg';
import { openPool } from '../../db/database.ts';

/** Workflows with fewer records are read through. */
const MANY = 5000;
/** Indexes of one workflow: each makes its hand-offs a little slower. */
const MOST = 24;
/** How long a stop waits for an index that is being made. */
const STOP_WITHIN_MS = 2000;
/** Any number, the same in every process: one index is made at a time. */
const LOCK = 7_045_292;

/**
 * Indexes that registers come to need. What somebody orders or filters a large register by is indexed from then on, in the
 * background and without holding up hand-offs; nothing waits for it. However many processes ask, each index is made once.
 */
export class RegisterIndexes {
  private readonly settled = new Set<string>();
  private readonly pool: pg.Pool;
  private underWay: Promise<void> = Promise.resolve();

  constructor(
    databaseUrl: string,
    private readonly log: Pick<FastifyBaseLogger, 'info' | 'warn'>,
  ) {
    this.pool = openPool(databaseUrl, 'ypomet-indexes', 1, null);
  }

  /** Asks for indexes on expressions over `records r`, which are our own text and hold no values. */
  want(workflow: string, expressions: readonly string[]): void {
    for (const expression of new Set(expressions)) this.ask({ workflow, expression, kind: 'ordered' });
  }

  /** Asks for an index by which any part of a text is found. Without `pg_trgm` it stays as it is. */
  wantText(workflow: string, expression: string): void {
    this.ask({ workflow, expression, kind: 'text' });
  }

  private ask(wanted: Wanted): void {
    const name = indexName(wanted);
    if (this.settled.has(name)) return;
    this.settled.add(name);
    this.underWay = this.underWay.then(() => this.make(wanted, name));
  }

  /** When all that was asked for is there, or was given up. */
  idle(): Promise<void> {
    return this.underWay;
  }

  /** An index that is being made is left behind: what isn't finished is made again. */
  async stop(): Promise<void> {
    await Promise.race([this.pool.end(), new Promise((resolve) => setTimeout(resolve, STOP_WITHIN_MS).unref())]);
  }

  private async make(wanted: Wanted, name: string): Promise<void> {
    try {
      const client = await this.pool.connect();
      let isSound = false;
      try {
        await client.query('select pg_advisory_lock($1)', [LOCK]);
        await makeIndex(client, wanted, name, () => this.settled.delete(name));
        await client.query('select pg_advisory_unlock($1)', [LOCK]);
        isSound = true;
      } finally {
        // A connection that failed takes its lock with it.
        client.release(!isSound);
      }
    } catch (error) {
      // The register is slower without it; it is asked for again later.
      this.settled.delete(name);
      this.log.warn({ index: name, message: (error as Error).message }, 'an index of a register wasn’t made');
    }
  }
}

/** What an index is on: an expression over `records r` of one workflow; to compare and order by, or to look for parts of. */
type Wanted = { readonly workflow: string; readonly expression: string; readonly kind: 'ordered' | 'text' };

const indexName = ({ workflow, expression }: Wanted): string =>
  `register_${createHash('sha256').update(`${workflow} ${expression}`).digest('hex').slice(0, 24)}`;

async function makeIndex(
  client: pg.PoolClient,
  { workflow, expression, kind }: Wanted,
  name: string,
  askAgain: () => void,
): Promise<void> {
  const { rows } = await client.query<{ many: boolean; valid: boolean | null; count: number }>(
    `select (select count(*) from (select 1 from records where workflow = $1 limit $2) r) = $2 as many,
       (select i.indisvalid from pg_index i join pg_class c on c.oid = i.indexrelid where c.relname = $3) as valid,
       (select count(*)::int from pg_indexes where tablename = 'records' and indexname like 'register\\_%' and indexdef like $4) as count`,
    [workflow, MANY, name, `%workflow = '${workflow}'::text%`],
  );
  const [known] = rows;
  if (known?.valid === true || (known && known.count >= MOST)) return;
  if (!known?.many) {
    askAgain();
    return;
  }
  // One that was begun and not finished.
  if (known.valid === false) await client.query(`drop index concurrently if exists ${name}`);
  const own = expression.replace(/\br\.(values|number)\b/g, '$1');
  if (kind === 'text') await client.query('create extension if not exists pg_trgm');
  const on = kind === 'text' ? `using gin ((${own}) gin_trgm_ops)` : `((${own}), id)`;
  // Keys are of letters, digits and underscores.
  await client.query(`create index concurrently if not exists ${name} on records ${on} where workflow = '${workflow}'`);
  // Without it nobody knows how many records a value has: of a partial index that isn't looked at.
  await client.query(`create statistics if not exists ${name}_facts on (${own}) from records`);
  await client.query('analyze records');
}
