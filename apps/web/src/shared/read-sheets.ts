import type { Sheets } from '../workers/sheet-worker.ts';

/** Why a file can’t be read, in a sentence. */
export class UnfitFile extends Error {}

/** A cell of a sheet as text; a day without a time is written without one. */
export function cellText(cell: unknown): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) return cell.toISOString().replace(/T00:00:00\.000Z$/, '');
  return String(cell);
}

/** Sheets are read in a worker, which is loaded when one is chosen. */
export function readSheets(file: File): Promise<Sheets> {
  const worker = new Worker(new URL('../workers/sheet-worker.ts', import.meta.url), { type: 'module' });
  const unfit = new UnfitFile('It can’t be read as a sheet. Save it as XLSX or CSV again.');
  return new Promise<Sheets>((resolve, reject) => {
    worker.addEventListener('message', ({ data }: MessageEvent<{ sheets: Sheets | null }>) =>
      data.sheets ? resolve(data.sheets) : reject(unfit),
    );
    worker.addEventListener('error', () => reject(unfit));
    worker.postMessage(file);
  }).finally(() => worker.terminate());
}
