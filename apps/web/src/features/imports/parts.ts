import { MAX_IMPORTED } from '@ypomet/contract/limits';
import type { ImportRow } from './rows.ts';

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
