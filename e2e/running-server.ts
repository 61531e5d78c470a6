import { type ChildProcess, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync } from 'node:fs';
import { type AddressInfo, createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
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
    private readonly databaseUrl: string,
    private readonly dataDir: string,
    private readonly hasHistory: boolean,
  ) {}

  /** `hasHistory`: with two years of loans behind it. */
  static async make({ hasHistory = false }: { readonly hasHistory?: boolean } = {}): Promise<RunningServer> {
    const postgres = process.env.YPOMET_TEST_POSTGRES;
    if (!postgres) throw new Error('YPOMET_TEST_POSTGRES is not set: run `npm test`.');
    const name = `e2e_${randomBytes(6).toString('hex')}`;
    const client = new pg.Client({ connectionString: `${postgres}postgres` });
    await client.connect();
    await client.query(`create database ${name}`);
    await client.end();
    const server = new RunningServer(`${postgres}${name}`, mkdtempSync(path.join(os.tmpdir(), 'ypomet-e2e-')), hasHistory);
    await server.start();
    return server;
  }

  /** Starts on the port it had before, if any, so that an open page finds it again. */
  async start(): Promise<void> {
    const port = this.base === '' ? String(await freePort()) : new URL(this.base).port;
    const child = spawn(process.execPath, ['apps/server/dist/main.js'], {
      cwd: root,
      stdio: ['ignore', 'pipe', 'inherit'],
      env: {
        ...process.env,
        DATABASE_URL: this.databaseUrl,
        YPOMET_DATA: this.dataDir,
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

  /** Asks the database behind the server, for what no page can do. */
  async query(text: string): Promise<void> {
    const client = new pg.Client({ connectionString: this.databaseUrl });
    await client.connect();
    await client.query(text);
    await client.end();
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
