import cookie from '@fastify/cookie';
import session, { type SessionStore } from '@fastify/session';
import type { Actor } from '@ypomet/core';
import { eq } from 'drizzle-orm';
import type { FastifyInstance, FastifyRequest, Session } from 'fastify';
import type pg from 'pg';
import type { ServerContext } from '../context.ts';
import type { Database, Drizzle } from '../db/database.ts';
import { groupRequests } from '../db/grouping.ts';
import { sessions } from '../db/schema.ts';
import { isDemoMember } from '../demo/members.ts';
import type { Guest } from '../modules/public-intake/guests.ts';
import { ProblemError } from '../problem.ts';

declare module 'fastify' {
  interface Session {
    memberId?: string;
    /** Read with the session; never stored in it. */
    actor?: Actor | null;
  }
  interface FastifyInstance {
    /** Whether whoever sent a request is still who they were: the same session or pass, with the same roles. */
    isStillSignedIn: (request: FastifyRequest) => Promise<boolean>;
  }
  interface FastifyRequest {
    actor: Actor | null;
    /** Whose pass was sent, where one was: then nobody's session counts. */
    guest: Guest | null;
  }
}

const TWELVE_HOURS_MS = 12 * 3_600_000;
export const SESSION_COOKIE = 'ypomet_session';

/** Sessions in PostgreSQL: any server process knows them, and they outlive a restart. */
class DatabaseSessions implements SessionStore {
  private readonly db: Drizzle;
  readonly find: (id: string) => Promise<Session | null>;

  constructor({ drizzle, pool }: Database) {
    this.db = drizzle;
    this.find = groupRequests(async (ids) => {
      const sessions = new Map((await findSessions(pool, ids)).map((row) => [row.id, row]));
      return ids.map((id) => {
        const row = sessions.get(id);
        return row ? ({ ...row.data, actor: row.actor } as Session) : null;
      });
    });
  }

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
    this.run(this.find(id), (session) => session, done);
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

/** The pass that a request was sent with; undefined where there is none. */
const passOf = ({ headers }: FastifyRequest): string | undefined =>
  /^Bearer ([\w-]{1,200})$/i.exec(headers.authorization ?? '')?.[1];

/** Cookie sessions, and `request.actor` for whoever is signed in. */
export async function useSessions(app: FastifyInstance, context: ServerContext): Promise<void> {
  await app.register(cookie);
  const store = new DatabaseSessions(context.database);
  await app.register(session, {
    secret: context.config.sessionSecret,
    cookieName: SESSION_COOKIE,
    store,
    saveUninitialized: false,
    rolling: false,
    cookie: { httpOnly: true, sameSite: 'strict', secure: context.config.isSecure, path: '/', maxAge: TWELVE_HOURS_MS },
  });
  app.decorateRequest('actor', null);
  app.decorateRequest('guest', null);
  // Right after the session is there, before anything of a body is read.
  app.addHook('onRequest', async (request) => {
    const pass = passOf(request);
    if (pass !== undefined) {
      const found = await context.guests.find(pass);
      request.guest = found?.guest ?? null;
      request.actor = found?.actor ?? null;
      return;
    }
    const { actor } = request.session;
    request.actor = actor && (context.config.isDemo || !isDemoMember(actor.id)) ? actor : null;
  });
  app.decorate('isStillSignedIn', async (request: FastifyRequest): Promise<boolean> => {
    const pass = passOf(request);
    const now =
      pass === undefined ? (await store.find(request.session.sessionId))?.actor : (await context.guests.find(pass))?.actor;
    return now !== null && now !== undefined && now.id === request.actor?.id && hasSameRoles(now, request.actor);
  });
}

const hasSameRoles = (a: Actor, b: Actor): boolean =>
  a.roles.length === b.roles.length && a.roles.every((role) => b.roles.includes(role));

type SessionRow = { readonly id: string; readonly data: Session; readonly actor: Actor | null };

/** Sessions that haven't expired, with the member as he or she is now: every request reads these. */
async function findSessions(pool: pg.Pool, ids: readonly string[]): Promise<readonly SessionRow[]> {
  const { rows } = await pool.query<SessionRow>({
    name: 'find-sessions',
    text: `select s.id, s.data,
        case when m.id is not null then json_build_object('id', m.id, 'name', m.name, 'email', m.email, 'roles', m.roles) end as actor
      from sessions s left join members m on m.id = (s.data ->> 'memberId')::uuid
      where s.id = any($1) and s.expires_at > now()`,
    values: [ids],
  });
  return rows;
}

/** Whose requests are counted together. Passes are there for the asking: guests are counted by their address. */
export const rateKeyOf = ({ actor, guest, ip }: FastifyRequest): string => (guest ? ip : (actor?.id ?? ip));

/** The guest, or a refusal. */
export function requireGuest(request: FastifyRequest): Guest {
  if (!request.guest) throw new ProblemError('session/none');
  return request.guest;
}

/** The member, or a refusal. */
export function requireActor(request: FastifyRequest): Actor {
  if (!request.actor) throw new ProblemError('session/none');
  return request.actor;
}
