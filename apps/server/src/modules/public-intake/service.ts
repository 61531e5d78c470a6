import type { BodyOf, FollowedDocument, FormDocument, HandOffResponse, PublicIntake } from '@ypomet/contract';
import { type Actor, isMailAddress, type Json } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { ProblemError } from '../../problem.ts';
import { answerForGuest } from '../records/present.ts';
import type { Queries } from '../records/repository.ts';
import type { RecordService, Values } from '../records/service.ts';
import { findNewestVersion } from '../workflows/repository.ts';
import { type Guest, NAMELESS } from './guests.ts';
import { stateOf, textsAt } from './links.ts';
import { countBegunSince, findLinkAt, findLinkById, holdLink, keepGuest, type LinkRow, noteBegun } from './repository.ts';

/** Nobody fills in a form faster than this; programs do. */
export const FASTEST_MS = 3000;
const HOUR_MS = 3_600_000;
const MAX_NAME = 200;

/** The intakes that people without an account begin records at. */
export class PublicIntakes {
  constructor(
    private readonly context: ServerContext,
    private readonly records: RecordService,
  ) {}

  /** What a link offers now. Where it is open, with a new pass; nothing is kept before it is used. */
  async open(address: string): Promise<PublicIntake> {
    const link = await findLinkAt(this.context.database.pool, address);
    if (!link) throw new ProblemError('thing/not-found');
    const now = this.context.clock();
    const state = stateOf(link, now);
    const { guests } = this.context;
    const pass = { link: link.id, guest: crypto.randomUUID(), issuedAt: now };
    const intake = await this.intakeOf(link, {}, { id: pass.guest, name: NAMELESS, email: null, roles: [] });
    const { opensAt, closesAt } = link.settings;
    return {
      workspace: this.workspace(),
      name: intake?.form.definition.name ?? '',
      stageName: intake?.record.stageName ?? '',
      // A design that was put away, or whose intake isn't open to everybody any more, has no public intake.
      state: intake ? state : 'off',
      opensAt,
      closesAt,
      intake:
        intake && state === 'open'
          ? { pass: guests.passes.write(pass), guest: pass.guest, form: intake.form, record: intake.record }
          : null,
    };
  }

  /** The form with what was entered so far. Codes: `link/shut`, and those of forms. */
  async form(address: string, values: Values, guest: Guest, actor: Actor): Promise<FormDocument> {
    const link = await this.linkOf(address, guest);
    if (stateOf(link, this.context.clock()) !== 'open') throw new ProblemError('link/shut');
    const intake = await this.intakeOf(link, values, actor);
    if (!intake) throw new ProblemError('link/shut');
    return intake.form;
  }

  /**
   * Begins the record of a pass and hands it on, within all that the link allows. Codes: `link/…`, and those of beginning
   * a record.
   */
  async begin(
    address: string,
    { handOff, values, trap }: BodyOf<'beginPublicly'>,
    guest: Guest,
    request: { readonly actor: Actor; readonly idempotencyKey: string | null },
  ): Promise<HandOffResponse> {
    const link = await this.linkOf(address, guest);
    if (trap !== '' || this.context.clock() - guest.issuedAt < FASTEST_MS) throw new ProblemError('link/looks-automatic');
    const known = knownOf(await this.fieldsOf(link), values);
    const actor = { ...request.actor, name: known.name, email: known.email || null };
    const answer = await this.records.begin(
      link.workflow,
      link.stage,
      handOff,
      values,
      { actor, idempotencyKey: request.idempotencyKey },
      {
        acknowledgement: link.settings.acknowledgement,
        before: (client, record) => this.take(client, link, guest, known, record),
      },
    );
    return answerForGuest(answer);
  }

  /** What a pass leads to. */
  async followed(guest: Guest, actor: Actor): Promise<FollowedDocument> {
    return { workspace: this.workspace(), guest: { id: guest.id, name: actor.name }, record: guest.record };
  }

  /** A guest hands over a file for a record: theirs, or one they may begin. */
  async admitFile(guest: Guest): Promise<void> {
    const link = guest.record === null ? await findLinkById(this.context.database.pool, guest.link) : null;
    if (guest.record === null && (!link || stateOf(link, this.context.clock()) !== 'open')) throw new ProblemError('link/shut');
    await this.context.guests.admitFile(guest);
  }

  /** Their name and mail address are what the fields for them held when they last handed it on. */
  async follow(guest: Guest, values: Values): Promise<void> {
    const { pool } = this.context.database;
    const link = await findLinkById(pool, guest.link);
    if (!link) return;
    const fields = await this.fieldsOf(link);
    if (!Object.values(fields).some((field) => field !== null && Object.hasOwn(values, field))) return;
    await keepGuest(pool, guest, knownOf(fields, values, await this.context.guests.known(guest)));
  }

  /** Holds the link while the record is begun: never more than it allows, and one for a pass. */
  private async take(client: Queries, { id }: LinkRow, guest: Guest, known: Known, record: string): Promise<void> {
    const now = this.context.clock();
    const link = await holdLink(client, id);
    if (!link || stateOf(link, now) !== 'open') throw new ProblemError('link/shut');
    const since = new Date(now - HOUR_MS).toISOString();
    if ((await countBegunSince(client, id, since)) >= link.settings.maxPerHour)
      throw new ProblemError('request/too-many', { retryAfterSeconds: 600 });
    await keepGuest(client, guest, known);
    if (!(await noteBegun(client, guest, record, new Date(now).toISOString()))) throw new ProblemError('link/used');
  }

  /** The fields that tell who a guest is, as long as everybody may read them: a version that came since can have changed that. */
  private async fieldsOf({ workflow: key, stage, settings: { nameField, mailField } }: LinkRow): Promise<Fields> {
    const version = await findNewestVersion(this.context.database.pool, key);
    const workflow = version === null ? null : await this.context.workflows.find(key, version);
    const known = new Set(workflow?.stages.has(stage) ? textsAt(workflow, stage).map((text) => text.key) : []);
    const usable = (field: string | null): string | null => (field !== null && known.has(field) ? field : null);
    return { name: usable(nameField), email: usable(mailField) };
  }

  /** The link of an address, which must be that of the pass: one whose address was renewed isn't found by the old one. */
  private async linkOf(address: string, guest: Guest): Promise<LinkRow> {
    const link = await findLinkAt(this.context.database.pool, address);
    if (!link || link.id !== guest.link) throw new ProblemError('link/shut');
    return link;
  }

  private async intakeOf({ workflow, stage }: LinkRow, values: Values, actor: Actor) {
    try {
      return await this.records.intake(workflow, stage, values, actor);
    } catch (error) {
      const isAway = error instanceof ProblemError && AWAY.has(error.problem.code);
      if (!isAway) throw error;
      return null;
    }
  }

  private workspace(): PublicIntake['workspace'] {
    return { ...this.context.workspace.told(), nextPages: [] };
  }
}

const AWAY: ReadonlySet<string> = new Set(['thing/not-found', 'workflow/not-published']);

type Fields = { readonly name: string | null; readonly email: string | null };
type Known = { readonly name: string; readonly email: string };

/** A guest's name and mail address, as they entered them. What isn't one address isn't written to. */
function knownOf(fields: Fields, values: Values, before: Known = { name: NAMELESS, email: '' }): Known {
  const textOf = (field: string | null): string | null => {
    const json: Json | undefined = field === null || !Object.hasOwn(values, field) ? undefined : values[field];
    return typeof json === 'string' ? json.normalize('NFC').trim().slice(0, MAX_NAME) : null;
  };
  const name = textOf(fields.name);
  const email = textOf(fields.email);
  return {
    name: name === null ? before.name : name === '' ? NAMELESS : name,
    email: email === null ? before.email : isMailAddress(email) ? email : '',
  };
}
