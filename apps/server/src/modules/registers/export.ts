import { pipeline, Readable } from 'node:stream';
import { type QueryOf, REGISTER_FACTS, type RegisterEntry, SERVER_EN } from '@ypomet/contract';
import {
  type Actor,
  type Field,
  fieldToOutside,
  findField,
  formatValue,
  readFieldValue,
  type Style,
  toOutsideJson,
  type Value,
  writeCell,
  writeOutsideJson,
} from '@ypomet/core';
import { stringify } from 'csv-stringify';
import type { SheetPool } from '../../workers/sheet-pool.ts';
import type { SheetCell } from '../../workers/sheet-worker.ts';
import { noColumn, type Opened, type ReadRows, type RegisterService } from './service.ts';

/** Rows of one export; of a workbook, which is made in memory. */
const MAX_ROWS = 100_000;
const MAX_SHEET_ROWS = 20_000;
const BATCH = 500;
type Rows = Awaited<ReturnType<RegisterService['rows']>>;
const DAY_MS = 86_400_000;

/** A column of an export: its id, its heading, and what a record has in it. */
type Column = {
  readonly id: string;
  readonly heading: string;
  readonly field: Field | null;
  readonly read: (entry: RegisterEntry) => Value;
};

type Exporting = {
  readonly service: RegisterService;
  readonly opened: Opened;
  readonly style: Omit<Style, 'nameOf'>;
  readonly sheets: SheetPool;
};

/** A register's records as filtered, as a stream of bytes. Refuses columns that the register doesn't show. */
export async function exportRegister(exporting: Exporting, query: QueryOf<'exportRegister'>, actor: Actor) {
  const columns = columnsOf(exporting.opened, query.columns, exporting.style);
  // Before anything is sent: what can't be filtered or ordered like this is refused.
  const first = await exporting.service.rows(exporting.opened, query, undefined, BATCH);
  const fields = columns.flatMap(({ field }) => field ?? []);
  const pages = pagesOf(exporting, query, actor, fields, first, query.format === 'xlsx' ? MAX_SHEET_ROWS : MAX_ROWS);
  switch (query.format) {
    case 'csv': {
      const lines = stringify({
        bom: true,
        record_delimiter: '\r\n',
        header: true,
        columns: columns.map(({ heading }) => writeCell(heading, null, styleWith(exporting, {}))),
      });
      // What fails on the way ends the answer unfinished.
      pipeline(Readable.from(cellsOf(pages, columns, exporting)), lines, () => {});
      return { type: 'text/csv; charset=utf-8', ending: 'csv', body: lines };
    }
    case 'json':
      return { type: 'application/json; charset=utf-8', ending: 'json', body: Readable.from(jsonOf(pages, columns)) };
    case 'xlsx':
      return {
        type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
        ending: 'xlsx',
        body: await sheetOf(pages, columns, exporting),
      };
    default:
      return query.format satisfies never;
  }
}

const HEADINGS: Readonly<Record<string, string>> = Object.fromEntries(
  REGISTER_FACTS.map((fact) => [`record.${fact}`, SERVER_EN.registerFacts[fact]]),
);

function columnsOf({ register }: Opened, asked: string, { zone }: { readonly zone: string }): readonly Column[] {
  const ids = asked === '' ? [...Object.keys(HEADINGS), ...register.definition.fields.map(({ key }) => key)] : asked.split(',');
  return ids.map((id): Column => {
    const heading = HEADINGS[id];
    if (heading !== undefined) return { id, heading, field: null, read: (entry) => factOf(entry, id) };
    const field = findField(register.definition, id);
    if (!field) throw noColumn('query.columns', id);
    const context = { zone, findRecord: () => null };
    return {
      id,
      heading: field.name,
      field,
      read: ({ values }) => {
        const read = readFieldValue(field, values[field.key] as never, context);
        return read.ok ? read.value : null;
      },
    };
  });
}

function factOf({ record, submitter }: RegisterEntry, id: string): Value {
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
      return record.createdAt;
    case 'record.arrivedAt':
      return record.arrivedAt;
    default:
      return record.due;
  }
}

/** The rest of the pages is read while the first are sent. */
async function* pagesOf(
  { service, opened }: Exporting,
  query: QueryOf<'exportRegister'>,
  actor: Actor,
  fields: readonly Field[],
  first: Rows,
  most: number,
): AsyncGenerator<ReadRows> {
  let page = first;
  for (let count = 0; ; ) {
    const rows = page.rows.slice(0, most - count);
    yield await service.read(opened, rows, actor, fields);
    count += rows.length;
    if (page.next === null || count >= most) return;
    page = await service.rows(opened, query, page.next, BATCH);
  }
}

const styleWith = ({ style }: Exporting, names: Readonly<Record<string, string>>): Style => ({
  ...style,
  nameOf: (id) => names[id] ?? null,
});

async function* cellsOf(
  pages: AsyncIterable<ReadRows>,
  columns: readonly Column[],
  exporting: Exporting,
): AsyncGenerator<readonly string[]> {
  for await (const { entries, names } of pages) {
    const style = styleWith(exporting, names);
    for (const entry of entries) yield columns.map(({ read, field }) => writeCell(read(entry), field, style));
  }
}

async function* jsonOf(pages: AsyncIterable<ReadRows>, columns: readonly Column[]): AsyncGenerator<string> {
  let before = '[\n';
  for await (const { entries } of pages) {
    for (const entry of entries) {
      const object = columns.map(
        ({ id, field, read }) => [id, field ? fieldToOutside(field, read(entry)) : toOutsideJson(read(entry))] as const,
      );
      yield `${before}${writeOutsideJson({ object })}`;
      before = ',\n';
    }
  }
  yield before === '[\n' ? '[]\n' : '\n]\n';
}

/** A workbook: numbers within what a sheet keeps exactly are numbers, days are days, all else is text. */
async function sheetOf(pages: AsyncIterable<ReadRows>, columns: readonly Column[], exporting: Exporting): Promise<Buffer> {
  const rows: (readonly SheetCell[])[] = [columns.map(({ heading }) => heading)];
  for await (const { entries, names } of pages) {
    const style = styleWith(exporting, names);
    for (const entry of entries) rows.push(columns.map(({ read, field }) => sheetCell(read(entry), field, style)));
  }
  return exporting.sheets.write('Register', rows);
}

const EXACT_DIGITS = 15;
const MAX_CELL = 32_000;

function sheetCell(value: Value, field: Field | null, style: Style): SheetCell {
  if (value === null) return null;
  if (typeof value === 'object' && 'kind' in value) {
    const text = writeCell(value, field, style);
    if (value.kind === 'number' && text.replace(/\D/g, '').length <= EXACT_DIGITS) return { number: Number(text) };
    if (value.kind === 'date') return { day: value.day * DAY_MS };
  }
  return formatValue(value, field, style).slice(0, MAX_CELL);
}
