import path from 'node:path';
import helmet from '@fastify/helmet';
import rateLimit from '@fastify/rate-limit';
import { sql } from 'drizzle-orm';
import Fastify, { type FastifyInstance } from 'fastify';
import type { Config } from './config.ts';
import type { ServerContext, WorkspaceSettings } from './context.ts';
import { type Database, migrateDatabase, openDatabase } from './db/database.ts';
import { workspace } from './db/schema.ts';
import { DEMO_WORKSPACE } from './demo/members.ts';
import { startQueue } from './jobs/queue.ts';
import { deliveryRoutes } from './modules/deliveries/routes.ts';
import { healthRoutes } from './modules/health/routes.ts';
import { memberRoutes } from './modules/members/routes.ts';
import { recordRoutes } from './modules/records/routes.ts';
import { workflowRoutes } from './modules/workflows/routes.ts';
import { WorkflowCache } from './modules/workflows/workflow-cache.ts';
import { makeMailOutlet } from './outlets/mail.ts';
import { useContract } from './plugins/contract.ts';
import { guardOrigin } from './plugins/origin.ts';
import { answerWithProblems } from './plugins/problems.ts';
import { forgetExpiredSessions, useSessions } from './plugins/sessions.ts';
import { serveWeb } from './plugins/web.ts';
import { startMailbox } from './standins/mailbox.ts';

const BODY_LIMIT_BYTES = 4_000_000;

/** A built server: the Fastify application and what it shares. `app.close()` stops it whole. */
export type Server = { readonly app: FastifyInstance; readonly context: ServerContext };

/** Builds a server: database migrated, queue and stand-ins running, routes registered; not yet listening. */
export async function buildServer(config: Config, clock: () => number = Date.now): Promise<Server> {
  const app = Fastify({
    logger: { level: config.logLevel, redact: ['req.headers.cookie', 'req.headers.authorization'] },
    bodyLimit: BODY_LIMIT_BYTES,
    trustProxy: false,
    forceCloseConnections: 'idle',
  });
  const database = openDatabase(config.databaseUrl);
  await migrateDatabase(database);
  await forgetExpiredSessions(database.drizzle);
  const settings = await readWorkspace(database, config.isDemo ? DEMO_WORKSPACE : NEW_WORKSPACE);
  const mailbox = config.runsMailStandIn ? await startMailbox(path.join(config.dataDir, 'mailbox')) : null;
  const outlet = makeMailOutlet(mailbox ? { host: '127.0.0.1', port: mailbox.port } : config.smtp);
  const queue = await startQueue(database, outlet, app.log);
  const workflows = new WorkflowCache(database.drizzle);
  const context: ServerContext = {
    config,
    database,
    workspace: settings,
    workflows,
    mailbox,
    clock,
    isQueueReady: queue.isReady,
  };
  app.addHook('onClose', async () => {
    await queue.stop();
    outlet.close();
    await mailbox?.close();
    await database.pool.end();
  });
  await registerRoutes(app, context);
  return { app, context };
}

async function registerRoutes(app: FastifyInstance, context: ServerContext): Promise<void> {
  const { config } = context;
  answerWithProblems(app);
  guardOrigin(app);
  await app.register(helmet, {
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        scriptSrc: ["'self'"],
        workerSrc: ["'self'"],
        fontSrc: ["'self'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:'],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: false,
  });
  await app.register(rateLimit, { global: false });
  // Ten tries a minute and address: more would let passwords be guessed. The demo's are on the page anyway.
  app.addHook('onRoute', (route) => {
    if (route.url !== '/api/session' || route.method !== 'POST') return;
    route.config = { ...route.config, rateLimit: { max: config.isDemo ? 600 : 10, timeWindow: 60_000 } };
  });
  await useSessions(app, context);
  const handle = await useContract(app);
  healthRoutes(handle, context);
  memberRoutes(handle, context);
  workflowRoutes(handle, context);
  recordRoutes(handle, context);
  deliveryRoutes(handle, context);
  if (config.webDir) await serveWeb(app, config.webDir);
}

const NEW_WORKSPACE: WorkspaceSettings = { name: 'Workspace', zone: 'UTC', locale: 'en' };

async function readWorkspace(database: Database, initial: WorkspaceSettings): Promise<WorkspaceSettings> {
  await database.drizzle
    .insert(workspace)
    .values({ id: 1, ...initial })
    .onConflictDoNothing();
  const [row] = await database.drizzle.select().from(workspace).where(sql`${workspace.id} = 1`);
  return row ? { name: row.name, zone: row.zone, locale: row.locale } : initial;
}
