import Papa from 'papaparse';
import { cellText, readSheets, UnfitFile } from '../../shared/read-sheets.ts';

/** A sheet: a line that names its columns, and the lines under it, all as text. */
export type Sheet = { readonly name: string; readonly head: readonly string[]; readonly lines: readonly (readonly string[])[] };

export const MAX_IMPORT_BYTES = 20_000_000;
export const MAX_LINES = 100_000;

/** Reads a CSV or XLSX with a line that names the columns. Rejects with {@link UnfitFile}. */
export async function readImportFile(file: File): Promise<readonly Sheet[]> {
  if (file.size > MAX_IMPORT_BYTES) throw new UnfitFile('It is larger than 20 MB. Take it in parts.');
  if (file.name.toLowerCase().endsWith('.xlsx')) {
    const sheets = await readSheets(file);
    return filled(
      sheets.map(({ sheet, data }) =>
        toSheet(
          sheet,
          data.map((line) => line.map(cellText)),
        ),
      ),
    );
  }
  const text = await file.text();
  if (text.includes('\u0000')) throw new UnfitFile('It is no text. CSV and XLSX files can be read.');
  return filled([toSheet('', Papa.parse<string[]>(text.replace(/^\ufeff/, '').trimEnd()).data)]);
}

/** Lines are counted as the sheet counts them; those at the end with nothing in them are none. */
export function toSheet(name: string, [head = [], ...lines]: readonly (readonly string[])[]): Sheet {
  const isEmpty = (line: readonly string[]): boolean => line.every((cell) => cell.trim() === '');
  const last = lines.findLastIndex((line) => !isEmpty(line));
  return { name, head: head.map((cell) => cell.trim()), lines: lines.slice(0, last + 1) };
}

function filled(sheets: readonly Sheet[]): readonly Sheet[] {
  const some = sheets.filter(({ lines }) => lines.length > 0);
  if (some.length === 0) throw new UnfitFile('There are no lines under the one that names the columns.');
  if (some.some(({ lines }) => lines.length > MAX_LINES))
    throw new UnfitFile('It has more than 100,000 lines. Take it in parts.');
  return some;
}
