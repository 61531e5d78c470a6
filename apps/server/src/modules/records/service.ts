import { createHash, randomUUID } from 'node:crypto';
import type { FormDocument, HandOffResponse, IntakeDocument, RecordDocument } from '@ypomet/contract';
import {
  type Actor,
  type Address,
  type CompiledWorkflow,
  enterInput,
  evaluateForm,
  formatRecordNumber,
  type HandedOn,
  handOn,
  type Json,
  mayAct,
  mayBegin,
  maySee,
  type Outside,
  openRecord,
  projectForm,
  readStoredValues,
  systemValues,
  type WorkflowRecord,
} from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { groupRequests } from '../../db/grouping.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import { findWorkflowRow } from '../workflows/repository.ts';
import { makeHandOffWriter, type WriteHandOff } from './hand-off-writer.ts';
import { toHeader, toHistory } from './present.ts';
import { type RecordRow, toRecord } from './record-row.ts';
import { loadReferences } from './references.ts';
import {
  findAddresses,
  findAnswer,
  findRecords,
  insertRecord,
  listEvents,
  type Queries,
  type QueuedMail,
  takeNumber,
  writeHandOffs,
} from './repository.ts';

export type Values = Readonly<Record<string, Json>>;

/** One request to act, and how to know it again. */
export type Request = { readonly actor: Actor; readonly idempotencyKey: string | null };

const fingerprintOf = (...parts: readonly unknown[]): string => createHash('sha256').update(JSON.stringify(parts)).digest('hex');
const UNIQUE_VIOLATION = '23505';
const isUniqueViolation = (error: unknown): boolean => (error as { code?: string } | null)?.code === UNIQUE_VIOLATION;

/** Runs records: shows their forms, begins them, hands them on. Decides nothing itself: that is the core's. */
export class RecordService {
  private readonly writeHandOff: WriteHandOff;
  private readonly findRecord: (id: string) => Promise<RecordRow | null>;

  constructor(private readonly context: ServerContext) {
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

  /** A record with its form, as the actor may see it. Unknown and unseeable are answered alike. */
  async show(id: string, actor: Actor): Promise<RecordDocument> {
    const { row, workflow, record } = await this.load(id, actor);
    const stage = workflow.stages.get(record.stage)?.stage;
    const events = await listEvents(this.pool, id);
    return {
      record: toHeader(row, workflow),
      mayAct: stage !== undefined && mayAct(stage, record, actor),
      form: await this.project(workflow, record, {}, actor),
      history: events.map((event) => toHistory(event, workflow)),
    };
  }

  /** The form with what was entered so far. */
  async form(id: string, values: Values, actor: Actor): Promise<FormDocument> {
    const { workflow, record } = await this.load(id, actor);
    return this.project(workflow, record, values, actor);
  }

  /** The form of an intake, before there is a record. */
  async intake(key: string, stage: string, values: Values, actor: Actor): Promise<IntakeDocument> {
    const { workflow, version } = await this.published(key);
    const record = await this.blank(workflow, version, stage, actor);
    const form = await this.project(workflow, record, values, actor);
    const row: RecordRow = { ...record, number: '', version, stageKind: 'intake', revision: 0 };
    return { workflow: key, stage, version, form, record: { ...toHeader(row, workflow), number: null } };
  }

  /** Begins a record and hands it on at once: it exists from its first hand-off. */
  async begin(key: string, stage: string, handOff: string, values: Values, request: Request): Promise<HandOffResponse> {
    const fingerprint = fingerprintOf('begin', key, stage, handOff, values);
    return this.once(request, fingerprint, async () => {
      const { workflow, version } = await this.published(key);
      const client = await this.pool.connect();
      try {
        await client.query('begin');
        const blank = await this.blank(workflow, version, stage, request.actor);
        const running = await takeNumber(client, key);
        const record = {
          ...blank,
          number: formatRecordNumber(workflow.definition.numbering, new Date(this.context.clock()).getUTCFullYear(), running),
        };
        const handedOn = await this.decide(client, workflow, record, handOff, values, request.actor);
        await insertRecord(client, handedOn.record, stage, record.createdAt);
        const write: WriteHandOff = async (one) => (await writeHandOffs(client, [one]))[0] === true;
        const response = await this.store(client, write, workflow, { handedOn, revision: 0, request, fingerprint });
        await client.query('commit');
        return response;
      } catch (error) {
        await client.query('rollback');
        throw error;
      } finally {
        client.release();
      }
    });
  }

  /** Hands a record on. Twice the same request acts once; a stale revision changes nothing. */
  async handOn(id: string, revision: number, handOff: string, values: Values, request: Request): Promise<HandOffResponse> {
    const fingerprint = fingerprintOf('hand-on', id, handOff, values);
    return this.once(request, fingerprint, async () => {
      const { row, workflow, record } = await this.load(id, request.actor);
      if (row.revision !== revision) throw new ProblemError('revision/stale', { path: `revision ${row.revision}` });
      const handedOn = await this.decide(this.pool, workflow, record, handOff, values, request.actor);
      return this.store(this.pool, this.writeHandOff, workflow, { handedOn, revision, request, fingerprint });
    });
  }

  private async decide(
    db: Queries,
    workflow: CompiledWorkflow,
    record: WorkflowRecord,
    handOff: string,
    values: Values,
    actor: Actor,
  ): Promise<HandedOn> {
    const outside = await this.outside(db, workflow, actor, record.values, values);
    const result = handOn(workflow, record, handOff, values, actor, outside);
    if (!result.ok) throw new ProblemError('hand-off/refused', { path: handOff, details: toDetails(result.diagnostics) });
    return result.value;
  }

  private async store(
    db: Queries,
    write: WriteHandOff,
    workflow: CompiledWorkflow,
    {
      handedOn,
      revision,
      request,
      fingerprint,
    }: { readonly handedOn: HandedOn; readonly revision: number; readonly request: Request; readonly fingerprint: string },
  ): Promise<HandOffResponse> {
    const { record, events, acknowledgement } = handedOn;
    const stage = workflow.stages.get(record.stage)?.stage;
    if (!stage) throw new Error(`no stage ${record.stage}`);
    const row: RecordRow = {
      ...record,
      number: record.number ?? '',
      version: record.version ?? 0,
      stageKind: stage.kind,
      revision: revision + 1,
    };
    const answer: HandOffResponse = { record: toHeader(row, workflow), acknowledgement: acknowledgement?.text ?? null };
    const deliveries = await this.address(db, handedOn);
    const { actor, idempotencyKey } = request;
    const isStored = await write({
      record,
      revision,
      stage,
      events,
      deliveries,
      member: actor.id,
      idempotencyKey,
      fingerprint,
      answer: answer as unknown as Json,
    });
    if (!isStored) throw new ProblemError('revision/stale');
    return answer;
  }

  /** Roles and members as addresses, each once. A mail without any address is queued all the same: it then waits for a person. */
  private async address(db: Queries, { deliveries }: HandedOn): Promise<readonly QueuedMail[]> {
    const all = deliveries.flatMap(({ to }) => to);
    const ids = all.flatMap((one) => (one.kind === 'member' ? [one.member] : []));
    const roles = all.flatMap((one) => (one.kind === 'role' ? [one.role] : []));
    const members = ids.length + roles.length > 0 ? await findAddresses(db, ids, roles) : [];
    const resolve = (one: Address): readonly string[] => {
      if (one.kind === 'address') return [one.address];
      return members
        .filter((member) => (one.kind === 'member' ? member.id === one.member : member.roles.includes(one.role)))
        .map(({ email }) => email);
    };
    return deliveries.map(({ name, to, subject, body }) => ({
      id: randomUUID(),
      kind: 'mail',
      name,
      recipients: [...new Set(to.flatMap(resolve))],
      subject,
      body,
    }));
  }

  /** Acts once for an idempotency key: a repeat gets the stored answer, another request under the key is refused. */
  private async once(request: Request, fingerprint: string, act: () => Promise<HandOffResponse>): Promise<HandOffResponse> {
    const { actor, idempotencyKey } = request;
    const stored = async (): Promise<HandOffResponse | null> => {
      const answer = idempotencyKey === null ? null : await findAnswer(this.pool, actor.id, idempotencyKey);
      if (!answer) return null;
      if (answer.fingerprint !== fingerprint) throw new ProblemError('request/idempotency-mismatch');
      return answer.answer as unknown as HandOffResponse;
    };
    const before = await stored();
    if (before) return before;
    try {
      return await act();
    } catch (error) {
      const isRace = isUniqueViolation(error) || (error instanceof ProblemError && error.problem.code === 'revision/stale');
      const answer = isRace ? await stored() : null;
      if (answer) return answer;
      throw error;
    }
  }

  private async load(
    id: string,
    actor: Actor,
  ): Promise<{ readonly row: RecordRow; readonly workflow: CompiledWorkflow; readonly record: WorkflowRecord }> {
    const row = await this.findRecord(id);
    const workflow = row && (await this.context.workflows.find(row.workflow, row.version));
    if (!row || !workflow) throw new ProblemError('thing/not-found');
    const record = toRecord(row);
    if (!maySee(workflow.definition.stages, record, actor)) throw new ProblemError('thing/not-found');
    return { row, workflow, record };
  }

  private async published(key: string): Promise<{ readonly workflow: CompiledWorkflow; readonly version: number }> {
    const row = await findWorkflowRow(this.context.database.drizzle, key);
    if (!row) throw new ProblemError('thing/not-found');
    if (row.publishedVersion === null) throw new ProblemError('workflow/not-published');
    const workflow = await this.context.workflows.find(key, row.publishedVersion);
    if (!workflow) throw new ProblemError('thing/not-found');
    return { workflow, version: row.publishedVersion };
  }

  private async blank(workflow: CompiledWorkflow, version: number, stageKey: string, actor: Actor): Promise<WorkflowRecord> {
    const stage = workflow.stages.get(stageKey)?.stage;
    if (!stage || !mayBegin(stage, actor)) throw new ProblemError('thing/not-found');
    return openRecord(workflow, stageKey, randomUUID(), version, actor, await this.outside(this.pool, workflow, actor));
  }

  private async outside(db: Queries, workflow: CompiledWorkflow, actor: Actor, ...sources: readonly Values[]): Promise<Outside> {
    const { zone, locale } = this.context.workspace;
    const world = { now: this.context.clock(), zone, locale };
    return { ...world, findRecord: await loadReferences(this.context, db, workflow, actor, world, ...sources) };
  }

  /** The form for one actor. Whoever may not act gets it as it stands: what they sent is not entered. */
  private async project(workflow: CompiledWorkflow, record: WorkflowRecord, values: Values, actor: Actor): Promise<FormDocument> {
    const outside = await this.outside(this.pool, workflow, actor, record.values, values);
    const stage = workflow.stages.get(record.stage)?.stage;
    const isTheirs = stage !== undefined && mayAct(stage, record, actor);
    const form = isTheirs ? enterInput(workflow, record, values, actor, outside) : null;
    if (form && !form.ok) throw new ProblemError('hand-off/refused', { details: toDetails(form.diagnostics) });
    const shown =
      form?.value ??
      evaluateForm(workflow.forms, record.stage, {
        stored: readStoredValues(workflow.forms, record.values, outside),
        input: new Map(),
        system: systemValues(workflow.forms, record, actor, outside),
        environment: { now: outside.now, zone: outside.zone },
      });
    const projected = projectForm(workflow, shown, record, actor);
    return {
      ...projected,
      values: { ...projected.values } as FormDocument['values'],
      askAgainFor: [...projected.askAgainFor],
      withheld: [...projected.withheld],
    };
  }
}
