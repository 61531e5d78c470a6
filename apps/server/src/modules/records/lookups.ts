import {
  type Actor,
  type Candidate,
  type CompiledWorkflow,
  type Field,
  type FileFacts,
  findField,
  type Json,
  type MemberFacts,
  makeOutside,
  type Outside,
  onlookAt,
  type Reader,
  readFieldValue,
  type Value,
  writeFieldValue,
} from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { inTurns } from '../../turns-of-the-loop.ts';
import { type RecordRow, toRecord } from './record-row.ts';
import { findCandidates, findFiles, findFollowUps, findMembers, findRecords, type Queries } from './repository.ts';

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
const SHA256 = /^[0-9a-f]{64}$/;
/** Rounds of asking: a decision reads records, then members that these name, and so on; never that deep. */
const MAX_ROUNDS = 8;

type Values = Readonly<Record<string, Value>>;
type Loaded = { readonly row: RecordRow; readonly target: CompiledWorkflow };

/**
 * What one decision asks of the world: other records, members, files. The core decides purely and at once, so what it asks
 * for and isn't there yet is noted, loaded, and the decision made again. Of another record it gets what the onlooker may
 * see of it, read by the fields that the deciding workflow knows it by.
 */
export class Lookups {
  readonly outside: Outside;
  private readonly records = new Map<string, Loaded | null>();
  private readonly members = new Map<string, MemberFacts | null>();
  private readonly files = new Map<string, FileFacts | null>();
  private readonly seen = new Map<string, Values | null>();
  /** Records that a record opened, by its id. */
  private readonly opened = new Map<string, readonly Loaded[]>();
  /** By role, workflow and stage. */
  private readonly candidates = new Map<string, readonly Candidate[]>();
  private readonly missing = {
    records: new Set<string>(),
    members: new Set<string>(),
    files: new Set<string>(),
    opened: new Set<string>(),
    candidates: new Set<string>(),
  };
  private hasAsked = false;
  private assignedSince = 0;

  constructor(
    private readonly context: Pick<ServerContext, 'workspace' | 'clock' | 'workflows'>,
    private readonly db: Queries,
    private readonly workflow: CompiledWorkflow,
    private readonly actor: Actor,
  ) {
    const { zone, locale, counting } = context.workspace;
    this.outside = {
      now: context.clock(),
      zone,
      locale,
      calendar: counting,
      findRecord: (workflow, id) => this.findValues(workflow, id, actor),
      findFollowUps: (record, workflow) => this.followUpsOf(record, workflow),
      findRecordFor: (reader, workflow, id) => {
        const onlooker = this.onlookerOf(reader);
        return onlooker && this.findValues(workflow, id, onlooker);
      },
      findRecordNumber: (id) => this.numberOf(id),
      findMember: (id) => this.find('members', id, UUID),
      findCandidates: (role, workflow, stage) => this.candidatesFor(JSON.stringify([role, workflow, stage])),
      findFile: (sha256) => this.find('files', sha256, SHA256),
    };
  }

  /** Decides, as often as something was missing. */
  async settle<T>(decide: () => T): Promise<T> {
    const [settled] = await this.settleEach([null], decide);
    return settled as T;
  }

  /** Decides about each of some things, and again about those that something was missing for. Others have their turn in between. */
  async settleEach<I, T>(things: readonly I[], decide: (thing: I) => T): Promise<readonly T[]> {
    const settled: T[] = [];
    let open = things.map((thing, place) => ({ thing, place }));
    for (let round = 0; open.length > 0; round++) {
      const asking: typeof open = [];
      for await (const one of inTurns(open)) {
        this.hasAsked = false;
        settled[one.place] = decide(one.thing);
        if (this.hasAsked) asking.push(one);
      }
      if (asking.length > 0 && round === MAX_ROUNDS) throw new Error('a decision never stops asking');
      if (asking.length > 0) await this.load();
      open = asking;
    }
    return settled;
  }

  /** Whether something is missing, so that what was decided may be decided otherwise. */
  get isAsking(): boolean {
    return Object.values(this.missing).some((ids) => ids.size > 0);
  }

  private ask(kind: keyof Lookups['missing'], what: string): void {
    this.missing[kind].add(what);
    this.hasAsked = true;
  }

  private find<K extends 'members' | 'files'>(
    kind: K,
    id: string,
    form: RegExp,
  ): (K extends 'members' ? MemberFacts : FileFacts) | null {
    type Found = (K extends 'members' ? MemberFacts : FileFacts) | null;
    const known = this[kind] as ReadonlyMap<string, Found>;
    if (!form.test(id)) return null;
    const found = known.get(id);
    if (found === undefined) this.ask(kind, id);
    return found ?? null;
  }

  private loaded(id: string): Loaded | null {
    if (!UUID.test(id)) return null;
    const found = this.records.get(id.toLowerCase());
    if (found === undefined) this.ask('records', id.toLowerCase());
    return found ?? null;
  }

  private onlookerOf(reader: Reader): Actor | null {
    if (reader.kind === 'role') return { id: '', name: '', email: null, roles: [reader.role] };
    if (reader.kind === 'roles') return { id: '', name: '', email: null, roles: reader.roles };
    const member = this.outside.findMember(reader.member);
    return member && { ...member, email: null };
  }

  /** What the actor may read of the records that one opened in another workflow. */
  private followUpsOf(record: string, workflow: string): readonly Values[] {
    if (!UUID.test(record)) return [];
    const found = this.opened.get(record);
    if (!found) this.ask('opened', record);
    const own = (found ?? []).filter(({ row }) => row.workflow === workflow);
    return own.map((one) => this.seenBy(one, this.actor)).filter((values) => values !== null);
  }

  private candidatesFor(key: string): readonly Candidate[] {
    const found = this.candidates.get(key);
    if (!found) this.ask('candidates', key);
    return found ?? [];
  }

  /** Work that was given to a member and isn't stored yet: who is chosen next takes it into account. */
  noteAssigned(member: string): void {
    this.assignedSince += 1;
    // Later than anything that is stored.
    const lastAt = `9999-${String(this.assignedSince).padStart(9, '0')}`;
    for (const [key, list] of this.candidates)
      this.candidates.set(
        key,
        list.map((one) => (one.id === member ? { ...one, load: one.load + 1, lastAt } : one)),
      );
  }

  private numberOf(id: string): string | null {
    const found = this.loaded(id);
    return found && this.seenBy(found, this.actor) ? found.row.number : null;
  }

  private findValues(workflow: string, id: string, onlooker: Actor): Values | null {
    const found = this.loaded(id);
    return found && found.row.workflow === workflow ? this.seenBy(found, onlooker) : null;
  }

  private seenBy({ row, target }: Loaded, onlooker: Actor): Values | null {
    const key = JSON.stringify([row.id, onlooker.id, onlooker.roles]);
    const known = this.seen.get(key);
    if (known !== undefined) return known;
    const { now, zone, locale, calendar } = this.outside;
    const onlook = onlookAt(target, toRecord(row), onlooker, makeOutside({ now, zone, locale, calendar }));
    const values = onlook && this.asKnownHere(target, onlook.values);
    this.seen.set(key, values);
    return values;
  }

  /** Values by the fields under which this workflow knows the other one: the record may be on another version of it. */
  private asKnownHere(target: CompiledWorkflow, values: ReadonlyMap<string, Value>): Values {
    const known = this.workflow.findWorkflow(target.definition.key);
    const context = { zone: this.outside.zone, findRecord: () => null };
    const entries = [...values].flatMap(([key, value]) => {
      const [own, here] = [findField(target.definition, key), known && findField(known, key)];
      if (!own || !here) return [];
      const read = readFieldValue(here, writeFieldValue(own, value), context);
      return read.ok ? [[key, read.value] as const] : [];
    });
    return Object.fromEntries(entries);
  }

  private async load(): Promise<void> {
    const { records, members, files, opened, candidates } = this.missing;
    // One after another: within a transaction there is one connection.
    const rows = records.size > 0 ? await findRecords(this.db, [...records]) : [];
    const found = members.size > 0 ? await findMembers(this.db, [...members]) : [];
    const taken = files.size > 0 ? await findFiles(this.db, this.actor.id, [...files]) : [];
    const followUps = opened.size > 0 ? await findFollowUps(this.db, [...opened]) : [];
    for (const id of records) this.records.set(id, null);
    for (const id of members) this.members.set(id, null);
    for (const sha256 of files) this.files.set(sha256, null);
    for (const row of rows) {
      const target = await this.context.workflows.find(row.workflow, row.version);
      if (target) this.records.set(row.id, { row, target });
    }
    for (const id of opened) {
      const loaded = await Promise.all(
        followUps
          .filter(({ openedBy }) => openedBy === id)
          .map(async (row) => ({ row, target: await this.context.workflows.find(row.workflow, row.version) })),
      );
      this.opened.set(
        id,
        loaded.flatMap(({ row, target }) => (target ? [{ row, target }] : [])),
      );
    }
    for (const key of candidates) {
      const [role = '', workflow = '', stage = ''] = JSON.parse(key) as readonly string[];
      this.candidates.set(key, await findCandidates(this.db, role, workflow, stage));
    }
    for (const member of found) this.members.set(member.id, member);
    for (const { sha256, ...file } of taken) this.files.set(sha256, file);
    for (const ids of Object.values(this.missing)) ids.clear();
  }
}

/** Names of the members and numbers of the records that values name, as far as they are known; by id. */
export function namesIn(
  fields: readonly Field[],
  values: Readonly<Record<string, Json>>,
  outside: Outside,
): Record<string, string> {
  const names: Record<string, string> = {};
  const note = (type: string, id: Json | undefined): void => {
    if (typeof id !== 'string') return;
    const name = type === 'member' ? outside.findMember(id)?.name : type === 'reference' ? outside.findRecordNumber(id) : null;
    if (name) names[id] = name;
  };
  for (const field of fields) {
    const value = values[field.key];
    if (field.type !== 'table') note(field.type, value);
    else if (Array.isArray(value))
      for (const row of value as readonly { readonly values: Readonly<Record<string, Json>> }[])
        for (const own of field.fields) note(own.type, row.values[own.key]);
  }
  return names;
}
