import { timingSafeEqual } from 'node:crypto';
import { statfs } from 'node:fs/promises';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import type { FastifyInstance } from 'fastify';
import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import type { ServerContext } from '../../context.ts';
import { findStanding } from '../../jobs/standing.ts';
import type { Handle } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';
import { countUnsent } from '../deliveries/repository.ts';

/** Upper bounds of the histogram of request durations, in seconds; 0.05 is the longest that a request may hold up others. */
const DURATIONS = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10];

type Means = Pick<ServerContext, 'config' | 'database' | 'wallClock' | 'isQueueReady'>;

/**
 * Answers the metrics of this process in the text format of Prometheus, for whoever sends the token of the configuration.
 * Without a token in the configuration there are no metrics. Labels name routes, outlets and states, never records or people.
 */
export function metricsRoutes(app: FastifyInstance, handle: Handle, context: Means): void {
  const { metricsToken } = context.config;
  const registry = metricsToken === null ? null : collect(app, context);
  handle('metrics', async ({ request, reply }) => {
    if (registry === null || metricsToken === null) throw new ProblemError('thing/not-found');
    if (!isSame(request.headers.authorization ?? '', `Bearer ${metricsToken}`)) throw new ProblemError('session/none');
    reply.type(registry.contentType);
    return registry.metrics();
  });
}

/** Returns nothing if the database doesn't answer, so that these metrics are absent; `ypomet_clock_off` tells that it doesn't. */
const orNone = <T>(asked: Promise<readonly T[]>): Promise<readonly T[]> => asked.catch(() => []);

/** Compares two texts in a time that doesn't depend on how much of them is equal. */
function isSame(given: string, wanted: string): boolean {
  const [a, b] = [Buffer.from(given), Buffer.from(wanted)];
  return a.length === b.length && timingSafeEqual(a, b);
}

function collect(app: FastifyInstance, context: Means): Registry {
  const registry = new Registry();
  collectDefaultMetrics({ register: registry });
  const durations = new Histogram({
    name: 'ypomet_http_request_seconds',
    help: 'Duration of requests by route, method and status.',
    labelNames: ['route', 'method', 'status'],
    buckets: DURATIONS,
    registers: [registry],
  });
  app.addHook('onResponse', async (request, reply) => {
    // The pattern of a route, since addresses name records.
    const route = request.routeOptions.url ?? 'none';
    durations.observe({ route, method: request.method, status: String(reply.statusCode) }, reply.elapsedTime / 1000);
  });
  observeLoop(registry);
  observeDatabase(registry, context);
  observeQueue(registry, context);
  return registry;
}

/** The shares of measurements below which the delays of the event loop lie. */
const SHARES = [0.5, 0.99, 0.999, 1];
const RESOLUTION_MS = 10;

/** The delay of the event loop since the process started: for how long requests were held up by others. */
function observeLoop(registry: Registry): void {
  const delays = monitorEventLoopDelay({ resolution: RESOLUTION_MS });
  delays.enable();
  new Gauge({
    name: 'ypomet_event_loop_delay_seconds',
    help: 'Delay of the event loop since the start of the process, by quantile.',
    labelNames: ['quantile'],
    registers: [registry],
    collect() {
      for (const share of SHARES)
        this.set({ quantile: String(share) }, Math.max(0, delays.percentile(share * 100) / 1e9 - RESOLUTION_MS / 1000));
    },
  });
}

function observeDatabase(registry: Registry, { config, database, wallClock }: Means): void {
  const registers = [registry];
  new Gauge({
    name: 'ypomet_database_connections',
    help: 'Connections of the request pool by state; waiting: requests that wait for one.',
    labelNames: ['state'],
    registers,
    collect() {
      const { totalCount, idleCount, waitingCount } = database.pool;
      this.set({ state: 'open' }, totalCount);
      this.set({ state: 'idle' }, idleCount);
      this.set({ state: 'waiting' }, waitingCount);
    },
  });
  new Gauge({
    name: 'ypomet_clock_off',
    help: '1 if the clock of this process is not that of the database, or the database does not answer.',
    registers,
    async collect() {
      this.set(Number(await wallClock.isOff().catch(() => true)));
    },
  });
  new Gauge({
    name: 'ypomet_disk_free_bytes',
    help: 'Free bytes of the disk that files are kept on.',
    registers,
    async collect() {
      const { bavail, bsize } = await statfs(config.dataDir);
      this.set(bavail * bsize);
    },
  });
}

function observeQueue(registry: Registry, { database, isQueueReady }: Means): void {
  const registers = [registry];
  new Gauge({
    name: 'ypomet_queue_ready',
    help: '1 while this process works the queue.',
    registers,
    collect() {
      this.set(Number(isQueueReady()));
    },
  });
  new Gauge({
    name: 'ypomet_deliveries_unsent',
    help: 'Deliveries by outlet that are queued, or wait for a person or for a receiver to confirm an address.',
    labelNames: ['outlet', 'status'],
    registers,
    async collect() {
      this.reset();
      for (const { outlet, status, count } of await orNone(countUnsent(database.pool))) this.set({ outlet, status }, count);
    },
  });
  new Gauge({
    name: 'ypomet_queue_standing_seconds',
    help: 'For how long the oldest due job of an outlet that stands still has been due; follow-ups have no outlet.',
    labelNames: ['outlet'],
    registers,
    async collect() {
      this.reset();
      for (const { outlet, dueSeconds } of await orNone(findStanding(database.pool)))
        this.set({ outlet: outlet ?? '' }, dueSeconds);
    },
  });
}
