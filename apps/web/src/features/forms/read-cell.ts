import { type Field, formatYesNo, type Json, type SubField, writeExact } from '@ypomet/core';
import { readLocalClock, readLocalDay, readLocalTime } from '../../shared/local-dates.ts';
import { readLocalNumber } from '../../shared/local-numbers.ts';

export type CellRead = { readonly json: Json } | { readonly why: string };
const asIs = (json: Json): CellRead => ({ json });
const found = (json: Json | undefined, why: string): CellRead => (json === null || json === undefined ? { why } : { json });

/** How cells are written: in a locale, with its decimal mark or another. */
export type CellMarks = { readonly locale: string; readonly decimal?: string | undefined };

/**
 * A cell as people and spreadsheets of a locale write it, or as an export of ours does, as JSON of its field; or why it can't be
 * taken. Empty is null.
 */
export function readCell(text: string, field: Field | SubField, { locale, decimal }: CellMarks): CellRead {
  const written = text.trim();
  if (written === '') return asIs(null);
  switch (field.type) {
    case 'text':
      return asIs(written.replace(/\s*\n\s*/g, ' '));
    case 'long-text':
      return asIs(written);
    case 'number':
    case 'money': {
      const number = readLocalNumber(withoutUnit(written, field, locale), locale, decimal);
      const json = number && writeExact(number);
      if (json === null) return { why: 'not a number' };
      return (json.split('.')[1]?.length ?? 0) > field.scale ? { why: `more than ${field.scale} decimal places` } : asIs(json);
    }
    case 'yes-no':
      if (isOneOf(['yes', 'true', 'x', '1', formatYesNo(true, locale)], written)) return asIs(true);
      if (isOneOf(['no', 'false', '0', formatYesNo(false, locale)], written)) return asIs(false);
      return { why: 'neither yes nor no' };
    case 'choice':
      return found(codeOf(written, field), 'none of the options');
    case 'multi-choice':
      return found(codesOf(written, field), 'not all of the options');
    case 'date':
      return found(readLocalDay(written, locale), 'not a day');
    case 'time':
      return found(readLocalTime(written), 'not a time');
    case 'date-time':
      return INSTANT.test(written) ? asIs(written) : found(readLocalClock(written, locale), 'not a day with a time');
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

/** How many parts of a list, with the marks between, one label can be. */
const MOST_TOGETHER = 21;

/** The options of a list that are parted by commas, semicolons or lines; a label may hold those itself. */
function codesOf(written: string, field: Extract<Field | SubField, { type: 'multi-choice' }>): string[] | undefined {
  const parts = written.split(/([;,\n])/);
  const codes: string[] = [];
  for (let at = 0; at < parts.length; ) {
    // The most parts that are one label together; the marks stand at odd places.
    let end = Math.min(parts.length, at + MOST_TOGETHER);
    let code: string | undefined;
    for (; end > at && code === undefined; end -= 2) code = codeOf(parts.slice(at, end).join('').trim(), field);
    const isEmpty = code === undefined && (parts[at] ?? '').trim() === '';
    if (code === undefined && !isEmpty) return undefined;
    if (code !== undefined) codes.push(code);
    at = code === undefined ? at + 2 : end + 3;
  }
  return codes;
}

const isOneOf = (words: readonly string[], written: string): boolean => words.includes(written.toLowerCase());

/** An instant (RFC 3339), as exports of ours write it. */
const INSTANT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2}(\.\d{1,9})?)?(Z|[+-]\d{2}:\d{2})$/;

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
