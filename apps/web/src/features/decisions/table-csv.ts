import type { DecisionRule, DecisionTable } from '@ypomet/core';
import Papa from 'papaparse';
import { faultsOfCell } from './cell-text.ts';
import { readCell, showCell } from './cells.ts';
import { textOfCell } from './table-edits.ts';
import type { TableColumn } from './use-columns.ts';

/** The table's rules as a CSV file (RFC 4180): a header of its columns' names, cells as they are shown. */
export const writeTableCsv = (table: DecisionTable, columns: readonly TableColumn[]): string =>
  Papa.unparse(
    [
      columns.map(({ name }) => name),
      ...table.rules.map((rule) => columns.map((own) => showCell(textOfCell(rule, own.at), own))),
    ],
    { newline: '\r\n' },
  );

export type ReadTable = {
  readonly rules: readonly DecisionRule[];
  /** Columns of the file that the table hasn't, and of the table that the file hasn't. */
  readonly unknown: readonly string[];
  readonly missing: readonly string[];
  /** Cells that mean nothing in their column, as the file has them; they are left empty. */
  readonly refused: readonly { readonly line: number; readonly column: string; readonly text: string }[];
};

const MAX_RULES = 5000;

/** Reads rules from a CSV whose header names the table's columns, in whatever order. Null where it names none of them. */
export function readTableCsv(text: string, columns: readonly TableColumn[]): ReadTable | null {
  const [header = [], ...lines] = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: 'greedy' }).data;
  const named = header.map((name) => columns.find((own) => own.name.trim().toLowerCase() === name.trim().toLowerCase()) ?? null);
  if (named.every((own) => own === null)) return null;
  const refused: { readonly line: number; readonly column: string; readonly text: string }[] = [];
  const rules = lines.slice(0, MAX_RULES).map((line, index): DecisionRule => {
    const rule = { key: `rule${index + 1}`, when: {} as Record<string, string>, then: {} as Record<string, string>, notes: '' };
    line.forEach((typed, at) => {
      const own = named[at];
      const stored = own ? readCell(typed, own) : null;
      if (!own || stored === null) return;
      if (own.at.side === 'notes') rule.notes = stored;
      else if (faultsOfCell(stored, own.at.side, own.expression, own.column).length > 0)
        refused.push({ line: index + 2, column: own.name, text: typed });
      else rule[own.at.side][own.at.key] = stored;
    });
    return rule;
  });
  return {
    rules,
    unknown: header.filter((name, index) => named[index] === null && name.trim() !== ''),
    missing: columns.filter((own) => own.at.side !== 'notes' && !named.includes(own)).map(({ name }) => name),
    refused,
  };
}
