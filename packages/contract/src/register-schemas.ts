import { FIELD_PATH_PATTERN, Key, REGISTER_RIGHTS, Workflow } from '@ypomet/core';
import { z } from 'zod';
import { Id, Instant, RecordHeader, Values } from './schemas.ts';

/** A register that the member may see. */
export const RegisterSummary = z.object({
  workflow: Key,
  name: z.string(),
  description: z.string(),
  right: z.enum(REGISTER_RIGHTS),
});
export const RegisterDocument = z.object({
  right: z.enum(REGISTER_RIGHTS),
  /** The newest version, by whose fields records of all versions are read. */
  version: z.int(),
  /** The fields that the member can be shown; nothing in it decides anything. */
  definition: Workflow,
  /** Fields that records can be filtered, ordered and totalled by: shown on every record, and stored as they are shown. */
  searchable: z.array(z.string()),
  /** Whom the fields that name members can be searched for; empty where there are none. */
  members: z.array(z.object({ id: Id, name: z.string() })),
});

/** Facts of a record that a register shows beside its fields. */
export const REGISTER_FACTS = ['number', 'stage', 'submitter', 'assignee', 'createdAt', 'arrivedAt', 'due'] as const;
const FIELD = FIELD_PATH_PATTERN.source.replace(/^\^|\$$/g, '');
/** A fact as `record.number`, or the key of a field. */
const ColumnId = z
  .string()
  .max(130)
  .regex(new RegExp(`^(record\\.(${REGISTER_FACTS.join('|')})|${FIELD})$`));
/** What records can be ordered by, beside searchable fields. */
export const REGISTER_ORDERS = ['record.number', 'record.createdAt', 'record.arrivedAt', 'record.due'] as const;

/** What a register is narrowed to and ordered by. */
const Narrowed = z.object({
  /** A condition over the searchable fields and `record`; records for which it is true. */
  filter: z.string().max(8000).default(''),
  /** In the number, the submitter's name, or a searchable text. */
  find: z.string().max(100).default(''),
  stage: Key.optional(),
});
const Ordered = Narrowed.extend({
  sort: ColumnId.default('record.createdAt'),
  direction: z.enum(['up', 'down']).default('down'),
});
const MAX_COLUMNS = 100;
const Columns = z.string().max(20_000).default('');
export const RegisterQuery = Ordered.extend({
  /** Fields whose values are wanted, one after another with commas between; none: all. */
  fields: Columns,
  after: z.string().max(4000).optional(),
  limit: z.coerce.number().int().min(1).max(200).default(50),
});
export const TotalsQuery = Narrowed.extend({
  /** Fields whose numbers are summed, one after another with commas between. */
  sums: Columns,
});
export const ExportQuery = Ordered.extend({
  format: z.enum(['csv', 'xlsx', 'json']).default('csv'),
  /** Columns, one after another with commas between; none: all. */
  columns: Columns,
  /**
   * CSV and workbooks: the rows of a table in one cell, or each on a line of its own with a cell for each of its columns, which
   * an import reads as the same rows.
   */
  tables: z.enum(['cell', 'lines']).default('cell'),
  /** A table's key: only the rows of this table, each on a line with its record's number. Other columns aren't asked for then. */
  table: z.union([Key, z.literal('')]).default(''),
  /** CSV and workbooks: headings, options, members and records by what people call them, or by their keys and ids. */
  names: z.enum(['labels', 'keys']).default('labels'),
  /** CSV and workbooks: numbers and days as sheets and programs read them (ISO 8601), or as the workspace writes them. */
  forms: z.enum(['sheets', 'workspace']).default('sheets'),
  /** CSV and workbooks: whether each amount of money is followed by a column with its currency (ISO 4217). */
  currency: z.enum(['yes', 'no']).default('no'),
  /** CSV: whether a byte order mark comes first, by which sheets know that the text is UTF-8. */
  mark: z.enum(['yes', 'no']).default('yes'),
});

export const RegisterEntry = z.object({ record: RecordHeader, submitter: z.string().nullable(), values: Values });
export const RegisterPage = z.object({
  entries: z.array(RegisterEntry),
  /** Names of the members and numbers of the records that the values name, by id. */
  names: z.record(z.string(), z.string()),
  next: z.string().nullable(),
});
export const RegisterTotals = z.object({
  count: z.int(),
  stages: z.array(z.object({ stage: Key, name: z.string(), count: z.int() })),
  /** Sums of searchable numbers and amounts, as decimal text. */
  sums: z.array(z.object({ field: z.string(), sum: z.string() })),
});

/** How a register is narrowed and laid out, as it is kept under a name. */
export const RegisterSettings = z.strictObject({
  columns: z.array(ColumnId).max(MAX_COLUMNS),
  sort: ColumnId,
  direction: z.enum(['up', 'down']),
  filter: z.string().max(8000),
  find: z.string().max(100),
  layout: z.enum(['list', 'stages']),
});
export type RegisterSettings = z.infer<typeof RegisterSettings>;
export const RegisterViewRequest = z.strictObject({
  name: z.string().trim().min(1).max(80),
  isShared: z.boolean(),
  settings: RegisterSettings,
});
export const RegisterView = z.object({
  id: Id,
  name: z.string(),
  isShared: z.boolean(),
  /** Whether it is the member's own, to change and to delete. */
  isOwn: z.boolean(),
  owner: z.string(),
  settings: RegisterSettings,
});

export const WatchQuery = z.object({ weeks: z.coerce.number().int().min(4).max(104).default(26) });
const Load = z.object({ waiting: z.int(), overdue: z.int() });
export const Watching = z.object({
  /** The stages where records rest, in the workflow's order: how many wait, and for how long, in days. */
  stages: z.array(
    Load.extend({ stage: Key, name: z.string(), medianDays: z.number().nullable(), longestDays: z.number().nullable() }),
  ),
  /** Roles whose members have work, and members who have some of their own. */
  holders: z.array(Load.extend({ name: z.string(), isRole: z.boolean() })),
  /** By week, beginning on Mondays in the workspace's zone: records begun and ended. */
  weeks: z.array(z.object({ from: z.iso.date(), begun: z.int(), ended: z.int() })),
  /** The ways that the newest version has from stage to stage, and others that were taken, with how often in that time. */
  ways: z.array(z.object({ from: Key, to: Key, times: z.int(), isDesigned: z.boolean() })),
  since: Instant,
});
export type RegisterDocument = z.infer<typeof RegisterDocument>;
export type RegisterEntry = z.infer<typeof RegisterEntry>;
export type RegisterView = z.infer<typeof RegisterView>;
export type RegisterTotals = z.infer<typeof RegisterTotals>;
export type Watching = z.infer<typeof Watching>;
