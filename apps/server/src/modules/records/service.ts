import { createHash, randomUUID } from 'node:crypto';
import {
  BODY_LIMITS,
  type ChoiceEntry,
  type FormDocument,
  type HandOffResponse,
  type IntakeDocument,
  type OfferedHandOffs,
  type RecordDocument,
  type RecordHeader,
} from '@ypomet/contract';
import {
  type Actor,
  CLOCK,
  type CompiledWorkflow,
  type Field,
  formatRecordNumber,
  type HandedOn,
  handOn,
  isAllowedPage,
  type Json,
  mayAct,
  mayBegin,
  mayGiveBack,
  mayHandOver,
  maySee,
  mayTake,
  memberOf,
  offeredHandOffs,
  openRecord,
  type Possession,
  possess,
  type SubField,
  type WorkflowRecord,
  writeInstant,
} from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { inTransaction } from '../../db/database.ts';
import { groupRequests } from '../../db/grouping.ts';
import type { MailHandling } from '../../db/schema.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import { noteReading } from '../desk/readings.ts';
import { findPublished } from '../workflows/repository.ts';
import { choosableField } from './choices.ts';
import { clockColumns } from './clock-columns.ts';
import { makeHandOffWriter, type WriteHandOff } from './hand-off-writer.ts';
import { Lookups, namesIn } from './lookups.ts';
import { filesNamedIn } from './named-files.ts';
import { toNewRow } from './new-row.ts';
import { once, type Request } from './once.ts';
import { openAllFollowUps } from './open-follow-ups.ts';
import { withAcknowledgement } from './own-acknowledgement.ts';
import { countPendingFollowUps } from './pending-follow-ups.ts';
import { eventForGuest, headerForGuest, nowOf, toHeader, toHistory, toRoute } from './present.ts';
import { arrangeMails, holdBack, toQueued } from './queue-deliveries.ts';
import { RecordForms } from './record-forms.ts';
import { type RecordRow, toRecord } from './record-row.ts';
import { refreshOpened } from './refresh-opened.ts';
import { relatedOf, relatedRecords } from './related.ts';
import {
  findColleagues,
  findRecords,
  insertAnswer,
  insertRecords,
  isAnsweredOnly,
  listEvents,
  type Queries,
  takeNumbers,
  writeHandOffs,
} from './repository.ts';
import { sentOf } from './sent.ts';
import { HELD_SECONDS, noteReversible } from './take-back.ts';

export type Values = Readonly<Record<string, Json>>;

const fingerprintOf = (...parts: readonly unknown[]): string => createHash('sha256').update(JSON.stringify(parts)).digest('hex');

type Handing = {
  readonly handedOn: HandedOn;
  readonly revision: number;
  /** How deep in a chain of follow-ups the record is. */
  readonly depth: number;
  readonly request: Request;
  readonly fingerprint: string;
  /** How long what it sends is held back; not at all where nothing is said. */
  readonly heldSeconds?: number;
  /** What becomes of the mails it comes to, and of those of the records it opens; null: they are sent. */
  readonly mails?: MailHandling | null;
};

/** `mayBeTakenBack`: what is sent is held back for a minute, and how the record was is kept, so that it can be taken back. */
export type Handling = { readonly mayBeTakenBack?: boolean };

/** How a record is begun otherwise than by a member. */
export type Beginning = {
  /** Runs in the transaction that begins it, before it is stored; may refuse. */
  readonly before?: (client: Queries, record: string) => Promise<void>;
  /** A template that is read instead of the hand-off's acknowledgement; empty: that one. */
  readonly acknowledgement?: string;
  /** What becomes of the mails it comes to, and of those of the records it opens; null: they are sent. */
  readonly mails?: MailHandling | null;
};

/** Runs records: shows their forms, begins them, hands them on. Decides nothing itself: that is the core's. */
export class RecordService {
  private readonly writeHandOff: WriteHandOff;
  private readonly findRecord: (id: string) => Promise<RecordRow | null>;

  private readonly forms: RecordForms;

  constructor(private readonly context: ServerContext) {
    this.forms = new RecordForms(context);
    const { pool } = context.database;
    this.writeHandOff = makeHandOffWriter(pool);
    this.findRecord = groupRequests(async (ids) => {
      const rows = new Map((await findRecords(pool, ids)).map((row) => [row.id, row]));
      return ids.map((id) => rows.get(id) ?? null);
    });
  }

  private get pool() {
    return this.context.database.pool;
  }

  /**
   * Before a body is read: whether there is such a record for this actor. Large bodies are for those who have it, whose
   * forms may need them.
   */
  async admit(id: string, actor: Actor, sizeBytes: number): Promise<void> {
    const { workflow, record } = await this.load(id, actor);
    const stage = workflow.stages.get(record.stage)?.stage;
    const isTheirs = stage !== undefined && mayAct(stage, record, actor);
    if (!isTheirs && sizeBytes > BODY_LIMITS.small) throw new ProblemError('request/too-large');
  }

  /** A record with its form, as the actor may see it. Unknown and unseeable are answered alike. Guests read no names of members. */
  async show(id: string, actor: Actor, isGuest = false): Promise<RecordDocument> {
    const { row, workflow, record } = await this.load(id, actor);
    const stage = workflow.stages.get(record.stage)?.stage;
    const isActing = stage !== undefined && mayAct(stage, record, actor);
    const [events, sent] = await Promise.all([
      listEvents(this.pool, id),
      sentOf(this.pool, workflow, id, actor),
      noteReading(this.pool, { record: id, member: actor.id, revision: row.revision, isActing }),
    ]);
    const header = toHeader(row, workflow, nowOf(this.context));
    const told = isGuest ? events.map((event) => eventForGuest(event, actor, this.context.workspace.name)) : events;
    return {
      record: isGuest ? headerForGuest(header) : header,
      mayAct: isActing,
      possession: {
        mayTake: stage !== undefined && mayTake(stage, record, actor),
        mayGiveBack: stage !== undefined && mayGiveBack(stage, record, actor),
        mayHandOver: stage !== undefined && mayHandOver(stage, record, actor),
      },
      form: await this.forms.form(workflow, record, {}, actor),
      history: told.map((event) => toHistory(event, workflow, actor)),
      sent,
      route: toRoute(row, events, workflow),
      issues: isActing ? ((row.issues ?? []) as unknown as RecordDocument['issues']) : [],
      // Other records are the house's own business.
      ...(isGuest ? { openedBy: null, opened: [], opening: 0 } : await relatedOf(this.context, row, actor)),
    };
  }

  /** All that an actor may see of a record, to read: also what the present stage's form leaves out. */
  async shown(id: string, actor: Actor): Promise<FormDocument> {
    const { workflow, record } = await this.load(id, actor);
    return this.forms.shown(workflow, record, actor);
  }

  /** The form with what was entered so far. */
  async form(id: string, values: Values, actor: Actor): Promise<FormDocument> {
    const { workflow, record } = await this.load(id, actor);
    return this.forms.form(workflow, record, values, actor);
  }

  /** What a form is called in a list of its member: a record with its number, or an intake. */
  async titleOfForm(place: string, actor: Actor): Promise<string> {
    const [kind, of = '', stage = ''] = place.split('.');
    if (kind === 'record') {
      const { row, workflow } = await this.load(of, actor);
      return `${workflow.definition.name} · ${row.number}`;
    }
    const { workflow } = await this.published(of);
    return `${workflow.definition.name} · ${workflow.stages.get(stage)?.stage.name ?? stage}`;
  }

  /** Names of what was entered in a form, as far as the actor may see it; none where the form is no longer theirs to see. */
  async namesIn(place: string, entered: Values, actor: Actor): Promise<Readonly<Record<string, string>>> {
    const [kind, of = ''] = place.split('.');
    const found = await (kind === 'record' ? this.load(of, actor) : this.published(of)).catch((error: unknown) => {
      if (error instanceof ProblemError) return null;
      throw error;
    });
    if (!found) return {};
    const lookups = this.lookups(this.pool, found.workflow, actor);
    return lookups.settle(() => namesIn(found.workflow.definition.fields, entered, lookups.outside));
  }

  /** Whether an actor may begin a record at an intake: asked before a body is read. */
  async admitIntake(key: string, stage: string | null, actor: Actor): Promise<void> {
    const { workflow } = await this.published(key);
    const stages = workflow.definition.stages.filter((one) => stage === null || one.key === stage);
    if (!stages.some((one) => mayBegin(one, actor))) throw new ProblemError('thing/not-found');
  }

  /** The form of an intake, before there is a record. */
  async intake(key: string, stage: string, values: Values, actor: Actor): Promise<IntakeDocument> {
    const { workflow, version } = await this.published(key);
    const record = this.blank(workflow, version, stage, actor);
    const form = await this.forms.form(workflow, record, values, actor);
    const row: RecordRow = {
      ...record,
      number: '',
      version,
      stageKind: 'intake',
      revision: 0,
      openedBy: null,
      depth: 0,
      refused: [],
      issues: null,
      assigneeName: null,
    };
    return { workflow: key, stage, version, form, record: { ...toHeader(row, workflow, nowOf(this.context)), number: null } };
  }

  /** A member or reference field that an actor can enter in a record. Code `thing/not-found`. */
  async choosableIn(id: string, path: string, actor: Actor): Promise<Field | SubField> {
    const { workflow, record } = await this.load(id, actor);
    const stage = workflow.stages.get(record.stage)?.stage;
    if (!stage || !mayAct(stage, record, actor)) throw new ProblemError('thing/not-found');
    return choosableField(workflow, record.stage, path, actor);
  }

  /** The same at an intake. */
  async choosableAt(key: string, stage: string, path: string, actor: Actor): Promise<Field | SubField> {
    const { workflow } = await this.published(key);
    const found = workflow.stages.get(stage)?.stage;
    if (!found || !mayBegin(found, actor)) throw new ProblemError('thing/not-found');
    return choosableField(workflow, stage, path, actor);
  }

  /** A file that a record shows the actor, by its contents: its name and media type. */
  async shownFile(id: string, sha256: string, actor: Actor): Promise<{ readonly name: string; readonly mediaType: string }> {
    const { workflow, record } = await this.load(id, actor);
    const found = await this.forms.findFile(workflow, record, sha256, actor);
    if (!found) throw new ProblemError('thing/not-found');
    return found;
  }

  /** Begins a record and hands it on at once: it exists from its first hand-off. */
  async begin(
    key: string,
    stage: string,
    handOff: string,
    values: Values,
    request: Request,
    { before, acknowledgement = '', mails = null }: Beginning = {},
  ): Promise<HandOffResponse> {
    const fingerprint = fingerprintOf('begin', key, stage, handOff, values);
    return once(this.context, request, fingerprint, async () => {
      const { workflow, version } = await this.published(key);
      const blank = this.blank(workflow, version, stage, request.actor);
      return inTransaction(this.pool, async (client) => {
        const { now, zone } = this.lookups(client, workflow, request.actor).outside;
        const running = await takeNumbers(client, key);
        const record = { ...blank, number: formatRecordNumber(workflow.definition.numbering, running, { now, zone }) };
        const handedOn = await this.decide(client, workflow, record, handOff, values, request.actor);
        await before?.(client, record.id);
        await insertRecords(client, [toNewRow(handedOn.record)]);
        const lookups = this.lookups(client, workflow, request.actor);
        const told = await withAcknowledgement(workflow, handedOn, acknowledgement, request.actor, lookups);
        return this.storeWithin(client, workflow, { handedOn: told, revision: 0, depth: 0, request, fingerprint, mails });
      });
    });
  }

  /** What beginning a record would come to; nothing is stored, and it has no number. */
  async tryBegin(key: string, stage: string, handOff: string, values: Values, actor: Actor): Promise<HandedOn> {
    const { workflow, version } = await this.published(key);
    return this.decide(this.pool, workflow, this.blank(workflow, version, stage, actor), handOff, values, actor);
  }

  /** The name of a stage in the published version. */
  async nameOfStage(key: string, stage: string): Promise<string> {
    return (await this.published(key)).workflow.stages.get(stage)?.stage.name ?? stage;
  }

  /** Hands a record on. Twice the same request acts once; a stale revision changes nothing. */
  async handOn(
    id: string,
    revision: number,
    handOff: string,
    values: Values,
    request: Request,
    { mayBeTakenBack = false }: Handling = {},
  ): Promise<HandOffResponse> {
    const fingerprint = fingerprintOf('hand-on', id, handOff, values);
    return once(this.context, request, fingerprint, async () => {
      const { row, workflow, record } = await this.loadAt(id, revision, request.actor);
      const handedOn = await this.decide(this.pool, workflow, record, handOff, values, request.actor);
      const handing = { handedOn, revision: row.revision, depth: row.depth, request, fingerprint };
      if (handedOn.followUps.length + handedOn.refreshes.length === 0) {
        if (!mayBeTakenBack) return this.store(this.pool, this.writeHandOff, workflow, handing, []);
        const answer = await this.store(this.pool, this.writeHandOff, workflow, { ...handing, heldSeconds: HELD_SECONDS }, []);
        await noteReversible(this.pool, record, handOff, answer.record.revision, request.actor.id);
        return answer;
      }
      return inTransaction(this.pool, (client) => this.storeWithin(client, workflow, handing));
    });
  }

  /** What handing a record on as it is would come to; nothing is stored. */
  async tryHandOn(
    id: string,
    revision: number,
    handOff: string,
    values: Values,
    actor: Actor,
  ): Promise<{ handedOn: HandedOn; stageName: string }> {
    const { workflow, record } = await this.loadAt(id, revision, actor);
    const handedOn = await this.decide(this.pool, workflow, record, handOff, values, actor);
    return { handedOn, stageName: workflow.stages.get(handedOn.record.stage)?.stage.name ?? handedOn.record.stage };
  }

  /** The hand-offs that an actor may press on a record as it is. */
  async offered(id: string, actor: Actor): Promise<OfferedHandOffs> {
    const { row, workflow, record } = await this.load(id, actor);
    const lookups = this.lookups(this.pool, workflow, actor);
    const handOffs = await lookups.settle(() => offeredHandOffs(workflow, record, actor, lookups.outside));
    const { number, revision } = row;
    return { id, number, revision, handOffs: handOffs.map(({ key, name }) => ({ key, name })) };
  }

  /** A record at a revision. Answers that came since are in fields that nobody enters: what was read still stands. */
  private async loadAt(id: string, revision: number, actor: Actor): ReturnType<RecordService['load']> {
    const loaded = await this.load(id, actor);
    const { row } = loaded;
    if (row.revision !== revision && !(row.revision > revision && (await isAnsweredOnly(this.pool, id, revision))))
      throw new ProblemError('revision/stale', { path: `revision ${row.revision}` });
    return loaded;
  }

  /** Changes who has a record. A stale revision changes nothing: of two who take it at once, one has it. */
  async possess(id: string, revision: number, possession: Possession, actor: Actor): Promise<RecordHeader> {
    const { row, workflow, record } = await this.load(id, actor);
    if (row.revision !== revision) throw new ProblemError('revision/stale', { path: `revision ${row.revision}` });
    const lookups = this.lookups(this.pool, workflow, actor);
    const result = await lookups.settle(() => possess(workflow, record, possession, actor, lookups.outside));
    if (!result.ok) throw new ProblemError('hand-off/refused', { path: 'assignee', details: toDetails(result.diagnostics) });
    const stage = workflow.stages.get(record.stage)?.stage;
    if (!stage) throw new Error(`no stage ${record.stage}`);
    const isStored = await this.writeHandOff({
      record: result.value.record,
      revision,
      stage,
      events: [result.value.event],
      deliveries: [],
      issues: row.issues,
      told: null,
      member: actor.id,
      at: writeInstant(this.context.clock()),
      clock: clockColumns(workflow, record, lookups.outside, row.refused),
      idempotencyKey: null,
      fingerprint: '',
      answer: null,
    });
    if (!isStored) throw new ProblemError('revision/stale');
    this.context.changes.lookSoon();
    const [after] = await findRecords(this.pool, [id]);
    return toHeader(after ?? row, workflow, nowOf(this.context));
  }

  /** Whom a record can be handed over to. */
  async colleagues(id: string, search: string, actor: Actor): Promise<ChoiceEntry[]> {
    const { workflow, record } = await this.load(id, actor);
    const stage = workflow.stages.get(record.stage)?.stage;
    if (!stage || !mayHandOver(stage, record, actor)) throw new ProblemError('thing/not-found');
    const found = await findColleagues(this.pool, stage.roles, actor.id, search);
    return found.map((one) => ({ ...one, note: '' }));
  }

  /** Stores what the clock handed on, within the transaction that holds the record. */
  async storeByClock(client: Queries, workflow: CompiledWorkflow, row: RecordRow, handedOn: HandedOn): Promise<void> {
    const request = { actor: CLOCK, idempotencyKey: null };
    await this.storeWithin(client, workflow, { handedOn, revision: row.revision, depth: row.depth, request, fingerprint: '' });
  }

  /** Stores a hand-off with the records it opens, all in one transaction. */
  private async storeWithin(client: Queries, workflow: CompiledWorkflow, handing: Handing): Promise<HandOffResponse> {
    const { record, followUps, refreshes } = handing.handedOn;
    const { actor } = handing.request;
    const write: WriteHandOff = async (one) => (await writeHandOffs(client, [one]))[0] === true;
    if (followUps.length + refreshes.length === 0) return this.store(client, write, workflow, handing, []);
    // The record first, without the answer, so that what it opens can read it; then the answer that names what it opened.
    const { id, workflow: key, number } = record;
    const plain = { ...handing, request: { ...handing.request, idempotencyKey: null } };
    const answer = await this.store(client, write, workflow, plain, []);
    const source = { record: id, number, workflow: key, followUps };
    await refreshOpened(this.context, client, actor, source, refreshes);
    const opened = await openAllFollowUps(this.context, client, actor, source, handing);
    const related = await relatedRecords(this.context, await findRecords(client, opened), actor);
    const whole: HandOffResponse = { ...answer, opened: [...related], opening: await countPendingFollowUps(client, id) };
    const { idempotencyKey } = handing.request;
    if (idempotencyKey !== null)
      await insertAnswer(client, actor.id, {
        key: idempotencyKey,
        fingerprint: handing.fingerprint,
        answer: whole as unknown as Json,
      });
    return whole;
  }

  private lookups(db: Queries, workflow: CompiledWorkflow, actor: Actor): Lookups {
    return new Lookups(this.context, db, workflow, actor);
  }

  private async decide(
    db: Queries,
    workflow: CompiledWorkflow,
    record: WorkflowRecord,
    handOff: string,
    values: Values,
    actor: Actor,
  ): Promise<HandedOn> {
    const lookups = this.lookups(db, workflow, actor);
    const result = await lookups.settle(() => handOn(workflow, record, handOff, values, actor, lookups.outside));
    if (!result.ok) throw new ProblemError('hand-off/refused', { path: handOff, details: toDetails(result.diagnostics) });
    return result.value;
  }

  private async store(
    db: Queries,
    write: WriteHandOff,
    workflow: CompiledWorkflow,
    { handedOn, revision, depth, request, fingerprint, heldSeconds = 0, mails = null }: Handing,
    opened: HandOffResponse['opened'],
  ): Promise<HandOffResponse> {
    const { record, events, deliveries, acknowledgement } = handedOn;
    const stage = workflow.stages.get(record.stage)?.stage;
    if (!stage) throw new Error(`no stage ${record.stage}`);
    const row: RecordRow = {
      ...record,
      number: record.number ?? '',
      version: record.version ?? 0,
      stageKind: stage.kind,
      revision: revision + 1,
      openedBy: null,
      depth,
      refused: [],
      issues: null,
      assigneeName: null,
    };
    const answer: HandOffResponse = {
      record: toHeader(row, workflow, nowOf(this.context)),
      acknowledgement: acknowledgement?.text ?? null,
      next:
        acknowledgement?.next && isAllowedPage(acknowledgement.next, this.context.workspace.nextPages)
          ? acknowledgement.next
          : null,
      opened,
      opening: 0,
    };
    const [queued = []] = await toQueued(db, [deliveries]);
    const { actor, idempotencyKey } = request;
    const { zone, counting: calendar } = this.context.workspace;
    const counting = { zone, calendar };
    const isStored = await write({
      record,
      revision,
      stage,
      events,
      deliveries: holdBack(arrangeMails(queued, mails), heldSeconds),
      files: filesNamedIn(workflow, record.values),
      issues: null,
      told: acknowledgement?.text ?? null,
      member: memberOf(actor),
      at: writeInstant(this.context.clock()),
      clock: clockColumns(workflow, record, counting),
      idempotencyKey,
      fingerprint,
      answer: answer as unknown as Json,
    });
    if (!isStored) throw new ProblemError('revision/stale');
    return answer;
  }

  private async load(
    id: string,
    actor: Actor,
  ): Promise<{ readonly row: RecordRow; readonly workflow: CompiledWorkflow; readonly record: WorkflowRecord }> {
    const row = await this.findRecord(id);
    const workflow = row && (await this.context.workflows.find(row.workflow, row.version));
    if (!row || !workflow) throw new ProblemError('thing/not-found');
    const record = toRecord(row);
    if (!maySee(workflow.definition, record, actor)) throw new ProblemError('thing/not-found');
    return { row, workflow, record };
  }

  private async published(key: string): Promise<{ readonly workflow: CompiledWorkflow; readonly version: number }> {
    const version = await findPublished(this.pool, key);
    if (version === undefined) throw new ProblemError('thing/not-found');
    if (version === null) throw new ProblemError('workflow/not-published');
    const workflow = await this.context.workflows.find(key, version);
    if (!workflow) throw new ProblemError('thing/not-found');
    return { workflow, version };
  }

  private blank(workflow: CompiledWorkflow, version: number, stageKey: string, actor: Actor): WorkflowRecord {
    const stage = workflow.stages.get(stageKey)?.stage;
    if (!stage || !mayBegin(stage, actor)) throw new ProblemError('thing/not-found');
    return openRecord(workflow, stageKey, randomUUID(), version, actor, this.lookups(this.pool, workflow, actor).outside);
  }
}
