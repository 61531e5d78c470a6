import type { DraftEvent } from '@ypomet/contract';
import type { FastifyBaseLogger } from 'fastify';
import pg from 'pg';
import { type Stream, sendTo } from '../../plugins/streams.ts';
import { ProblemError } from '../../problem.ts';

const CHANNEL = 'drafts';
/** How long until the connection that listens is made again after it broke. */
const AGAIN_MS = 1000;
/** Said again so often, so that whatever stands between doesn't take the connection for dead. */
const HEARTBEAT_MS = 25_000;
/** A page that doesn't say again where it is was left. */
const FORGOTTEN_MS = 75_000;
const MAX_OPEN = 20;
const MAX_BUFFERED_BYTES = 256_000;

/** What goes through PostgreSQL to every server: at most 7,999 bytes, so events name things and carry no contents. */
type Told = { readonly key: string; readonly event: DraftEvent };

type Watcher = { readonly key: string; readonly member: string; readonly tab: string; readonly stream: Stream };
type Place = Extract<DraftEvent, { type: 'here' }> & { readonly at: number };

/**
 * Tells every page at a draft of its changes as they come, and of the other pages that are at it. Servers hear of each other's
 * changes through PostgreSQL.
 */
export class DraftWatch {
  private readonly watchers = new Set<Watcher>();
  private readonly places = new Map<string, Map<string, Place>>();
  private client: pg.Client | null = null;
  private isStopped = false;
  private readonly heartbeat: NodeJS.Timeout;

  constructor(
    private readonly url: string,
    private readonly pool: Pick<pg.Pool, 'query'>,
    private readonly log: FastifyBaseLogger,
  ) {
    this.heartbeat = setInterval(() => this.send(() => true, ': still here\n\n'), HEARTBEAT_MS);
    this.heartbeat.unref();
  }

  /** Opens a page's stream; what ends it is returned. Refuses a member who has too many open. */
  async open(key: string, member: string, tab: string, makeStream: () => Stream): Promise<() => void> {
    if ([...this.watchers].filter((one) => one.member === member).length >= MAX_OPEN)
      throw new ProblemError('request/too-many', { retryAfterSeconds: 60 });
    await this.listen();
    const stream = makeStream();
    const watcher: Watcher = { key, member, tab, stream };
    this.watchers.add(watcher);
    stream.write(': here\n\n');
    const now = Date.now();
    for (const { at, ...place } of this.places.get(key)?.values() ?? [])
      if (place.tab !== tab && now - at < FORGOTTEN_MS) stream.write(lineOf(place));
    return () => {
      if (!this.watchers.delete(watcher)) return;
      stream.end();
      void this.tell({ key, event: { type: 'gone', tab } });
    };
  }

  /** Tells the others at a draft where a page is. */
  standAt(key: string, tab: string, name: string, part: string | null): Promise<void> {
    return this.tell({ key, event: { type: 'here', tab, name, part } });
  }

  /** The names of those who are at a draft, each once. */
  async whoIsWhere(): Promise<(key: string) => string[]> {
    await this.listen();
    const now = Date.now();
    return (key) => [
      ...new Set([...(this.places.get(key)?.values() ?? [])].flatMap(({ name, at }) => (now - at < FORGOTTEN_MS ? [name] : []))),
    ];
  }

  async stop(): Promise<void> {
    this.isStopped = true;
    clearInterval(this.heartbeat);
    for (const { stream } of this.watchers) stream.end();
    this.watchers.clear();
    await this.client?.end().catch((error: unknown) => this.log.warn(error, 'the listening connection ended badly'));
  }

  private async tell(told: Told): Promise<void> {
    if (this.isStopped) return;
    await this.pool
      .query('select pg_notify($1, $2)', [CHANNEL, JSON.stringify(told)])
      // Others don't learn where somebody is; that is all that is lost.
      .catch((error: unknown) => this.log.warn(error, 'the others couldn’t be told'));
  }

  private async listen(): Promise<void> {
    if (this.client || this.isStopped) return;
    const client = new pg.Client({ connectionString: this.url, application_name: 'ypomet-watch' });
    this.client = client;
    client.on('notification', ({ payload }) => payload && this.hear(JSON.parse(payload) as Told));
    client.on('error', (error) => {
      this.log.warn(error, 'the listening connection broke');
      this.again(client);
    });
    client.on('end', () => this.again(client));
    try {
      await client.connect();
      await client.query(`listen ${CHANNEL}`);
    } catch (error) {
      this.client = null;
      throw error;
    }
  }

  /** After a break nobody knows what was missed: pages are ended, and come again with the revision they know. */
  private again(client: pg.Client): void {
    if (this.client !== client || this.isStopped) return;
    this.client = null;
    for (const { stream } of this.watchers) stream.end();
    this.watchers.clear();
    setTimeout(() => void this.listen().catch((error: unknown) => this.log.warn(error, 'still not listening')), AGAIN_MS).unref();
  }

  private hear({ key, event }: Told): void {
    if (event.type === 'here') {
      const places = this.places.get(key) ?? new Map<string, Place>();
      this.places.set(key, places);
      const now = Date.now();
      for (const [tab, { at }] of places) if (now - at >= FORGOTTEN_MS) places.delete(tab);
      places.set(event.tab, { ...event, at: now });
    } else if (event.type === 'gone') this.places.get(key)?.delete(event.tab);
    const own = event.type === 'changed' ? null : event.tab;
    this.send((watcher) => watcher.key === key && watcher.tab !== own, lineOf(event));
  }

  private send(to: (watcher: Watcher) => boolean, text: string): void {
    sendTo(this.watchers, to, text, MAX_BUFFERED_BYTES);
  }
}

const lineOf = (event: DraftEvent): string => `data: ${JSON.stringify(event)}\n\n`;
