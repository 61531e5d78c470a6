import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { PATIENCE, type Patience } from './db/database.ts';

/** How a server process is set up; everything comes from the environment. */
export type Config = {
  readonly databaseUrl: string;
  readonly port: number;
  readonly host: string;
  /** Where the stand-ins keep what they took in, and the session secret. */
  readonly dataDir: string;
  readonly sessionSecret: string;
  readonly isDemo: boolean;
  /** Whether people reach it over TLS: cookies are then sent over nothing else. */
  readonly isSecure: boolean;
  /** The built web application; null serves the API alone. */
  readonly webDir: string | null;
  readonly smtp: { readonly host: string; readonly port: number };
  /** Whether this process runs the simulated mail server. */
  readonly runsMailStandIn: boolean;
  readonly logLevel: string;
  /** How long anything waits for PostgreSQL. */
  readonly patience: Patience;
};

/** Reads the configuration. `DATABASE_URL` is required; the rest has defaults. */
export function readConfig(environment: NodeJS.ProcessEnv): Config {
  const databaseUrl = environment.DATABASE_URL;
  if (!databaseUrl)
    throw new Error('DATABASE_URL is not set. `npm start` sets it; elsewhere give the address of a PostgreSQL database.');
  const dataDir = path.resolve(environment.YPOMET_DATA ?? '.ypomet');
  mkdirSync(dataDir, { recursive: true });
  return {
    databaseUrl,
    port: Number(environment.PORT ?? 4180),
    host: environment.HOST ?? '127.0.0.1',
    dataDir,
    sessionSecret: environment.YPOMET_SESSION_SECRET ?? keptSecret(path.join(dataDir, 'session-secret')),
    isDemo: environment.YPOMET_DEMO === '1',
    isSecure: environment.YPOMET_TLS === '1',
    webDir: environment.YPOMET_WEB ?? null,
    smtp: { host: environment.SMTP_HOST ?? '127.0.0.1', port: Number(environment.SMTP_PORT ?? 0) },
    runsMailStandIn: environment.SMTP_PORT === undefined,
    logLevel: environment.LOG_LEVEL ?? 'info',
    patience: PATIENCE,
  };
}

/** A secret of 48 random bytes, made once and kept, so that sessions outlive a restart. */
function keptSecret(file: string): string {
  if (!existsSync(file)) writeFileSync(file, randomBytes(48).toString('base64url'), { mode: 0o600 });
  return readFileSync(file, 'utf8');
}
