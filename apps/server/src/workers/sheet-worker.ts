import writeSheet from 'write-excel-file/node';

/**
 * A cell as it is sent to the thread: a text, a number, a day or a moment of the workspace's clock as milliseconds since 1970,
 * or nothing. Headings are texts of the first row.
 */
export type SheetCell = string | null | { readonly number: number } | { readonly day: number } | { readonly moment: number };
/** Rows as JSON text: a thread takes text at once, and objects only slowly. */
export type SheetJob = { readonly name: string; readonly rows: string };

/** What XML can't hold, and what would be read as such a character: an underscore before `xHHHH_`. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are the characters that XML 1.0, section 2.2, leaves out
const ESCAPED = /[\u0000-\u0008\u000b-\u001f\ufffd-\uffff]|_(?=x[0-9A-Fa-f]{4}_)/g;

/** A text as cells hold it: characters that XML can't hold as `_xHHHH_` (ECMA-376, part 1, 22.9.2.19). */
export const escapeCell = (text: string): string =>
  text.replace(ESCAPED, (character) => `_x${character.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}_`);

const cellOf = (cell: SheetCell, isHeading: boolean): object | null => {
  if (cell === null) return null;
  // A cell of text is never a formula.
  if (typeof cell === 'string') return { value: escapeCell(cell), type: String, ...(isHeading ? { fontWeight: 'bold' } : {}) };
  if ('number' in cell) return { value: cell.number, type: Number };
  if ('moment' in cell) return { value: new Date(cell.moment), type: Date, format: 'yyyy-mm-dd hh:mm:ss' };
  return { value: new Date(cell.day), type: Date, format: 'yyyy-mm-dd' };
};

/** Writes a workbook of one sheet, its first row standing still while the others scroll. */
export default async function run({ name, rows }: SheetJob): Promise<Uint8Array> {
  const cells = (JSON.parse(rows) as readonly (readonly SheetCell[])[]).map((row, index) =>
    row.map((cell) => cellOf(cell, index === 0)),
  );
  return (await writeSheet(cells as never, { sheet: name, stickyRowsCount: 1 } as never).toBuffer()) as Uint8Array;
}
