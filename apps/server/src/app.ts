import path from 'node:path';
import { constants } from 'node:zlib';
import compress from '@fastify/compress';
import helmet from '@fastify/helmet';
import rateLimit from '@fastify/rate-limit';
import { BODY_LIMITS } from '@ypomet/contract';
import Fastify, { type FastifyInstance } from 'fastify';
import type { Config } from './config.ts';
import type { ServerContext } from './context.ts';
import { inTransaction, migrateDatabase, openDatabase } from './db/database.ts';
import { WallClock } from './db/wall-clock.ts';
import { DEMO_WORKSPACE } from './demo/members.ts';
import { startQueue } from './jobs/queue.ts';
import { deliver } from './modules/deliveries/deliver.ts';
import { deliveryRoutes } from './modules/deliveries/routes.ts';
import { type Notice, tellWaiting } from './modules/deliveries/tell-waiting.ts';
import { deskRoutes } from './modules/desk/routes.ts';
import { BegunUploads } from './modules/files/begun-uploads.ts';
import { FileIntake } from './modules/files/intake.ts';
import { makePartStore, resumableUploads } from './modules/files/resumable.ts';
import { fileRoutes } from './modules/files/routes.ts';
import { FileStore } from './modules/files/store.ts';
import { metricsRoutes } from './modules/health/metrics.ts';
import { healthRoutes } from './modules/health/routes.ts';
import { forgetOld, keepTidy } from './modules/housekeeping.ts';
import { memberRoutes } from './modules/members/routes.ts';
import { outletRoutes } from './modules/outlets/routes.ts';
import { OutletService } from './modules/outlets/service.ts';
import { Guests } from './modules/public-intake/guests.ts';
import { framesOf } from './modules/public-intake/links.ts';
import { openPendingFollowUps } from './modules/records/open-pending.ts';
import { RecordClock } from './modules/records/record-clock.ts';
import { RecordWatch } from './modules/records/record-watch.ts';
import { recordRoutes } from './modules/records/routes.ts';
import { RegisterIndexes } from './modules/registers/indexes.ts';
import { Questions } from './modules/registers/questions.ts';
import { workflowRegisterRoutes } from './modules/registers/routes.ts';
import { standInRoutes } from './modules/standins/routes.ts';
import { unfinishedRoutes } from './modules/unfinished/routes.ts';
import { DraftWatch } from './modules/workflows/draft-watch.ts';
import { workflowRoutes } from './modules/workflows/routes.ts';
import { WorkflowCache } from './modules/workflows/workflow-cache.ts';
import { workspaceRoutes } from './modules/workspace/routes.ts';
import { Workspace, type WorkspaceNames } from './modules/workspace/workspace.ts';
import { makeFileOutlet } from './outlets/file.ts';
import { makeMailOutlet } from './outlets/mail.ts';
import { SecretBox } from './outlets/secrets.ts';
import { makeWebOutlet } from './outlets/web.ts';
import { makeRender } from './outlets/written.ts';
import { useContract } from './plugins/contract.ts';
import { readJsonBodies } from './plugins/json.ts';
import { guardOrigin } from './plugins/origin.ts';
import { answerProblem, answerWithProblems } from './plugins/problems.ts';
import { useSessions } from './plugins/sessions.ts';
import { serveWeb } from './plugins/web.ts';
import { startMailbox } from './standins/mailbox.ts';
import { startReceiver } from './standins/receiver.ts';
import { DefinitionPool } from './workers/definition-pool.ts';
import { PdfPool } from './workers/pdf-pool.ts';
import { SheetPool } from './workers/sheet-pool.ts';

/** How long a client may take for its headers and for a whole request, and how long a stop waits for those under way. */
const HEADERS_MS = 15_000;
const REQUEST_MS = 120_000;
const STOP_WITHIN_MS = 8000;
const HSTS_SECONDS = 365 * 24 * 3600;
const COMPRESSED_FROM_BYTES = 2000;

/** A built server: the Fastify application and what it shares. `app.close()` stops it whole. */
export type Server = { readonly app: FastifyInstance; readonly context: ServerContext };

/** Builds a server: database migrated, queue and stand-ins running, routes registered; not yet listening. */
export async function buildServer(config: Config, clock: () => number = Date.now): Promise<Server> {
  const app = Fastify({
    logger: { level: config.logLevel, redact: ['req.headers.cookie', 'req.headers.authorization'] },
    bodyLimit: BODY_LIMITS.small,
    trustProxy: config.trustedProxies.length > 0 ? [...config.trustedProxies] : false,
    forceCloseConnections: 'idle',
    requestTimeout: REQUEST_MS,
    http: { headersTimeout: HEADERS_MS, connectionsCheckingInterval: 1000 },
    routerOptions: { maxParamLength: 200 },
    frameworkErrors: (error, request, reply) => void answerProblem(error, request, reply),
  });
  await migrateDatabase(config.databaseUrl);
  const database = openDatabase(config.databaseUrl, config.patience);
  const settings = await Workspace.open(database, config.isDemo ? DEMO_WORKSPACE : NEW_WORKSPACE);
  const mailbox = config.runsMailStandIn ? await startMailbox(path.join(config.dataDir, 'mailbox')) : null;
  const receiver =
    config.receiverPort === null ? null : await startReceiver(path.join(config.dataDir, 'receiver'), config.receiverPort);
  const files = new FileStore(path.join(config.dataDir, 'files'));
  const pdfs = new PdfPool();
  const outlets = makeOutlets({ config, database, workspace: settings, files, pdfs, mailbox, receiver });
  await outlets.begin();
  const workflows = new WorkflowCache(database.pool);
  const guests = new Guests({ config, database, clock });
  const delivering = { guests, address: config.address, database, outlets, workflows, workspace: settings, clock };
  const jobs = {
    deliver: (id: string, signal?: AbortSignal) => deliver(delivering, id, signal),
    open: (record: string) => openPendingFollowUps(delivering, record),
    tell: (notice: Notice) => tellWaiting(delivering, notice),
  };
  const queue = await startQueue(database.url, jobs, app.log);
  const housekeeping = keepTidy(() => forgetOld(database.pool, files), app.log);
  const following = settings.follow(app.log);
  const definitions = new DefinitionPool();
  const watch = new DraftWatch(config.databaseUrl, database.pool, app.log);
  const sheets = new SheetPool();
  const registerIndexes = new RegisterIndexes(config.databaseUrl, app.log);
  const questions = new Questions(config.databaseUrl);
  const context: ServerContext = {
    config,
    database,
    workspace: settings,
    workflows,
    definitions,
    watch,
    mailbox,
    receiver,
    files,
    outlets,
    sheets,
    registerIndexes,
    questions,
    guests,
    changes: new RecordWatch({ database, workflows }, app.log),
    clock,
    wallClock: new WallClock(database.pool),
    isQueueReady: queue.isReady,
  };
  app.addHook('preClose', async () => {
    await watch.stop();
    await context.changes.stop();
    // Whoever is still sending a request after that is cut off: a stop must come to an end.
    setTimeout(() => app.server.closeAllConnections(), STOP_WITHIN_MS).unref();
  });
  app.addHook('onClose', async () => {
    housekeeping.stop();
    following.stop();
    await queue.stop();
    await definitions.close();
    await sheets.close();
    await registerIndexes.stop();
    await questions.stop();
    await outlets.close();
    await pdfs.close();
    await mailbox?.close();
    await receiver?.close();
    await database.pool.end();
  });
  await registerRoutes(app, context);
  return { app, context };
}

async function registerRoutes(app: FastifyInstance, context: ServerContext): Promise<void> {
  const { config } = context;
  answerWithProblems(app);
  guardOrigin(app, config);
  await app.register(helmet, {
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        scriptSrc: ["'self'"],
        workerSrc: ["'self'"],
        fontSrc: ["'self'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: config.isSecure ? { maxAge: HSTS_SECONDS, includeSubDomains: false } : false,
  });
  // What the API answers is for whoever asked, and kept nowhere.
  app.addHook('onSend', async (request, reply) => {
    if (request.url.startsWith('/api/') && !reply.hasHeader('cache-control')) reply.header('cache-control', 'no-store');
  });
  // Definitions and forms are large and say the same words again and again; small answers aren't worth the work.
  await app.register(compress, {
    threshold: COMPRESSED_FROM_BYTES,
    encodings: ['br', 'gzip'],
    brotliOptions: { params: { [constants.BROTLI_PARAM_QUALITY]: 5 } },
  });
  await app.register(rateLimit, { global: false });
  await useSessions(app, context);
  readJsonBodies(app);
  const handle = await useContract(app);
  metricsRoutes(app, handle, context);
  healthRoutes(handle, context);
  memberRoutes(handle, context);
  workspaceRoutes(handle, context);
  workflowRoutes(handle, context);
  const { service: records, intakes } = recordRoutes(handle, context);
  const clock = new RecordClock(context, records, app.log).start();
  app.addHook('preClose', () => clock.stop());
  deskRoutes(handle, context);
  workflowRegisterRoutes(handle, context);
  unfinishedRoutes(handle, context, records);
  const parts = makePartStore(config.dataDir);
  const uploads = new BegunUploads(context.database.pool, parts.directory, config.keepFreeBytes);
  const fileIntake = new FileIntake(context, intakes, uploads);
  fileRoutes(handle, context, fileIntake, records);
  await resumableUploads(app, parts, fileIntake, uploads);
  const forgetUnfinished = async (): Promise<void> => {
    await parts.deleteExpired();
    await uploads.forgetOld();
  };
  const tidying = keepTidy(forgetUnfinished, app.log);
  app.addHook('onClose', async () => tidying.stop());
  deliveryRoutes(handle, context);
  outletRoutes(handle, context);
  standInRoutes(handle, context);
  if (config.webDir) await serveWeb(app, config.webDir, (address) => framesOf(context, address));
}

/** The kinds of outlets there are, each with what it needs. */
function makeOutlets({
  config,
  database,
  workspace: { locale },
  files,
  pdfs,
  mailbox,
  receiver,
}: Pick<ServerContext, 'config' | 'database' | 'workspace' | 'files' | 'mailbox' | 'receiver'> & {
  readonly pdfs: PdfPool;
}): OutletService {
  const render = makeRender(({ title, text }) => pdfs.write({ title, text, locale, made: new Date().toISOString() }));
  const allowed = [...config.allowedAddresses, ...(receiver ? [receiver.host] : [])];
  const kinds = {
    mail: makeMailOutlet({
      fallback: mailbox ? { host: '127.0.0.1', port: mailbox.port } : config.smtp,
      allowed,
      locale,
      files,
      render,
    }),
    web: makeWebOutlet(allowed),
    file: makeFileOutlet({
      root: config.registersDir,
      render,
      alone: (name, work) =>
        inTransaction(database.pool, async (client) => {
          await client.query('select pg_advisory_xact_lock(hashtextextended($1, 0))', [`file ${name}`]);
          return work();
        }),
    }),
  };
  return new OutletService(database.pool, kinds, new SecretBox(config.secretKeys));
}

const NEW_WORKSPACE: WorkspaceNames = { name: 'Workspace', zone: 'UTC', locale: 'en' };
