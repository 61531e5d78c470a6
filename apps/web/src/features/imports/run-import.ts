import type { ImportedRow } from '@ypomet/contract';
import { MAX_IMPORTED } from '@ypomet/contract/limits';
import type { ImportRow } from './rows.ts';

export type Send = (rows: readonly ImportRow[], signal: AbortSignal) => Promise<readonly ImportedRow[]>;

/** Rows of one request come to no more than so many characters. */
const MAX_CHARACTERS = 1_000_000;

/** Rows in the parts in which they are sent. */
export function partsOf(rows: readonly ImportRow[]): readonly (readonly ImportRow[])[] {
  const parts: ImportRow[][] = [];
  let characters = 0;
  for (const row of rows) {
    const length = JSON.stringify(row).length;
    const part = parts.at(-1);
    if (!part || part.length >= MAX_IMPORTED || characters + length > MAX_CHARACTERS) {
      parts.push([row]);
      characters = length;
    } else {
      part.push(row);
      characters += length;
    }
  }
  return parts;
}

/** Sends rows part after part, telling of each; stops where one fails or it is cancelled, with what came before. */
export async function runImport(
  rows: readonly ImportRow[],
  send: Send,
  onPart: (told: readonly ImportedRow[]) => void,
  signal: AbortSignal,
): Promise<void> {
  for (const part of partsOf(rows)) {
    if (signal.aborted) return;
    onPart(await send(part, signal));
  }
}
