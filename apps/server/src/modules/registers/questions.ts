import type pg from 'pg';
import { openPool, PATIENCE } from '../../db/database.ts';
import { ProblemError } from '../../problem.ts';
import { Turns } from '../../turns.ts';

/** Connections for questions: few, so that questions leave processors of PostgreSQL to everything else. */
const CONNECTIONS = 3;
/** How long one statement of a question may take. */
const STATEMENT_MS = 5000;
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
   * Runs what somebody asks, when it is their turn. Codes: `register/too-much-work` where a statement takes longer than five
   * seconds, `request/too-many` where too many questions of the same member wait.
   */
  ask<T>(member: string, work: (db: pg.Pool) => Promise<T>): Promise<T> {
    return this.turns.take(member, async () => {
      try {
        return await work(this.pool);
      } catch (error) {
        if ((error as { code?: string }).code === QUERY_CANCELED) throw new ProblemError('register/too-much-work');
        throw error;
      }
    });
  }

  stop(): Promise<void> {
    return this.pool.end();
  }
}

/** SQLSTATE of a statement that was stopped by its time limit (PostgreSQL, appendix A). */
const QUERY_CANCELED = '57014';
