import type { Written } from '@ypomet/core';
import { stringify } from 'csv-stringify/sync';

/** Makes the bytes of what the core says a file holds. */
export type Render = (written: Written) => Promise<Buffer>;

export const writtenType = ({ format }: Pick<Written, 'format'>): string =>
  ({ json: 'application/json', csv: 'text/csv; charset=utf-8', pdf: 'application/pdf' })[format];

export const writtenName = (written: Written): string =>
  written.format === 'pdf'
    ? `${written.title.replace(/[^\p{L}\p{N}._-]+/gu, '-').slice(0, 100)}.pdf`
    : `record.${written.format}`;

/** What parts cells where the comma is the decimal mark: texts that hold it are quoted, so that they stay one cell. */
export const PARTS_CELLS = /[;\t]/;

/** Lines of CSV as RFC 4180 has them. */
export const writeCsv = (rows: readonly (readonly string[])[]): string =>
  stringify(rows as string[][], { record_delimiter: '\r\n', quoted_match: PARTS_CELLS });

/** `pdf` makes a document in a thread of its own. */
export const makeRender =
  (pdf: (written: Extract<Written, { format: 'pdf' }>) => Promise<Buffer>): Render =>
  async (written) => {
    switch (written.format) {
      case 'json':
        return Buffer.from(`${written.text}\n`);
      case 'csv':
        return Buffer.from(writeCsv([written.head, written.row]));
      case 'pdf':
        return pdf(written);
      default:
        return written satisfies never;
    }
  };
