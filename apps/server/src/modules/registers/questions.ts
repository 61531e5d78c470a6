import { SERVER_EN } from '@ypomet/contract';
import type pg from 'pg';
import { openPool, PATIENCE } from '../../db/database.ts';
import { ProblemError } from '../../problem.ts';
import { Turns } from '../../turns.ts';

/** Connections for questions: few, so that questions leave processors of PostgreSQL to everything else. */
const CONNECTIONS = 3;
/** How long one statement of a question may take. */
const STATEMENT_MS = 5000;
/**
 * Rows of tables that no statement looks at within its time: PostgreSQL was measured to look at some ten million a second. An
 * estimate counts no shortcuts, so that anything below is tried.
 */
const HOPELESS_ROWS = 500_000_000;
/** Questions of one member that wait for the one before; more are refused. */
const MAX_WAITING = 20;

/**
 * Runs filters and searches that members write themselves. Such a question can be dear (conditions over the rows of tables look
 * at every row), so it has connections of its own, a time limit, and each member asks one at a time: the desk, sign-in and
 * hand-offs never wait for it.
 */
export class Questions {
  private readonly pool: pg.Pool;
  private readonly turns = new Turns(1, MAX_WAITING);

  constructor(databaseUrl: string) {
    const patience = { ...PATIENCE, statementMs: STATEMENT_MS, answerMs: STATEMENT_MS + 2000 };
    this.pool = openPool(databaseUrl, 'ypomet questions', CONNECTIONS, patience);
  }

  /**
   * Runs what somebody asks, when it is their turn. `estimate` says how many rows of tables it looks at. Codes:
   * `register/too-much-work` where that is hopeless or a statement takes longer than five seconds, with the estimate in words;
   * `request/too-many` where too many questions of the same member wait.
   */
  ask<T>(member: string, work: (db: pg.Pool) => Promise<T>, estimate?: (db: pg.Pool) => Promise<number>): Promise<T> {
    return this.turns.take(member, async () => {
      let looksAt: number | null = null;
      try {
        looksAt = estimate ? await estimate(this.pool) : null;
        if (looksAt !== null && looksAt > HOPELESS_ROWS) throw tooMuch(looksAt);
        return await work(this.pool);
      } catch (error) {
        if ((error as { code?: string }).code === QUERY_CANCELED) throw tooMuch(looksAt);
        throw error;
      }
    });
  }

  stop(): Promise<void> {
    return this.pool.end();
  }
}

function tooMuch(looksAt: number | null): ProblemError {
  if (looksAt === null) return new ProblemError('register/too-much-work');
  // Two figures say enough of an estimate.
  const rows = Number(looksAt.toPrecision(2)).toLocaleString('en', { maximumFractionDigits: 0 });
  return new ProblemError('register/too-much-work', { detail: SERVER_EN.details['looks-at'].replace('{rows}', rows) });
}

/** SQLSTATE of a statement that was stopped by its time limit (PostgreSQL, appendix A). */
const QUERY_CANCELED = '57014';
