import { readLocalDay, writeLocalDay } from '../local/days.ts';
import { readLocalMoment, writeLocalMoment } from '../local/moments.ts';
import { readLocalNumber, writeLocalNumber } from '../local/numbers.ts';
import { mapReading, NOTHING, type Reading, reads, unread } from '../local/reading.ts';
import { readLocalTime, writeLocalTime } from '../local/times.ts';
import type { Field, SubField } from '../model/field.ts';
import type { Json } from '../shared/json.ts';
import { readExact, writeExact } from '../values/exact.ts';
import { readDateTime } from '../values/temporal.ts';
import { formatYesNo } from './format-value.ts';

/**
 * Where and when a text is read: the locale (BCP 47) and time zone of whoever wrote it, the present day there (ISO 8601), and
 * their decimal mark where it isn't the locale's.
 */
export type ReadStyle = {
  readonly locale: string;
  readonly zone: string;
  readonly today: string;
  readonly decimal?: string | undefined;
};

type AnyField = Field | SubField;
type Options = Extract<AnyField, { type: 'choice' | 'multi-choice' }>;

/**
 * Reads a text as a value of a field, as JSON: the counterpart of `formatValue`. Whatever people write in inputs, cells and
 * sheets is read here and nowhere else. Members, records, files and sign-offs are chosen by hand (`by-hand`).
 * `readValue('€1,250.50', insuredValue, style)` reads "1250.5".
 */
export function readValue(text: string, field: AnyField, style: ReadStyle): Reading<Json> {
  const written = text.trim();
  if (written === '') return NOTHING;
  switch (field.type) {
    case 'text':
      return reads(written.replace(/\s*\n\s*/g, ' '));
    case 'long-text':
      return reads(written);
    case 'number':
    case 'money':
      return mapReading(
        readLocalNumber(written, {
          locale: style.locale,
          decimal: style.decimal,
          places: field.scale,
          ...(field.type === 'money' ? { currency: field.currency } : { unit: field.unit }),
        }),
        writeExact,
      );
    case 'date':
      return readLocalDay(written, style);
    case 'time':
      return readLocalTime(written, style.locale);
    case 'date-time':
      return readLocalMoment(written, style);
    case 'yes-no': {
      const isNamed = (answer: boolean, words: readonly string[]): boolean =>
        [...words, formatYesNo(answer, style.locale)].includes(written.toLowerCase());
      if (isNamed(true, ['yes', 'true', 'x', '1'])) return reads(true);
      return isNamed(false, ['no', 'false', '0']) ? reads(false) : unread('yes-no');
    }
    case 'choice': {
      const code = codeOf(written, field);
      return code === undefined ? unread('option') : reads(code);
    }
    case 'multi-choice': {
      const codes = codesOf(written, field);
      if (codes === undefined) return unread('options');
      return codes.length === 0 ? NOTHING : reads(codes);
    }
    case 'member':
    case 'reference':
    case 'file':
    case 'sign-off':
    case 'table':
    case 'note':
      return unread('by-hand');
    default:
      return field satisfies never;
  }
}

/** Types whose values are typed as text that must be read. */
export type TypedField = Extract<AnyField, { type: 'number' | 'money' | 'date' | 'time' | 'date-time' }>;

export const isTypedField = (field: AnyField): field is TypedField =>
  field.type === 'number' ||
  field.type === 'money' ||
  field.type === 'date' ||
  field.type === 'time' ||
  field.type === 'date-time';

/**
 * A value of a field as an input shows it, which is what `readValue` reads: as `formatValue` writes it, without the currency
 * or unit that stands beside the input. A text that is no value of the field stays as it is.
 */
export function writeTypedValue(json: string, field: TypedField, { locale, zone }: Pick<ReadStyle, 'locale' | 'zone'>): string {
  switch (field.type) {
    case 'number':
    case 'money': {
      const number = readExact(json);
      return number === null ? json : writeLocalNumber(number, locale, field.scale);
    }
    case 'date':
      return writeLocalDay(json, locale);
    case 'time':
      return writeLocalTime(json, locale);
    case 'date-time': {
      const moment = readDateTime(json, zone);
      return moment === null ? json : writeLocalMoment(moment, { locale, zone });
    }
    default:
      return field satisfies never;
  }
}

/** An option by its label, as people read it, or by its code. */
function codeOf(written: string, { options }: Options): string | undefined {
  const open = options.filter(({ retired }) => !retired);
  const same = written.toLowerCase();
  return (open.find(({ label }) => label.toLowerCase() === same) ?? open.find(({ code }) => code === written))?.code;
}

/** How many parts of a list, with the marks between, one label can be. */
const MOST_TOGETHER = 21;

/** The options of a list that are parted by commas, semicolons or lines; a label may hold those itself. */
function codesOf(written: string, field: Options): string[] | undefined {
  const parts = written.split(/([;,\n])/);
  const codes: string[] = [];
  for (let at = 0; at < parts.length; ) {
    // Find the longest run of parts that is one label. The separators are the parts at odd positions.
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
