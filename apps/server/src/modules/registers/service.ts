import {
  type QueryOf,
  type RegisterDocument,
  type RegisterEntry,
  type RegisterSettings,
  type RegisterView,
  type ResponseOf,
  SERVER_EN,
} from '@ypomet/contract';
import {
  type Actor,
  type CompiledWorkflow,
  type Field,
  findField,
  onlookAt,
  projectRegister,
  type Register,
  registerRightOf,
  writeOnlook,
} from '@ypomet/core';
import type pg from 'pg';
import type { ServerContext } from '../../context.ts';
import { ProblemError } from '../../problem.ts';
import { Lookups, namesIn } from '../records/lookups.ts';
import { nowOf, toHeader } from '../records/present.ts';
import { toRecord } from '../records/record-row.ts';
import type { Queries } from '../records/repository.ts';
import { deleteView, type KeptView, toView, updateView } from '../views/views.ts';
import { decodePlace, encodePlace, estimateOf, type Narrowed, orderOf, type Searched, whereOf } from './narrowing.ts';
import {
  countRegister,
  findNamed,
  findPublished,
  insertView,
  listNames,
  listPublished,
  listRegister,
  listViews,
  type RegisterRow,
} from './repository.ts';

type ViewRequest = KeptView<RegisterSettings>;
/** Views that one member keeps. */
export const MAX_VIEWS = 200;
/** Members whom a register can be searched for. */
const MAX_NAMES = 1000;

/** A register that somebody may see, with the version by which it is read. */
export type Opened = { readonly workflow: CompiledWorkflow; readonly version: number; readonly register: Register };
type Ordered = Narrowed & { readonly sort: string; readonly direction: 'up' | 'down' };
/** Rows with what they show of each. */
export type ReadRows = Pick<ResponseOf<'registerRecords'>, 'entries' | 'names'>;

/** The registers: records of all versions of a workflow, read by the fields of the newest. */
export class RegisterService {
  constructor(private readonly context: ServerContext) {}

  /** Registers that somebody has a right to. */
  async list(actor: Actor): Promise<ResponseOf<'ownRegisters'>> {
    const published = await listPublished(this.context.database.pool);
    return published.flatMap(({ key, name, description, roles }) => {
      const right = registerRightOf({ roles }, actor);
      return right === 'none' ? [] : [{ workflow: key, name, description, right }];
    });
  }

  async describe(key: string, actor: Actor): Promise<RegisterDocument> {
    return describeRegister(this.context.database.pool, await this.open(key, actor));
  }

  /** The register of a workflow. Code `thing/not-found` for whoever has no right to it. */
  async open(key: string, actor: Actor): Promise<Opened> {
    const version = await findPublished(this.context.database.pool, key);
    const workflow = version === null ? null : await this.context.workflows.find(key, version);
    const register = workflow && projectRegister(workflow, actor);
    if (version === null || !workflow || !register) throw new ProblemError('thing/not-found');
    return { workflow, version, register };
  }

  async page(key: string, query: QueryOf<'registerRecords'>, actor: Actor): Promise<ResponseOf<'registerRecords'>> {
    const opened = await this.open(key, actor);
    const fields = fieldsOf(opened.register, query.fields);
    const { rows, next } = await this.rows(opened, query, actor, query.after, query.limit);
    return { ...(await this.read(opened, rows, actor, fields)), next };
  }

  /** Runs a register query: plain lists on the shared connections, filters and searches through `Questions`, which limits them. */
  private ask<T>(
    { id }: Actor,
    { filter, find }: Narrowed,
    where: Searched,
    workflow: string,
    work: (db: pg.Pool) => Promise<T>,
  ): Promise<T> {
    const isPlain = filter.trim() === '' && find.trim() === '';
    if (isPlain) return work(this.context.database.pool);
    return this.context.questions.ask(id, work, estimateOf(where, workflow));
  }

  /** Rows from after a place. */
  async rows(
    { register }: Opened,
    query: Ordered,
    actor: Actor,
    after: string | undefined,
    limit: number,
  ): Promise<{ readonly rows: readonly RegisterRow[]; readonly next: string | null }> {
    const order = orderOf(register, query.sort, query.direction);
    const place = decodePlace(after, order);
    const where = whereOf(register, query, this.moment(), await findNamed(this.context.database.pool, query.find));
    const ordering = order.sql.includes('r.values') ? [order.sql] : [];
    this.context.registerIndexes.want(register.definition.key, [...ordering, ...where.compared]);
    if (where.text !== null) this.context.registerIndexes.wantText(register.definition.key, where.text);
    const found = await this.ask(actor, query, where, register.definition.key, (db) =>
      listRegister(db, where, order, place, limit + 1),
    );
    const rows = found.slice(0, limit);
    const last = rows.at(-1);
    return { rows, next: found.length > limit && last ? encodePlace({ value: last.place, id: last.id }) : null };
  }

  /** What the register shows somebody of some rows, in some fields: of a large workflow most aren't asked for. */
  async read({ workflow }: Opened, rows: readonly RegisterRow[], actor: Actor, fields: readonly Field[]): Promise<ReadRows> {
    const lookups = new Lookups(this.context, this.context.database.pool, workflow, actor);
    const wanted = fields.flatMap(({ key }) => workflow.forms.fieldByKey.get(key) ?? []);
    const now = nowOf(this.context);
    const versions = new Map<number, CompiledWorkflow>();
    for (const { workflow: key, version } of rows)
      if (!versions.has(version)) versions.set(version, (await this.context.workflows.find(key, version)) ?? workflow);
    const names: Record<string, string> = {};
    const entries = await lookups.settleEach(rows, (row): RegisterEntry => {
      const onlook = onlookAt(workflow, toRecord(row), actor, lookups.outside, wanted);
      const values = onlook ? (writeOnlook(fields, onlook) as RegisterEntry['values']) : {};
      Object.assign(names, namesIn(fields, values, lookups.outside));
      return { record: toHeader(row, versions.get(row.version) ?? workflow, now), submitter: row.submitter, values };
    });
    return { entries: [...entries], names };
  }

  async totals(key: string, query: QueryOf<'registerTotals'>, actor: Actor): Promise<ResponseOf<'registerTotals'>> {
    const { register, workflow } = await this.open(key, actor);
    const summed = [...new Set(query.sums === '' ? [] : query.sums.split(','))];
    const strange = summed.find((sum) => !isNumber(register, sum));
    if (strange !== undefined) throw noColumn('query.sums', strange);
    const where = whereOf(register, query, this.moment(), await findNamed(this.context.database.pool, query.find));
    const rows = await this.ask(actor, query, where, key, (db) => countRegister(db, where, summed));
    const all = rows.find(({ stage }) => stage === null);
    const named = await Promise.all(
      rows.flatMap(({ stage, version, count }) =>
        stage === null ? [] : [this.nameOf(workflow, stage, version).then((name) => ({ stage, name, count }))],
      ),
    );
    const order = workflow.definition.stages.map((stage) => stage.key);
    const placeOf = (stage: string): number => order.indexOf(stage) + 1 || order.length + 1;
    return {
      count: all?.count ?? 0,
      stages: named.sort((a, b) => placeOf(a.stage) - placeOf(b.stage)),
      sums: summed.flatMap((field, index) => {
        const sum = all?.sums[index];
        return sum ? [{ field, sum }] : [];
      }),
    };
  }

  /** A stage's name in the newest version, or in the last that had it. */
  private async nameOf(workflow: CompiledWorkflow, stage: string, version: number): Promise<string> {
    const known =
      workflow.stages.get(stage) ?? (await this.context.workflows.find(workflow.definition.key, version))?.stages.get(stage);
    return known?.stage.name ?? stage;
  }

  async views(key: string, actor: Actor): Promise<RegisterView[]> {
    await this.open(key, actor);
    const rows = await listViews(this.context.database.pool, key, actor.id);
    return rows.map((row) => toView(row, actor));
  }

  async addView(key: string, view: ViewRequest, actor: Actor): Promise<RegisterView> {
    this.requireSound(await this.open(key, actor), view);
    const row = await insertView(this.context.database.pool, key, actor.id, view, MAX_VIEWS);
    if (!row)
      throw new ProblemError('register/filter', {
        detail: SERVER_EN.details['many-views'].replace('{limit}', String(MAX_VIEWS)),
      });
    return toView(row, actor);
  }

  async putView(key: string, id: string, view: ViewRequest, actor: Actor): Promise<RegisterView> {
    this.requireSound(await this.open(key, actor), view);
    const row = await updateView(this.context.database.pool, 'register_views', id, actor.id, view);
    if (!row) throw new ProblemError('thing/not-found');
    return toView(row, actor);
  }

  async deleteView(key: string, id: string, actor: Actor): Promise<void> {
    await this.open(key, actor);
    if (!(await deleteView(this.context.database.pool, 'register_views', id, actor.id)))
      throw new ProblemError('thing/not-found');
  }

  /** A view that can't be applied isn't kept. */
  private requireSound({ register }: Opened, { settings }: ViewRequest): void {
    orderOf(register, settings.sort, settings.direction);
    whereOf(register, settings, this.moment());
    const strange = settings.columns.find((column) => !column.startsWith('record.') && !findField(register.definition, column));
    if (strange) throw noColumn('settings.columns', strange);
  }

  private moment() {
    return { now: this.context.clock(), workspace: this.context.workspace };
  }
}

/** The fields of a register that are asked for, by keys with commas between; all where none are named. */
function fieldsOf({ definition }: Register, asked: string): readonly Field[] {
  if (asked === '') return definition.fields;
  return [...new Set(asked.split(','))].map((key) => {
    const field = findField(definition, key);
    if (!field) throw noColumn('query.fields', key);
    return field;
  });
}

/** Whether a register's records can be summed by a field. */
function isNumber({ definition, searchable }: Register, key: string): boolean {
  const type = findField(definition, key)?.type;
  return (type === 'number' || type === 'money') && searchable.includes(key);
}

/** The answer to who asks for a column that a register doesn't show, at a path. */
export const noColumn = (path: string, column: string): ProblemError =>
  new ProblemError('register/filter', { path, detail: SERVER_EN.details['no-column'].replace('{column}', column) });

/** What records can be narrowed to and ordered by, with the members that conditions can name. */
export async function describeRegister(
  db: Queries,
  { register, version }: Pick<Opened, 'register' | 'version'>,
): Promise<RegisterDocument> {
  const { right, definition, searchable } = register;
  const isNaming = definition.fields.some(({ key, type }) => type === 'member' && searchable.includes(key));
  const members = isNaming ? await listNames(db, MAX_NAMES) : [];
  return { version, right, definition, searchable: [...searchable], members: [...members] };
}
