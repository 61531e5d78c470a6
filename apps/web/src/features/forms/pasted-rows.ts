import { isTypedField, type Json, makeUnreadText, type ReadStyle, type SubField } from '@ypomet/core';
import { type CellRead, readCell } from './read-cell.ts';

export type RowJson = { readonly id: string; readonly values: Readonly<Record<string, Json>> };

/** At most so many rows come in at once: each has inputs of its own. */
export const MAX_PASTED = 500;
const MAX_TOLD = 4;

export type PasteColumn = {
  readonly field: SubField;
  /** Whether somebody may enter it in a row; null for a row that isn't there yet. */
  readonly canEnter: (row: string | null) => boolean;
};

/** Rows with what was pasted in them, and what was left out, in sentences. */
export type Pasted = { readonly rows: readonly RowJson[]; readonly told: readonly string[] };

/**
 * Puts cells into rows from a place on, adding rows where they end. A first line that names the columns is no row. A text that is
 * no value of its column stays in its cell as it was pasted, for its input to say why. Where a column can't show a text, the
 * text is left out and told of, and what was in that cell stays.
 */
export function pasteRows(
  lines: readonly (readonly string[])[],
  at: { readonly row: number; readonly column: number },
  rows: readonly RowJson[],
  columns: readonly PasteColumn[],
  { style, makeRow }: { readonly style: ReadStyle; readonly makeRow: () => RowJson },
): Pasted {
  const [first = []] = lines;
  const under = columns.slice(at.column);
  const isHead =
    lines.length > 1 &&
    first.some((text) => text.trim() !== '') &&
    first.every((text, index) => isNameOf(text, under[index]?.field));
  const body = isHead ? lines.slice(1) : lines;
  const after = [...rows];
  const refused: string[] = [];
  body.slice(0, MAX_PASTED).forEach((line, down) => {
    const position = at.row + down;
    const isNew = position >= rows.length;
    const row = after[position] ?? makeRow();
    const values = { ...row.values };
    line.forEach((text, right) => {
      const column = under[right];
      if (!column || (isNew && text.trim() === '')) return;
      const read: CellRead = column.canEnter(isNew ? null : row.id)
        ? readCell(text, column.field, style)
        : { why: 'not asked for here' };
      if ('json' in read) values[column.field.key] = read.json;
      else if (isTypedField(column.field) && column.canEnter(isNew ? null : row.id))
        values[column.field.key] = makeUnreadText(text.trim());
      else if (text.trim() !== '')
        refused.push(`line ${down + 1 + (isHead ? 1 : 0)}, ${column.field.name}: “${text.trim().slice(0, 40)}”, ${read.why}`);
    });
    after[position] = { ...row, values };
  });
  const tooMany = body.reduce((most, line) => Math.max(most, line.length), 0) - under.length;
  const tooLong = body.length - MAX_PASTED;
  const more = refused.length - MAX_TOLD;
  return {
    rows: after,
    told: [
      ...(refused.length > 0
        ? [`Not taken: ${refused.slice(0, MAX_TOLD).join('; ')}${more > 0 ? `; and ${more} more` : ''}.`]
        : []),
      ...(tooMany > 0
        ? [`${tooMany === 1 ? 'One column' : `${tooMany} columns`} had no place and ${tooMany === 1 ? 'was' : 'were'} left out.`]
        : []),
      ...(tooLong > 0 ? [`At most ${MAX_PASTED} rows are taken at once; the last ${tooLong} were left out.`] : []),
    ],
  };
}

const isNameOf = (text: string, field: SubField | undefined): boolean => {
  const written = text.trim().toLowerCase();
  return (
    written === '' ||
    (field !== undefined && [field.name, field.short ?? '', field.key].some((name) => name.toLowerCase() === written))
  );
};
