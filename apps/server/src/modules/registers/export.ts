import { pipeline, Readable } from 'node:stream';
import type { QueryOf } from '@ypomet/contract';
import { type Actor, type Field, fieldToOutside, quotedCell, type Style, toOutsideJson, writeOutsideJson } from '@ypomet/core';
import { stringify } from 'csv-stringify';
import { PARTS_CELLS } from '../../outlets/written.ts';
import { inTurns } from '../../turns-of-the-loop.ts';
import type { SheetPool } from '../../workers/sheet-pool.ts';
import type { SheetCell } from '../../workers/sheet-worker.ts';
import {
  type Column,
  cellText,
  columnsOf,
  columnsOfTable,
  headingOf,
  inLines,
  linesOf,
  sheetCell,
  withCurrency,
} from './export-columns.ts';
import type { Opened, ReadRows, RegisterService } from './service.ts';

/** Rows of one export; of a workbook, which is made in memory. */
const MAX_ROWS = 100_000;
const MAX_SHEET_ROWS = 20_000;
const BATCH = 500;
type Rows = Awaited<ReturnType<RegisterService['rows']>>;

type Exporting = {
  readonly service: RegisterService;
  readonly opened: Opened;
  readonly style: Omit<Style, 'nameOf'>;
  readonly sheets: SheetPool;
};

/** A register's records as filtered, as a stream of bytes. Refuses columns that the register doesn't show. */
export async function exportRegister(exporting: Exporting, query: QueryOf<'exportRegister'>, actor: Actor) {
  const asked =
    query.table === ''
      ? columnsOf(exporting.opened, query.columns, exporting.style)
      : columnsOfTable(exporting.opened, query.table, exporting.style);
  const inRows = query.tables === 'lines' && query.format !== 'json' ? asked.flatMap(inLines) : asked;
  const columns = query.currency === 'yes' ? inRows.flatMap(withCurrency) : inRows;
  // Before anything is sent: what can't be filtered or ordered like this is refused.
  const first = await exporting.service.rows(exporting.opened, query, actor, undefined, BATCH);
  const fields = exporting.opened.register.definition.fields.filter(({ key }) =>
    asked.some(({ id }) => id === key || id.startsWith(`${key}.`)),
  );
  const pages = pagesOf(exporting, query, actor, fields, first, query.format === 'xlsx' ? MAX_SHEET_ROWS : MAX_ROWS);
  switch (query.format) {
    case 'csv': {
      const lines = stringify({
        bom: query.mark === 'yes',
        record_delimiter: '\r\n',
        quoted_match: PARTS_CELLS,
        header: true,
        columns: columns.map((column) => quotedCell(headingOf(column, query))),
      });
      // What fails on the way ends the answer unfinished.
      pipeline(Readable.from(cellsOf(pages, columns, exporting, query)), lines, () => {});
      return { type: 'text/csv; charset=utf-8', ending: 'csv', body: lines };
    }
    case 'json':
      return { type: 'application/json; charset=utf-8', ending: 'json', body: Readable.from(jsonOf(pages, columns, query)) };
    case 'xlsx':
      return {
        type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
        ending: 'xlsx',
        body: await sheetOf(pages, columns, exporting, query),
      };
    default:
      return query.format satisfies never;
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
    page = await service.rows(opened, query, actor, page.next, BATCH);
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
  query: QueryOf<'exportRegister'>,
): AsyncGenerator<readonly string[]> {
  for await (const { entries, names } of pages) {
    const style = styleWith(exporting, names);
    for await (const entry of inTurns(entries))
      for (const line of linesOf(entry, columns, leastLines(query)))
        yield line.map((value, index) => cellText(value, columns[index]?.field ?? null, style, query));
  }
}

/** Lines of a record without rows: none where a table is exported on its own. */
const leastLines = ({ table }: QueryOf<'exportRegister'>): 0 | 1 => (table === '' ? 1 : 0);

async function* jsonOf(
  pages: AsyncIterable<ReadRows>,
  columns: readonly Column[],
  query: QueryOf<'exportRegister'>,
): AsyncGenerator<string> {
  let before = '[\n';
  for await (const { entries } of pages) {
    for await (const entry of inTurns(entries))
      for (const line of linesOf(entry, columns, leastLines(query))) {
        const object = columns.map(({ id, field }, index) => {
          const value = line[index] ?? null;
          return [id, field ? fieldToOutside(field, value) : toOutsideJson(value)] as const;
        });
        yield `${before}${writeOutsideJson({ object })}`;
        before = ',\n';
      }
  }
  yield before === '[\n' ? '[]\n' : '\n]\n';
}

/** A workbook of the records; see `sheetCell` for what a value becomes in it. */
async function sheetOf(
  pages: AsyncIterable<ReadRows>,
  columns: readonly Column[],
  exporting: Exporting,
  query: QueryOf<'exportRegister'>,
): Promise<Buffer> {
  const rows: (readonly SheetCell[])[] = [columns.map((column) => headingOf(column, query))];
  for await (const { entries, names } of pages) {
    const style = styleWith(exporting, names);
    for await (const entry of inTurns(entries))
      for (const line of linesOf(entry, columns, leastLines(query)))
        rows.push(line.map((value, index) => sheetCell(value, columns[index]?.field ?? null, style, query)));
  }
  return exporting.sheets.write('Register', rows);
}
