import type { NumberCell, Sheets } from '../workers/sheet-worker.ts';
import { unpackedSize } from './unpacked-size.ts';

/** Why a file can’t be read, in a sentence. */
export class UnfitFile extends Error {}

/**
 * A cell of a sheet as text: a number with the decimal mark that is asked for, a day, a time of day, or a wall clock's
 * `2027-03-12T09:30`.
 */
export function cellText(cell: unknown, decimal = '.'): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) return clockText(cell);
  return isNumber(cell) ? plainNumber(cell.number).replace('.', decimal) : String(cell);
}

const isNumber = (cell: unknown): cell is NumberCell => typeof cell === 'object' && cell !== null && 'number' in cell;

/** Figures that a sheet keeps of a number (common practice: ECMA-376 keeps doubles, programs show 15 figures of them). */
const FIGURES = 15;

/** A number as a sheet shows it in full: files have 1.1 as 1.1000000000000001, and small ones with an exponent. */
function plainNumber(text: string): string {
  if (/^-?\d{1,15}$/.test(text)) return text;
  const number = Number(Number(text).toPrecision(FIGURES));
  if (!Number.isFinite(number)) return text;
  const short = String(number);
  return short.includes('e-') ? number.toFixed(20).replace(/0+$/, '') : short;
}

const DAY_MS = 86_400_000;
/** Sheets count days from here: what lies on the first of them is a time of day alone (ECMA-376-1, 18.17.4.1). */
const FIRST_DAY_MS = Date.UTC(1899, 11, 30);

function clockText(date: Date): string {
  // A fraction of a day in binary is off by less than a second.
  const ms = Math.round(date.getTime() / 1000) * 1000;
  const [day = '', time = ''] = new Date(ms).toISOString().slice(0, 19).replace(/:00$/, '').split('T');
  if (ms >= FIRST_DAY_MS && ms < FIRST_DAY_MS + DAY_MS) return time;
  return ms % DAY_MS === 0 ? day : `${day}T${time}`;
}

/** What a workbook may unpack to: a hundred thousand lines of thirty columns are about half of it. */
const MAX_UNPACKED_BYTES = 200_000_000;

/**
 * Reads the sheets of a workbook in a worker, which is loaded when one is chosen. Its unpacked size is looked at before
 * anything is unpacked. Rejects with {@link UnfitFile}, or with the signal's reason once that is aborted.
 */
export async function readSheets(file: File, signal?: AbortSignal): Promise<Sheets> {
  const size = await unpackedSize(file);
  if (size !== null && size > MAX_UNPACKED_BYTES)
    throw new UnfitFile(`It unpacks to ${Math.round(size / 1_000_000)} MB. Take its lines in parts, or save it as CSV.`);
  signal?.throwIfAborted();
  const worker = new Worker(new URL('../workers/sheet-worker.ts', import.meta.url), { type: 'module' });
  const unfit = new UnfitFile('It can’t be read as a sheet. Save it as XLSX or CSV again.');
  return new Promise<Sheets>((resolve, reject) => {
    worker.addEventListener('message', ({ data }: MessageEvent<{ sheets: Sheets | null }>) =>
      data.sheets ? resolve(data.sheets) : reject(unfit),
    );
    worker.addEventListener('error', () => reject(unfit));
    signal?.addEventListener('abort', () => reject(signal.reason));
    worker.postMessage(file);
  }).finally(() => worker.terminate());
}
