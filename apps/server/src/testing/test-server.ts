import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import path from 'node:path';
import type { Problem } from '@ypomet/contract';
import { JOBS_UNDER_WAY, makeEmptyDatabase, makeFilledDatabase, type TestDatabase } from '@ypomet/testkit/seeded-database';
import { buildServer, type Server } from '../app.ts';
import { PATIENCE, type Patience } from '../db/database.ts';
import { DEMO_MEMBERS, DEMO_PASSWORD } from '../demo/members.ts';
import { seedDemo } from '../demo/seed.ts';
import { deriveSecretKey, type SecretKey } from '../outlets/secrets.ts';

const WHO = ['analyst', 'registrar', 'conservator', 'director', 'borrower', 'other'] as const;
type Who = (typeof WHO)[number];

export type Call = (
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  url: string,
  body?: unknown,
  headers?: Record<string, string>,
) => Promise<{
  readonly status: number;
  readonly headers: Record<string, string | string[] | number | undefined>;
  // biome-ignore lint/suspicious/noExplicitAny: tests read answers of every shape
  readonly body: any;
}>;

/** A row of the demo's objects. */
export const objectRow = (id: string, title: string, material: string, insuredValue: string) => ({
  id,
  values: { title, material, insuredValue },
});

/** A whole request of the demo's workflow, with these objects. */
export const loanRequest = (...objects: readonly ReturnType<typeof objectRow>[]) => ({
  borrower: 'Hollen Street Gallery',
  borrowerEmail: 'beryl@hollenstreet.invalid',
  kind: 'exhibition',
  venue: 'home',
  fromDate: '2027-03-12',
  toDate: '2027-06-11',
  objects,
});

export type MakeOptions = {
  readonly keepFreeBytes?: number;
  readonly patience?: Partial<Patience>;
  readonly metricsToken?: string;
  readonly isDemo?: boolean;
  readonly hasHistory?: boolean;
  readonly isSecure?: boolean;
  readonly webDir?: string;
  readonly allowedAddresses?: readonly string[];
  readonly secretKeys?: readonly SecretKey[];
  readonly trustedProxies?: readonly string[];
  /** Milliseconds since 1970; the machine's own where nothing is said. */
  readonly clock?: () => number;
};

/** A server on a real PostgreSQL, with a database of its own and the demo in it. */
export class TestServer {
  private constructor(
    readonly server: Server,
    readonly databaseUrl: string,
    readonly dataDir: string,
  ) {}

  static async make(more: MakeOptions = {}): Promise<TestServer> {
    if (more.isDemo === false) return TestServer.start(await makeEmptyDatabase(), more);
    // A copy would hold secrets that are encrypted with the usual key, and dates of the real clock.
    if (more.clock || more.secretKeys) return TestServer.fill(await makeEmptyDatabase(), more);
    const hasHistory = more.hasHistory ?? false;
    const database = await makeFilledDatabase(hasHistory ? 'history' : 'demo', async (empty) => {
      const server = await TestServer.fill(empty, { hasHistory });
      await server.untilSent();
      await server.server.app.close();
    });
    return TestServer.fill(database, more);
  }

  private static async start({ url, dataDir }: TestDatabase, more: MakeOptions): Promise<TestServer> {
    const server = await buildServer(
      {
        databaseUrl: url,
        port: 0,
        host: '127.0.0.1',
        address: 'http://ypomet.invalid',
        trustedProxies: more.trustedProxies ?? [],
        dataDir,
        sessionSecret: 'a secret for the tests that is long enough',
        isDemo: more.isDemo ?? true,
        hasHistory: more.hasHistory ?? false,
        isSecure: more.isSecure ?? false,
        webDir: more.webDir ?? null,
        smtp: { host: '127.0.0.1', port: 0 },
        runsMailStandIn: true,
        receiverPort: 0,
        allowedAddresses: more.allowedAddresses ?? [],
        registersDir: path.join(dataDir, 'registers'),
        keepFreeBytes: more.keepFreeBytes ?? 0,
        secretKeys: more.secretKeys ?? [deriveSecretKey('tests')],
        metricsToken: more.metricsToken ?? null,
        logLevel: 'silent',
        patience: { ...PATIENCE, ...more.patience },
      },
      more.clock,
    );
    return new TestServer(server, url, dataDir);
  }

  /** Starts a server and fills its database with the demo, or with what of it isn't there yet. */
  private static async fill(database: TestDatabase, more: MakeOptions): Promise<TestServer> {
    const made = await TestServer.start(database, more);
    try {
      await seedDemo(made.server.context);
      return made;
    } catch (error) {
      // What a test never gets it can't close, and open connections keep the whole run from ending.
      await made.close();
      throw error;
    }
  }

  /** Waits until no job is due or under way. */
  private async untilSent(): Promise<void> {
    const { pool } = this.server.context.database;
    await eventually(
      () => pool.query(JOBS_UNDER_WAY),
      ({ rowCount }) => rowCount === 0,
    );
  }

  async close(): Promise<void> {
    await this.server.app.close();
    rmSync(this.dataDir, { recursive: true, force: true });
  }

  /** Listens on a port of loopback, for tests that need connections; its number. */
  listen(): Promise<number> {
    this.port ??= this.server.app.listen({ port: 0, host: '127.0.0.1' }).then((address) => Number(new URL(address).port));
    return this.port;
  }

  private port: Promise<number> | null = null;

  /** Calls without a session. */
  readonly anybody: Call = (method, url, body, headers) => this.inject(method, url, body, headers);

  /** Signs in as a member of the demo; the session's cookies. */
  async cookieOf(who: Who): Promise<string> {
    const email = DEMO_MEMBERS[WHO.indexOf(who)]?.email;
    return cookiesOf(await this.inject('POST', '/api/session', { email, password: DEMO_PASSWORD }));
  }

  /** Signs in and calls as a member of the demo. */
  async as(who: Who): Promise<Call> {
    const cookie = await this.cookieOf(who);
    return (method, url, body, headers) => this.inject(method, url, body, { cookie, ...headers });
  }

  private async inject(
    method: 'GET' | 'POST' | 'PUT' | 'DELETE',
    url: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ) {
    const isText = typeof body === 'string';
    const response = await this.server.app.inject({
      method,
      url,
      headers: { ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
      ...(body === undefined ? {} : { payload: isText ? body : JSON.stringify(body) }),
    });
    const type = String(response.headers['content-type'] ?? '');
    return {
      status: response.statusCode,
      headers: response.headers,
      body: type.includes('json') && response.body !== '' ? JSON.parse(response.body) : response.body,
    };
  }
}

/** What an answer sets as cookies, as the next request sends them. */
export const cookiesOf = ({ headers }: { readonly headers: Record<string, string | string[] | number | undefined> }): string =>
  [headers['set-cookie']]
    .flat()
    .map((cookie) => String(cookie).split(';')[0])
    .join('; ');

/** Creates a workflow and publishes it, accepting what is warned of; the number of the version. */
export async function publishDefinition(analyst: Call, definition: { readonly key: string }): Promise<number> {
  const created = await analyst('POST', '/api/workflows', definition);
  if (created.status !== 201) throw new Error(JSON.stringify(created.body));
  const publish = (accepted: readonly object[]) =>
    analyst('POST', `/api/workflows/${definition.key}/versions`, { accepted }, { 'if-match': '"1"' });
  const first = await publish([]);
  if (first.status === 201) return first.body.number;
  const warned = first.body.details.map(({ path, code }: { path: string; code: string }) => ({
    path,
    code,
    reason: 'For a test.',
  }));
  const second = await publish(warned);
  if (second.status !== 201) throw new Error(JSON.stringify(second.body));
  return second.body.number;
}

/** The body of a request that makes edits, each with a fresh id. */
export const editing = (...edits: readonly object[]) => ({ edits: edits.map((edit) => ({ id: randomUUID(), edit })) });

/** Status, code and the codes of the details of a problem. */
export const problemOf = (answer: { readonly status: number; readonly body: Problem }) => ({
  status: answer.status,
  code: answer.body.code,
  details: answer.body.details.map((detail) => `${detail.path}: ${detail.code}`),
});

/** Waits until something is so, looking every 50 ms; fails after so many seconds. */
export async function eventually<T>(look: () => Promise<T>, isSo: (found: T) => boolean, seconds = 60): Promise<T> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    const found = await look();
    if (isSo(found)) return found;
    if (Date.now() > end) throw new Error(`it never came to be: ${JSON.stringify(found)}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}
