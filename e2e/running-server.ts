import { type ChildProcess, spawn } from 'node:child_process';
import { type AddressInfo, createServer } from 'node:net';
import path from 'node:path';
import { JOBS_UNDER_WAY, makeFilledDatabase, type TestDatabase } from '@ypomet/testkit/seeded-database';
import pg from 'pg';

const root = path.resolve(import.meta.dirname, '..');

/** A port that nobody listens on now. */
async function freePort(): Promise<number> {
  const probe = createServer();
  await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve));
  const { port } = probe.address() as AddressInfo;
  await new Promise((resolve) => probe.close(resolve));
  return port;
}

/** The built server as a process of its own, on a database of its own; it can be stopped and started again. */
export class RunningServer {
  private child: ChildProcess | null = null;
  base = '';

  private constructor(
    private readonly database: TestDatabase,
    private readonly hasHistory: boolean,
  ) {}

  /** `hasHistory`: with two years of loans behind it. */
  static async make({ hasHistory = false }: { readonly hasHistory?: boolean } = {}): Promise<RunningServer> {
    const database = await makeFilledDatabase(hasHistory ? 'built_history' : 'built_demo', async (empty) => {
      const filling = new RunningServer(empty, hasHistory);
      await filling.start();
      await filling.untilSent();
      await filling.stop();
    });
    const server = new RunningServer(database, hasHistory);
    await server.start();
    return server;
  }

  /** Waits until no job is due or under way. */
  private async untilSent(): Promise<void> {
    while ((await this.query(JOBS_UNDER_WAY)) > 0) await new Promise((resolve) => setTimeout(resolve, 100));
  }

  /** Starts on the port it had before, if any, so that an open page finds it again. */
  async start(): Promise<void> {
    const port = this.base === '' ? String(await freePort()) : new URL(this.base).port;
    const child = spawn(process.execPath, ['apps/server/dist/main.js'], {
      cwd: root,
      stdio: ['ignore', 'pipe', 'inherit'],
      env: {
        ...process.env,
        DATABASE_URL: this.database.url,
        YPOMET_DATA: this.database.dataDir,
        YPOMET_WEB: path.join(root, 'apps/web/dist'),
        YPOMET_DEMO: '1',
        YPOMET_DEMO_HISTORY: this.hasHistory ? '1' : '0',
        PORT: port,
        YPOMET_ADDRESS: `http://127.0.0.1:${port}`,
        LOG_LEVEL: 'error',
      },
    });
    this.child = child;
    this.base = await new Promise<string>((resolve, reject) => {
      child.stdout?.setEncoding('utf8').on('data', (text: string) => {
        const ready = /^ready (\S+)$/m.exec(text);
        if (ready?.[1]) resolve(ready[1]);
      });
      child.once('exit', (code) => reject(new Error(`the server ended with ${code} before it was ready`)));
    });
  }

  /** Asks the database behind the server, for what no page can do. The number of rows found or changed. */
  async query(text: string): Promise<number> {
    return (await this.ask(text)).rowCount ?? 0;
  }

  /** Returns the stored values of a record by field key. */
  async valuesOf(id: string): Promise<Readonly<Record<string, unknown>>> {
    const { rows } = await this.ask('select values from records where id = $1', [id]);
    return rows[0]?.values ?? {};
  }

  private async ask(text: string, values: readonly string[] = []): Promise<pg.QueryResult> {
    const client = new pg.Client({ connectionString: this.database.url });
    await client.connect();
    const found = await client.query(text, [...values]);
    await client.end();
    return found;
  }

  /** Ends the process: politely, or as a crash would. */
  async stop(signal: 'SIGTERM' | 'SIGKILL' = 'SIGTERM'): Promise<void> {
    const { child } = this;
    if (!child || child.exitCode !== null) return;
    await new Promise<void>((resolve) => {
      child.once('exit', () => resolve());
      child.kill(signal);
    });
  }
}
