import { cellText, readSheets, UnfitFile } from '../../shared/read-sheets.ts';
import type { Sheets } from '../../workers/sheet-worker.ts';
import { linesOfSchema } from './read-schema.ts';

export const MAX_FILE_BYTES = 5_000_000;
/** Rows of a sheet that tell what its columns are. */
const MAX_ROWS = 200;

/** Cells as text with tabs between them, as they are pasted from a sheet; line breaks within a cell become spaces. */
const asPasted = (rows: readonly (readonly unknown[])[]): string =>
  rows
    .slice(0, MAX_ROWS + 1)
    .map((row) => row.map(asLine).join('\t'))
    .join('\n');

const asLine = (cell: unknown): string => cellText(cell).replace(/[\t\r\n]+/g, ' ');

/** What a file holds, as text like that one pastes: one for each sheet with something in it, with its name. */
export type OutlineTexts = readonly [OutlineText, ...OutlineText[]];
export type OutlineText = { readonly sheet: string; readonly text: string };

/**
 * Reads a CSV, an XLSX (formulas as they were worked out last) or a JSON Schema as text like that one pastes: it is shown, and can be
 * changed, before anything is made of it. Rejects with {@link UnfitFile}.
 */
export async function readOutlineFile(file: File): Promise<OutlineTexts> {
  if (file.size > MAX_FILE_BYTES)
    throw new UnfitFile('It is larger than 5 MB. A sheet with the header and a few rows is enough.');
  const name = file.name.toLowerCase();
  if (name.endsWith('.xlsx')) return filledSheets(await readSheets(file));
  const text = await file.text();
  if (text.includes('\u0000')) throw new UnfitFile('It is no text. CSV, XLSX and JSON Schema files can be read.');
  if (!name.endsWith('.json') && !/^\s*\{/.test(text)) return [{ sheet: '', text }];
  const lines = linesOfSchema(parse(text));
  if (lines.length === 0) throw new UnfitFile('It has no properties. A JSON Schema of an object is needed.');
  return [{ sheet: '', text: lines.join('\n') }];
}

/** The sheets in which there is something; an empty file is one empty sheet. */
export function filledSheets(sheets: Sheets): OutlineTexts {
  const [first = { sheet: '', text: '' }, ...more] = sheets
    .map(({ sheet, data }) => ({ sheet, text: asPasted(data) }))
    .filter(({ text }) => text.trim() !== '');
  return [first, ...more];
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    if (error instanceof SyntaxError) throw new UnfitFile('It holds no JSON.');
    throw error;
  }
}
