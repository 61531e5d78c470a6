import { pipeline, Readable } from 'node:stream';
import type { QueryOf } from '@ypomet/contract';
import { type Actor, type Field, fieldToOutside, type Style, toOutsideJson, writeCell, writeOutsideJson } from '@ypomet/core';
import { stringify } from 'csv-stringify';
import { PARTS_CELLS } from '../../outlets/written.ts';
import type { SheetPool } from '../../workers/sheet-pool.ts';
import type { SheetCell } from '../../workers/sheet-worker.ts';
import { type Column, columnsOf, inLines, linesOf, sheetCell } from './export-columns.ts';
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
  const asked = columnsOf(exporting.opened, query.columns, exporting.style);
  const columns = query.tables === 'lines' && query.format !== 'json' ? asked.flatMap(inLines) : asked;
  // Before anything is sent: what can't be filtered or ordered like this is refused.
  const first = await exporting.service.rows(exporting.opened, query, undefined, BATCH);
  const fields = asked.flatMap(({ field }) => (field as Field | null) ?? []);
  const pages = pagesOf(exporting, query, actor, fields, first, query.format === 'xlsx' ? MAX_SHEET_ROWS : MAX_ROWS);
  switch (query.format) {
    case 'csv': {
      const lines = stringify({
        bom: true,
        record_delimiter: '\r\n',
        quoted_match: PARTS_CELLS,
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
    for (const entry of entries)
      for (const line of linesOf(entry, columns))
        yield line.map((value, index) => writeCell(value, columns[index]?.field ?? null, style));
  }
}

async function* jsonOf(pages: AsyncIterable<ReadRows>, columns: readonly Column[]): AsyncGenerator<string> {
  let before = '[\n';
  for await (const { entries } of pages) {
    for (const entry of entries) {
      const object = columns.map(
        ({ id, field, read }) =>
          [id, field ? fieldToOutside(field, read(entry)[0] ?? null) : toOutsideJson(read(entry)[0] ?? null)] as const,
      );
      yield `${before}${writeOutsideJson({ object })}`;
      before = ',\n';
    }
  }
  yield before === '[\n' ? '[]\n' : '\n]\n';
}

/** A workbook of the records; see `sheetCell` for what a value becomes in it. */
async function sheetOf(pages: AsyncIterable<ReadRows>, columns: readonly Column[], exporting: Exporting): Promise<Buffer> {
  const rows: (readonly SheetCell[])[] = [columns.map(({ heading }) => heading)];
  for await (const { entries, names } of pages) {
    const style = styleWith(exporting, names);
    for (const entry of entries)
      for (const line of linesOf(entry, columns))
        rows.push(line.map((value, index) => sheetCell(value, columns[index]?.field ?? null, style)));
  }
  return exporting.sheets.write('Register', rows);
}
