import cookie from '@fastify/cookie';
import session, { type SessionStore } from '@fastify/session';
import type { Actor } from '@ypomet/core';
import { eq, lt } from 'drizzle-orm';
import type { FastifyInstance, FastifyRequest, Session } from 'fastify';
import type { ServerContext } from '../context.ts';
import type { Drizzle } from '../db/database.ts';
import { members, sessions } from '../db/schema.ts';
import { ProblemError } from '../problem.ts';

declare module 'fastify' {
  interface Session {
    memberId?: string;
  }
  interface FastifyRequest {
    actor: Actor | null;
  }
}

const TWELVE_HOURS_MS = 12 * 3_600_000;
export const SESSION_COOKIE = 'ypomet_session';

/** Sessions in PostgreSQL: any server process knows them, and they outlive a restart. */
class DatabaseSessions implements SessionStore {
  constructor(private readonly db: Drizzle) {}

  set(id: string, value: Session, done: (error?: unknown) => void): void {
    const expiresAt = new Date(value.cookie.expires ?? Date.now() + TWELVE_HOURS_MS).toISOString();
    const data = { memberId: value.memberId, cookie: value.cookie };
    this.run(
      this.db
        .insert(sessions)
        .values({ id, data, expiresAt })
        .onConflictDoUpdate({ target: sessions.id, set: { data, expiresAt } }),
      () => undefined,
      done,
    );
  }

  get(id: string, done: (error: unknown, value?: Session | null) => void): void {
    const read = this.db.select().from(sessions).where(eq(sessions.id, id));
    this.run(read, (rows) => (rows[0] && Date.parse(rows[0].expiresAt) > Date.now() ? (rows[0].data as Session) : null), done);
  }

  destroy(id: string, done: (error?: unknown) => void): void {
    this.run(this.db.delete(sessions).where(eq(sessions.id, id)), () => undefined, done);
  }

  private run<T, R>(
    query: Promise<T> | { then: Promise<T>['then'] },
    map: (result: T) => R,
    done: (error: unknown, value?: R) => void,
  ): void {
    Promise.resolve(query as Promise<T>).then(
      (result) => done(null, map(result)),
      (error) => done(error),
    );
  }
}

/** Cookie sessions, and `request.actor` for whoever is signed in. */
export async function useSessions(app: FastifyInstance, context: ServerContext): Promise<void> {
  const { drizzle } = context.database;
  await app.register(cookie);
  await app.register(session, {
    secret: context.config.sessionSecret,
    cookieName: SESSION_COOKIE,
    store: new DatabaseSessions(drizzle),
    saveUninitialized: false,
    rolling: false,
    cookie: { httpOnly: true, sameSite: 'strict', secure: context.config.isSecure, path: '/', maxAge: TWELVE_HOURS_MS },
  });
  app.decorateRequest('actor', null);
  app.addHook('preHandler', async (request) => {
    const { memberId } = request.session;
    if (memberId) request.actor = await findActor(drizzle, memberId);
  });
}

async function findActor(db: Drizzle, id: string): Promise<Actor | null> {
  const [member] = await db
    .select({ id: members.id, name: members.name, email: members.email, roles: members.roles })
    .from(members)
    .where(eq(members.id, id));
  return member ?? null;
}

export const forgetExpiredSessions = async (db: Drizzle): Promise<void> => {
  await db.delete(sessions).where(lt(sessions.expiresAt, new Date().toISOString()));
};

/** The member, or a refusal. */
export function requireActor(request: FastifyRequest): Actor {
  if (!request.actor) throw new ProblemError('session/none');
  return request.actor;
}
