import type { Field, Json, SubField } from '@ypomet/core';
import { writeExact } from '@ypomet/core';
import { readLocalClock, readLocalDay, readLocalTime } from '../../shared/local-dates.ts';
import { readLocalNumber } from '../../shared/local-numbers.ts';

export type RowJson = { readonly id: string; readonly values: Readonly<Record<string, Json>> };

/** At most so many rows come in at once: each has inputs of its own. */
export const MAX_PASTED = 500;
const MAX_TOLD = 4;

type Read = { readonly json: Json } | { readonly why: string };
const asIs = (json: Json): Read => ({ json });
const found = (json: Json | undefined, why: string): Read => (json === null || json === undefined ? { why } : { json });

/** A cell as people and spreadsheets of a locale write it, as JSON of its field; or why it can't be taken. Empty is null. */
export function readPastedCell(text: string, field: Field | SubField, locale: string): Read {
  const written = text.trim();
  if (written === '') return asIs(null);
  switch (field.type) {
    case 'text':
      return asIs(written.replace(/\s*\n\s*/g, ' '));
    case 'long-text':
      return asIs(written);
    case 'number':
    case 'money': {
      const number = readLocalNumber(withoutUnit(written, field, locale), locale);
      const json = number && writeExact(number);
      if (json === null) return { why: 'not a number' };
      return (json.split('.')[1]?.length ?? 0) > field.scale ? { why: `more than ${field.scale} decimal places` } : asIs(json);
    }
    case 'yes-no':
      if (/^(yes|true|x|1)$/i.test(written)) return asIs(true);
      return /^(no|false|0)$/i.test(written) ? asIs(false) : { why: 'neither yes nor no' };
    case 'choice':
      return found(codeOf(written, field), 'none of the options');
    case 'multi-choice': {
      const codes = written.split(/[;,\n]/).flatMap((part) => (part.trim() === '' ? [] : [codeOf(part.trim(), field)]));
      return codes.includes(undefined) ? { why: 'not all of the options' } : asIs(codes as string[]);
    }
    case 'date':
      return found(readLocalDay(written, locale), 'not a day');
    case 'time':
      return found(readLocalTime(written), 'not a time');
    case 'date-time':
      return found(readLocalClock(written, locale), 'not a day with a time');
    case 'member':
    case 'reference':
    case 'file':
    case 'sign-off':
    case 'table':
    case 'note':
      return { why: 'to be chosen by hand' };
    default:
      return field satisfies never;
  }
}

/** An option by its label, as people read it, or by its code. */
function codeOf(
  written: string,
  { options }: Extract<Field | SubField, { type: 'choice' | 'multi-choice' }>,
): string | undefined {
  const open = options.filter(({ retired }) => !retired);
  const same = written.toLowerCase();
  return (open.find(({ label }) => label.toLowerCase() === same) ?? open.find(({ code }) => code === written))?.code;
}

/** A number without its field's own unit or currency, which spreadsheets write beside it. */
function withoutUnit(written: string, field: Extract<Field | SubField, { type: 'number' | 'money' }>, locale: string): string {
  const marks = field.type === 'money' ? [field.currency, symbolOf(field.currency, locale)] : [field.unit ?? ''];
  const mark = marks.find((one) => one !== '' && (written.startsWith(one) || written.endsWith(one)));
  if (mark === undefined) return written;
  return (written.startsWith(mark) ? written.slice(mark.length) : written.slice(0, -mark.length)).trim();
}

const symbolOf = (currency: string, locale: string): string =>
  new Intl.NumberFormat(locale, { style: 'currency', currency }).formatToParts(0).find(({ type }) => type === 'currency')
    ?.value ?? '';

export type PasteColumn = {
  readonly field: SubField;
  /** Whether somebody may enter it in a row; null for a row that isn't there yet. */
  readonly canEnter: (row: string | null) => boolean;
};

/** Rows with what was pasted in them, and what was left out, in sentences. */
export type Pasted = { readonly rows: readonly RowJson[]; readonly told: readonly string[] };

/**
 * Puts cells into rows from a place on, adding rows where they end. A first line that names the columns is no row. What means
 * nothing in its column is left out and told of; what was in that cell stays.
 */
export function pasteRows(
  lines: readonly (readonly string[])[],
  at: { readonly row: number; readonly column: number },
  rows: readonly RowJson[],
  columns: readonly PasteColumn[],
  { locale, makeRow }: { readonly locale: string; readonly makeRow: () => RowJson },
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
      const read: Read = column.canEnter(isNew ? null : row.id)
        ? readPastedCell(text, column.field, locale)
        : { why: 'not asked for here' };
      if ('json' in read) values[column.field.key] = read.json;
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
