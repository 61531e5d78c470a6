import { readOutput, readTests, showOutput, showTests } from './cell-text.ts';
import type { TableColumn } from './use-columns.ts';

/** The stored text of what was typed into a column. */
export const readCell = (typed: string, { at, column }: TableColumn): string | null => {
  if (at.side === 'notes') return typed.trim() === '' ? null : typed;
  return at.side === 'when' ? readTests(typed, column) : readOutput(typed, column);
};
/** A cell as people read it. */
export const showCell = (text: string | undefined, { at, column }: TableColumn): string => {
  if (at.side === 'notes') return text ?? '';
  return at.side === 'when' ? showTests(text, column) : showOutput(text, column);
};
