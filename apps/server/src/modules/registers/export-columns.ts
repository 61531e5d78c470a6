import { type QueryOf, REGISTER_FACTS, type RegisterEntry, SERVER_EN } from '@ypomet/contract';
import {
  type ContextValue,
  type Field,
  fieldToOutside,
  findField,
  formatValue,
  isList,
  quotedCell,
  readDate,
  readDateTime,
  readFieldValue,
  readLocalMoment,
  type Style,
  type SubField,
  unquotedCell,
  type Value,
  wallClockOf,
  writeCell,
  writeWallClock,
} from '@ypomet/core';
import type { SheetCell } from '../../workers/sheet-worker.ts';
import { noColumn, type Opened } from './service.ts';

/** A column of an export: its id, its heading, and what a record has in it: one value, or one for each row of a table. */
export type Column = {
  readonly id: string;
  readonly heading: string;
  readonly field: Field | SubField | null;
  readonly read: (entry: RegisterEntry) => readonly Value[];
};

const HEADINGS: Readonly<Record<string, string>> = Object.fromEntries(
  REGISTER_FACTS.map((fact) => [`record.${fact}`, SERVER_EN.registerFacts[fact]]),
);

/** The columns that are asked for, by their ids with commas between; all where none is. Refuses what the register doesn't show. */
export function columnsOf({ register }: Opened, asked: string, { zone }: { readonly zone: string }): readonly Column[] {
  const ids = asked === '' ? [...Object.keys(HEADINGS), ...register.definition.fields.map(({ key }) => key)] : asked.split(',');
  return ids.map((id): Column => {
    const heading = HEADINGS[id];
    if (heading !== undefined) return { id, heading, field: null, read: (entry) => [factOf(entry, id, zone)] };
    const field = findField(register.definition, id);
    if (!field) throw noColumn('query.columns', id);
    const context = { zone, findRecord: () => null };
    return {
      id,
      heading: field.name,
      field,
      read: ({ values }) => {
        const read = readFieldValue(field, values[field.key] as never, context);
        return [read.ok ? read.value : null];
      },
    };
  });
}

/** A table's column as a column for each of its own, with a value for each row; any other column as it is. */
export function inLines(column: Column): readonly Column[] {
  const { id, heading, field, read } = column;
  if (field?.type !== 'table') return [column];
  return field.fields.map((own) => ({
    id: `${id}.${own.key}`,
    // As an import names it.
    heading: `${heading}: ${own.name}`,
    field: own,
    read: (entry) => {
      const [rows = null] = read(entry);
      return isList(rows) ? (rows as readonly (ContextValue | null)[]).map((row) => row?.entries[own.key] ?? null) : [];
    },
  }));
}

/** The lines of a record: at least `least`, and as many as its longest table has rows. */
export function linesOf(entry: RegisterEntry, columns: readonly Column[], least: 0 | 1): readonly (readonly Value[])[] {
  const cells = columns.map(({ read }) => read(entry));
  const count = Math.max(least, ...cells.map(({ length }) => length));
  return Array.from({ length: count }, (_, index) => cells.map((list) => list[index] ?? null));
}

function factOf({ record, submitter }: RegisterEntry, id: string, zone: string): Value {
  switch (id) {
    case 'record.number':
      return record.number;
    case 'record.stage':
      return record.stageName;
    case 'record.submitter':
      return submitter;
    case 'record.assignee':
      return record.assigneeName ?? (record.assignee?.kind === 'role' ? record.assignee.role : null);
    case 'record.createdAt':
      return readDateTime(record.createdAt, zone);
    case 'record.arrivedAt':
      return readDateTime(record.arrivedAt, zone);
    default:
      return record.due === null ? null : (readDate(record.due) ?? readDateTime(record.due, zone));
  }
}

/** How an export writes its headings and values; see the query of the operation. */
export type Writing = Pick<QueryOf<'exportRegister'>, 'names' | 'forms'>;

/** A heading as a cell. */
export const headingOf = ({ id, heading }: Column, { names }: Writing): string => (names === 'keys' ? id : heading);

/**
 * A value as the text of a cell. By keys, options are their codes, members and records their ids, yes and no `true` and `false`.
 * In the workspace's forms, numbers and days are as its pages show them; else they are as sheets and programs read them.
 */
export function cellText(value: Value, field: Field | SubField | null, style: Style, { names, forms }: Writing): string {
  if (value === null) return '';
  if (names === 'keys' && field && BY_KEY.has(field.type)) {
    const outside = fieldToOutside(field, value);
    return quotedCell(Array.isArray(outside) ? outside.map(String).join(', ') : String(outside ?? ''));
  }
  return forms === 'workspace' ? quotedCell(formatValue(value, field, style)) : writeCell(value, field, style);
}
/** Types of fields whose values have keys or ids besides what people call them. */
const BY_KEY: ReadonlySet<Field['type']> = new Set(['choice', 'multi-choice', 'member', 'reference', 'yes-no']);

/** The column of an amount, followed by one with its currency where there is an amount; any other column as it is. */
export function withCurrency(column: Column): readonly Column[] {
  const { id, heading, field, read } = column;
  if (field?.type !== 'money') return [column];
  return [
    column,
    {
      id: `${id}.currency`,
      heading: `${heading}: currency`,
      field: null,
      read: (entry) => read(entry).map((value) => (value === null ? null : field.currency)),
    },
  ];
}

/** The columns of one table on its own: the record's number on each line, then the table's. Refuses what the register doesn't show. */
export function columnsOfTable(opened: Opened, table: string, style: { readonly zone: string }): readonly Column[] {
  const [number, own] = columnsOf(opened, `record.number,${table}`, style);
  if (!number || own?.field?.type !== 'table') throw noColumn('query.table', table);
  return [
    {
      ...number,
      read: (entry) => (own.read(entry)[0] as readonly Value[] | null)?.map(() => number.read(entry)[0] ?? null) ?? [],
    },
    ...inLines(own),
  ];
}

/** Figures that a sheet keeps of a number, and characters that a cell holds (common practice). */
const EXACT_DIGITS = 15;
const MAX_CELL = 32_000;
const DAY_MS = 86_400_000;
/** The first day that every sheet counts alike (ECMA-376-1, 18.17.4.1: some take 1900 for a leap year). */
const FIRST_DAY_MS = Date.UTC(1900, 2, 1);

/**
 * A value in a workbook: numbers with no more figures than a sheet keeps are numbers; days and moments are days, with the clock
 * of the workspace, where a sheet can hold them; a day before 1900, a moment with parts of a second or of an hour that the clock
 * shows twice is written out in full. All else is text.
 */
export function sheetCell(value: Value, field: Field | SubField | null, style: Style, writing: Writing): SheetCell {
  if (value === null) return null;
  // A text of a workbook is no formula, and needs no quote.
  if (writing.forms === 'workspace' || (writing.names === 'keys' && field && BY_KEY.has(field.type)))
    return unquotedCell(cellText(value, field, style, writing)).slice(0, MAX_CELL);
  if (typeof value === 'object' && 'kind' in value) {
    const text = writeCell(value, field, style);
    if (value.kind === 'number') return text.replace(/\D/g, '').length <= EXACT_DIGITS ? { number: Number(text) } : text;
    if (value.kind === 'date') return value.day * DAY_MS >= FIRST_DAY_MS ? { day: value.day * DAY_MS } : text;
    if (value.kind === 'time') return text;
    if (value.kind === 'date-time') {
      const { day, ms } = wallClockOf(value);
      const clock = day * DAY_MS + ms;
      const isShownOnce = readLocalMoment(writeWallClock(value), { ...style, today: '' }).kind === 'value';
      return clock % 1000 === 0 && clock >= FIRST_DAY_MS && isShownOnce ? { moment: clock } : text;
    }
  }
  return formatValue(value, field, style).slice(0, MAX_CELL);
}
