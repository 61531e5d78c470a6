import { linesOfSchema } from './read-schema.ts';

export const MAX_FILE_BYTES = 5_000_000;
/** Rows of a sheet that tell what its columns are. */
const MAX_ROWS = 200;

/** Why a file can't be read, in a sentence. */
export class UnfitFile extends Error {}

/** Cells as text with tabs between them, as they are pasted from a sheet; line breaks within a cell become spaces. */
const asPasted = (rows: readonly (readonly unknown[])[]): string =>
  rows
    .slice(0, MAX_ROWS + 1)
    .map((row) => row.map(asText).join('\t'))
    .join('\n');

function asText(cell: unknown): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) return cell.toISOString().replace(/T00:00:00\.000Z$/, '');
  return String(cell).replace(/[\t\r\n]+/g, ' ');
}

/**
 * Reads a CSV, an XLSX (its first sheet; formulas as they were worked out last) or a JSON Schema as text like that one pastes:
 * it is shown, and can be changed, before anything is made of it. Rejects with {@link UnfitFile}.
 */
export async function readOutlineFile(file: File): Promise<string> {
  if (file.size > MAX_FILE_BYTES)
    throw new UnfitFile('It is larger than 5 MB. A sheet with the header and a few rows is enough.');
  const name = file.name.toLowerCase();
  if (name.endsWith('.xlsx')) return asPasted(await readSheet(file));
  const text = await file.text();
  if (text.includes('\u0000')) throw new UnfitFile('It is no text. CSV, XLSX and JSON Schema files can be read.');
  if (!name.endsWith('.json') && !/^\s*\{/.test(text)) return text;
  const lines = linesOfSchema(parse(text));
  if (lines.length === 0) throw new UnfitFile('It has no properties. A JSON Schema of an object is needed.');
  return lines.join('\n');
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    if (error instanceof SyntaxError) throw new UnfitFile('It holds no JSON.');
    throw error;
  }
}

/** Sheets are read in a worker, which is loaded when one is chosen. */
function readSheet(file: File): Promise<readonly (readonly unknown[])[]> {
  const worker = new Worker(new URL('../../workers/sheet-worker.ts', import.meta.url), { type: 'module' });
  const unfit = new UnfitFile('It can’t be read as a sheet. Save it as XLSX or CSV again.');
  return new Promise<readonly (readonly unknown[])[]>((resolve, reject) => {
    worker.addEventListener('message', ({ data }: MessageEvent<{ rows: readonly (readonly unknown[])[] | null }>) =>
      data.rows ? resolve(data.rows) : reject(unfit),
    );
    worker.addEventListener('error', () => reject(unfit));
    worker.postMessage(file);
  }).finally(() => worker.terminate());
}
