import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { PATIENCE, type Patience } from './db/database.ts';
import { deriveSecretKey, readSecretKeys, type SecretKey } from './outlets/secrets.ts';

/** How a server process is set up; everything comes from the environment. */
export type Config = {
  readonly databaseUrl: string;
  readonly port: number;
  /** Where people reach it, without a last slash: mails name it. Null: unknown. */
  readonly address: string | null;
  /** Addresses of proxies in front of it, whose word on who asks is taken. */
  readonly trustedProxies: readonly string[];
  readonly host: string;
  /** Where the stand-ins keep what they took in, and the session secret. */
  readonly dataDir: string;
  readonly sessionSecret: string;
  readonly isDemo: boolean;
  /** Whether the demo has two years of loans behind it. */
  readonly hasHistory: boolean;
  /** Whether people reach it over TLS: cookies are then sent over nothing else. */
  readonly isSecure: boolean;
  /** The built web application; null serves the API alone. */
  readonly webDir: string | null;
  readonly smtp: { readonly host: string; readonly port: number };
  /** Whether this process runs the simulated mail server. */
  readonly runsMailStandIn: boolean;
  /** The port of the simulated web endpoint; 0 for a free one, null for none. */
  readonly receiverPort: number | null;
  /** Addresses, with ports, of the machine's own network that web endpoints may have. */
  readonly allowedAddresses: readonly string[];
  /** Where file outlets have their folders. */
  readonly registersDir: string;
  /** Bytes of the disk that files handed over by guests leave free. */
  readonly keepFreeBytes: number;
  /** Keys that secrets of outlets are encrypted with, the present one first. */
  readonly secretKeys: readonly SecretKey[];
  /** What a monitor sends to read metrics; null: nobody can. */
  readonly metricsToken: string | null;
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
  const sessionSecret = environment.YPOMET_SESSION_SECRET ?? keptSecret(path.join(dataDir, 'session-secret'));
  const isDemo = environment.YPOMET_DEMO === '1';
  return {
    databaseUrl,
    port: Number(environment.PORT ?? 4180),
    address: environment.YPOMET_ADDRESS ? readAddress(environment.YPOMET_ADDRESS) : null,
    trustedProxies: (environment.YPOMET_TRUSTED_PROXIES ?? '').split(',').flatMap((one) => one.trim() || []),
    host: environment.HOST ?? '127.0.0.1',
    dataDir,
    sessionSecret,
    isDemo,
    hasHistory: isDemo && environment.YPOMET_DEMO_HISTORY === '1',
    isSecure: environment.YPOMET_TLS === '1',
    webDir: environment.YPOMET_WEB ?? null,
    smtp: { host: environment.SMTP_HOST ?? '127.0.0.1', port: Number(environment.SMTP_PORT ?? 0) },
    // Outside the demo, mail without a mail server waits and says so: nobody's mails are kept where analysts read them.
    runsMailStandIn: isDemo && environment.SMTP_PORT === undefined,
    receiverPort: isDemo ? Number(environment.YPOMET_RECEIVER_PORT ?? 0) : null,
    allowedAddresses: (environment.YPOMET_ALLOWED_ADDRESSES ?? '').split(',').flatMap((one) => one.trim() || []),
    registersDir: path.resolve(environment.YPOMET_REGISTERS ?? path.join(dataDir, 'registers')),
    keepFreeBytes: Number(environment.YPOMET_KEEP_FREE_MB ?? 500) * 1_000_000,
    secretKeys: environment.YPOMET_SECRET_KEYS
      ? readSecretKeys(environment.YPOMET_SECRET_KEYS)
      : [deriveSecretKey(keptSecret(path.join(dataDir, 'outlet-secret')))],
    metricsToken: readMetricsToken(environment.YPOMET_METRICS_TOKEN),
    logLevel: environment.LOG_LEVEL ?? 'info',
    patience: PATIENCE,
  };
}

/** A token that could be guessed would show everybody what the house is busy with. */
const MIN_METRICS_TOKEN = 20;

function readMetricsToken(text: string | undefined): string | null {
  if (!text) return null;
  if (text.length < MIN_METRICS_TOKEN)
    throw new Error(
      `YPOMET_METRICS_TOKEN has at least ${MIN_METRICS_TOKEN} characters, such as \`openssl rand -hex 20\` writes.`,
    );
  return text;
}

function readAddress(text: string): string {
  const url = URL.canParse(text) ? new URL(text) : null;
  if (!url || !/^https?:$/.test(url.protocol))
    throw new Error('YPOMET_ADDRESS is the address people open, such as https://records.example.');
  return `${url.origin}${url.pathname}`.replace(/\/+$/, '');
}

/** A secret of 48 random bytes, made once and kept, so that sessions outlive a restart. */
function keptSecret(file: string): string {
  if (!existsSync(file)) writeFileSync(file, randomBytes(48).toString('base64url'), { mode: 0o600 });
  return readFileSync(file, 'utf8');
}
