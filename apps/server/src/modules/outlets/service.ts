import { randomUUID } from 'node:crypto';
import type { OutletDocument, OutletRequest, OutletSettings, OutletTrial } from '@ypomet/contract';
import { describeDeliveryFault } from '@ypomet/contract';
import type { Actor, RichText } from '@ypomet/core';
import type pg from 'pg';
import {
  NotSent,
  type Outlet,
  type OutletKind,
  type OutletSetup,
  plainMail,
  type Received,
  type Sending,
} from '../../outlets/outlet.ts';
import type { SecretBox } from '../../outlets/secrets.ts';
import { ProblemError } from '../../problem.ts';
import {
  addOutlet,
  deleteOutlet,
  findOutlet,
  type ListedOutlet,
  listOutlets,
  listSealed,
  type OutletRow,
  resealSecret,
  writeOutlet,
} from './repository.ts';

/** The mail outlet that every workspace has. */
export const MAIL_OUTLET = 'mail';

const placeOf = (key: string): string => `outlets:${key}:secret`;

const toDocument = ({ key, name, settings, secret, waiting, queued, usedBy }: ListedOutlet): OutletDocument => ({
  key,
  name,
  settings,
  hasSecret: secret !== null,
  waiting,
  queued,
  usedBy: [...usedBy],
});

/** Whom an outlet's secret is shown to. */
function receiverOf(settings: OutletSettings): string {
  switch (settings.kind) {
    case 'web':
      return new URL(settings.address).origin;
    case 'mail':
      return `${settings.host}:${settings.port}`;
    case 'file':
      return '';
    default:
      return settings satisfies never;
  }
}

/** The outlets of a workspace: set up, tried, and sent by. */
export class OutletService {
  constructor(
    private readonly pool: pg.Pool,
    private readonly kinds: { readonly [K in OutletKind]: Outlet<K> },
    private readonly secrets: SecretBox,
  ) {}

  /** The outlet every workspace begins with; secrets sealed with a key that is on its way out are sealed anew. */
  async begin(): Promise<void> {
    await addOutlet(this.pool, {
      key: MAIL_OUTLET,
      name: 'Mail',
      settings: {
        kind: 'mail',
        host: '',
        port: 587,
        encryption: 'starttls',
        user: '',
        from: 'no-reply@ypomet.invalid',
        fromName: 'Ypomet',
      },
      secret: null,
    });
    for (const { key, secret } of await listSealed(this.pool)) {
      if (!this.secrets.isOld(secret)) continue;
      const opened = this.secrets.open(secret, placeOf(key));
      if (opened !== null) await resealSecret(this.pool, key, secret, this.secrets.seal(opened, placeOf(key)));
    }
  }

  async list(): Promise<OutletDocument[]> {
    return (await listOutlets(this.pool)).map(toDocument);
  }

  /** Sets an outlet up or changes it. A secret goes to the host it was given for alone: one that isn't given anew is dropped. */
  async put(key: string, { name, settings, secret }: OutletRequest): Promise<OutletDocument> {
    const before = secret === undefined ? await findOutlet(this.pool, key) : null;
    const given = before && receiverOf(before.settings) !== receiverOf(settings) ? null : secret;
    const sealed = typeof given === 'string' ? this.secrets.seal(given, placeOf(key)) : given;
    if (!(await writeOutlet(this.pool, { key, name, settings, secret: sealed }))) throw new ProblemError('outlet/other-kind');
    const found = (await listOutlets(this.pool)).find((one) => one.key === key);
    if (!found) throw new ProblemError('thing/not-found');
    return toDocument(found);
  }

  async remove(key: string): Promise<null> {
    if (!(await findOutlet(this.pool, key))) throw new ProblemError('thing/not-found');
    if (key === MAIL_OUTLET || !(await deleteOutlet(this.pool, key))) throw new ProblemError('outlet/in-use');
    return null;
  }

  /** Sends by an outlet, or throws {@link NotSent}. */
  async send(key: string, sending: Sending): Promise<Received> {
    const row = await findOutlet(this.pool, key);
    if (row?.kind !== sending.content.type) throw new NotSent({ code: 'no-outlet', params: { outlet: key } }, { isFinal: true });
    return this.of(row.kind).send(this.setupOf(row) as never, sending as never);
  }

  async try(key: string): Promise<OutletTrial> {
    const row = await findOutlet(this.pool, key);
    if (!row) throw new ProblemError('thing/not-found');
    return this.timed(async () => this.of(row.kind).try(this.setupOf(row) as never));
  }

  /** A text, as it would arrive, to whoever asks. */
  async mailTo(key: string, actor: Actor, subject: string, body: RichText): Promise<OutletTrial> {
    const row = await findOutlet(this.pool, key);
    if (row?.kind !== 'mail') throw new ProblemError('thing/not-found');
    const to = actor.email === null ? [] : [actor.email];
    const content = plainMail(key, '', to, subject, body);
    return this.timed(
      async () => (await this.kinds.mail.send(this.setupOf(row) as never, { id: randomUUID(), sequence: 1, content })).answer,
    );
  }

  async close(): Promise<void> {
    await Promise.all(Object.values(this.kinds).map((kind) => kind.close()));
  }

  private of(kind: OutletKind): Outlet {
    return this.kinds[kind] as unknown as Outlet;
  }

  private setupOf({ key, settings, secret, changedAt }: OutletRow): OutletSetup {
    return { key, settings, changedAt, secret: secret === null ? null : this.secrets.open(secret, placeOf(key)) };
  }

  private async timed(work: () => Promise<string>): Promise<OutletTrial> {
    const begun = performance.now();
    const since = (): number => Math.round(performance.now() - begun);
    try {
      return { isWorking: true, answer: (await work()).slice(0, 2000), durationMs: since() };
    } catch (error) {
      if (error instanceof NotSent) return { isWorking: false, answer: describeDeliveryFault(error.fault), durationMs: since() };
      // What a folder of the machine refuses.
      const { code } = error as NodeJS.ErrnoException;
      if (typeof code === 'string' && /^E[A-Z]+$/.test(code))
        return { isWorking: false, answer: (error as Error).message.slice(0, 500), durationMs: since() };
      throw error;
    }
  }
}
