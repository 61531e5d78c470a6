import { numberMarks } from '@ypomet/core';
import Papa from 'papaparse';
import { cellText, readSheets, UnfitFile } from '../../shared/read-sheets.ts';

/**
 * A sheet: a line that names its columns, and the lines under it, all as text. `decimal`: the mark before decimal places that
 * numbers in it show; null where none shows one. `isTyped`: its numbers were numbers, and are written with the workspace's mark.
 */
export type Sheet = {
  readonly name: string;
  readonly head: readonly string[];
  readonly lines: readonly (readonly string[])[];
  readonly decimal: Decimal | null;
  readonly isTyped: boolean;
};
export type Decimal = '.' | ',';

export const MAX_IMPORT_BYTES = 20_000_000;
export const MAX_LINES = 100_000;

/** Reads a CSV or XLSX with a line that names the columns, for a workspace of a locale. Rejects with {@link UnfitFile}. */
export async function readImportFile(file: File, locale: string, signal?: AbortSignal): Promise<readonly Sheet[]> {
  if (file.size > MAX_IMPORT_BYTES) throw new UnfitFile('It is larger than 20 MB. Take it in parts.');
  if (file.name.toLowerCase().endsWith('.xlsx')) {
    const sheets = await readSheets(file, signal);
    const { decimal } = numberMarks(locale);
    const texts = (data: readonly (readonly unknown[])[]) => data.map((line) => line.map((cell) => cellText(cell, decimal)));
    return filled(sheets.map(({ sheet, data }) => ({ ...toSheet(sheet, texts(data)), isTyped: true })));
  }
  const text = await file.text();
  if (text.includes('\u0000')) throw new UnfitFile('It is no text. CSV and XLSX files can be read.');
  return filled([toSheet('', Papa.parse<string[]>(text.replace(/^\ufeff/, '').trimEnd()).data)]);
}

/** Lines are counted as the sheet counts them; those at the end with nothing in them are none. */
export function toSheet(name: string, [head = [], ...lines]: readonly (readonly string[])[]): Sheet {
  const isEmpty = (line: readonly string[]): boolean => line.every((cell) => cell.trim() === '');
  const last = lines.findLastIndex((line) => !isEmpty(line));
  const kept = lines.slice(0, last + 1);
  return { name, head: head.map((cell) => cell.trim()), lines: kept, decimal: decimalOf(kept), isTyped: false };
}

/** Numbers that can be read in one way only: a mark twice parts groups, so does one before another; one without three figures doesn't. */
const SHOWING: readonly (readonly [RegExp, Decimal])[] = [
  [/^-?\d+\.\d+$/, '.'],
  [/^-?\d{1,3}(,\d{3})+\.\d+$/, '.'],
  [/^-?\d{1,3}(,\d{3}){2,}$/, '.'],
  [/^-?\d+,\d+$/, ','],
  [/^-?\d{1,3}(\.\d{3})+,\d+$/, ','],
  [/^-?\d{1,3}(\.\d{3}){2,}$/, ','],
];
const EITHER = /^-?[1-9]\d{0,2}[.,]\d{3}$/;

/** The decimal mark that a sheet's numbers show; null where they show none, or both. */
function decimalOf(lines: readonly (readonly string[])[]): Decimal | null {
  const shown = new Set<Decimal>();
  for (const line of lines)
    for (const cell of line) {
      const text = cell.replace(/[\s'’€$£]|[A-Z]{3}/g, '');
      if (!/[.,]/.test(text) || EITHER.test(text)) continue;
      const mark = SHOWING.find(([form]) => form.test(text))?.[1];
      if (mark) shown.add(mark);
    }
  const [mark = null] = shown;
  return shown.size === 1 ? mark : null;
}

function filled(sheets: readonly Sheet[]): readonly Sheet[] {
  const some = sheets.filter(({ lines }) => lines.length > 0);
  if (some.length === 0) throw new UnfitFile('There are no lines under the one that names the columns.');
  if (some.some(({ lines }) => lines.length > MAX_LINES))
    throw new UnfitFile('It has more than 100,000 lines. Take it in parts.');
  return some;
}
