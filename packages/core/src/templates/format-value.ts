import { writeLocalDay } from '../local/days.ts';
import { numberFormat } from '../local/formats.ts';
import { writeLocalMoment } from '../local/moments.ts';
import { writeLocalAmount, writeLocalNumber } from '../local/numbers.ts';
import { writeLocalTime } from '../local/times.ts';
import type { Field, SubField } from '../model/field.ts';
import { DAY_MS, type DateTimeValue, inZone, wallClockOf, writeDate, writeTime } from '../values/temporal.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';

/** The language and zone in which values are written for people, and what members and other records are called. */
export type Style = {
  readonly locale: string;
  readonly zone: string;
  /** The name of a member, or the number of a record, by id; null where it isn't known. */
  readonly nameOf?: (id: string) => string | null;
};

/** What is known of where a value comes from: its field, for labels, units and places. */
export type FormatField = Field | SubField | null;

/** Yes and no by language, from memory: the platform's formats have no words for them. Other languages read English. */
const WORDS: Readonly<Record<string, readonly [yes: string, no: string]>> = {
  cs: ['ano', 'ne'],
  da: ['ja', 'nej'],
  de: ['ja', 'nein'],
  en: ['yes', 'no'],
  es: ['sí', 'no'],
  fi: ['kyllä', 'ei'],
  fr: ['oui', 'non'],
  hr: ['da', 'ne'],
  hu: ['igen', 'nem'],
  it: ['sì', 'no'],
  nb: ['ja', 'nei'],
  nl: ['ja', 'nee'],
  no: ['ja', 'nei'],
  pl: ['tak', 'nie'],
  pt: ['sim', 'não'],
  ro: ['da', 'nu'],
  sk: ['áno', 'nie'],
  sl: ['da', 'ne'],
  sv: ['ja', 'nej'],
  uk: ['так', 'ні'],
};

/** Yes or no in a locale's language. */
export const formatYesNo = (value: boolean, locale: string): string => {
  const [yes, no] = WORDS[(locale.split('-')[0] ?? '').toLowerCase()] ?? (WORDS.en as readonly [string, string]);
  return value ? yes : no;
};

/** A value as people read it: labels for codes, grouping and unit for numbers, the language's dates. Empty text for null. */
export function formatValue(value: Value, field: FormatField, style: Style): string {
  if (value === null) return '';
  if (typeof value === 'boolean') return formatYesNo(value, style.locale);
  if (typeof value === 'string') return field?.type === 'member' ? (style.nameOf?.(value) ?? value) : labelOf(value, field);
  if (isList(value)) return formatList(value, field, style);
  switch (value.kind) {
    case 'number': {
      const { locale } = style;
      if (field?.type === 'money') return writeLocalAmount(value, locale, field.currency, field.scale);
      const written = writeLocalNumber(value, locale, field?.type === 'number' ? field.scale : 0);
      return field?.type === 'number' && field.unit !== '' ? `${written} ${field.unit}` : written;
    }
    case 'date':
      return writeLocalDay(writeDate(value), style.locale);
    case 'time':
      return writeLocalTime(writeTime(value), style.locale);
    case 'date-time':
      return writeLocalMoment(field === null ? withoutLastSecond(value, style.zone) : value, style);
    case 'days-duration':
      return formatParts(value.ms, DAY_PARTS, style);
    case 'months-duration':
      return formatParts(value.months, MONTH_PARTS, style);
    case 'range':
      return `${formatValue(value.low, field, style)} – ${formatValue(value.high, field, style)}`;
    case 'context':
      return formatContext(value, field, style);
    default:
      return value satisfies never;
  }
}

/** Due dates that are days end with their last second (23:59:59), which texts tell to the minute. */
const withoutLastSecond = (value: DateTimeValue, zone: string): DateTimeValue =>
  wallClockOf(inZone(value, zone)).ms === DAY_MS - 1000 ? { ...value, ms: value.ms - 59_000 } : value;

const DAY_PARTS = [
  ['day', 86_400_000],
  ['hour', 3_600_000],
  ['minute', 60_000],
  ['second', 1000],
] as const;
const MONTH_PARTS = [
  ['year', 12],
  ['month', 1],
] as const;

/** A duration in the language's units, those that are none left out: "2 days 4 hours". */
function formatParts(amount: number, parts: readonly (readonly [unit: string, size: number])[], { locale }: Style): string {
  let rest = Math.abs(amount);
  const written = parts.flatMap(([unit, size], index) => {
    const isLast = index === parts.length - 1;
    const count = isLast ? rest / size : Math.floor(rest / size);
    rest -= count * size;
    if (count === 0 && !(isLast && amount === 0)) return [];
    return [numberFormat(locale, { style: 'unit', unit, unitDisplay: 'long' }).format(count)];
  });
  return `${amount < 0 ? '−' : ''}${written.join(' ')}`;
}

const labelOf = (code: string, field: FormatField): string =>
  field?.type === 'choice' || field?.type === 'multi-choice'
    ? (field.options.find((option) => option.code === code)?.label ?? code)
    : code;

function formatList(list: readonly Value[], field: FormatField, style: Style): string {
  if (field?.type === 'table') return list.map((row) => formatRow(row as ContextValue, field, style)).join('\n');
  return list
    .map((item) => formatValue(item, field, style))
    .filter((text) => text !== '')
    .join(', ');
}

const formatRow = (row: ContextValue, table: Extract<Field, { type: 'table' }>, style: Style): string =>
  table.fields
    .map((own) => formatValue(row.entries[own.key] ?? null, own, style))
    .filter((text) => text !== '')
    .join(' · ');

function formatContext(value: ContextValue, field: FormatField, style: Style): string {
  if (field?.type === 'sign-off')
    return `${formatValue(value.entries.name ?? null, null, style)}, ${formatValue(value.entries.at ?? null, null, style)}`;
  if (field?.type === 'reference') return (value.id === null ? null : style.nameOf?.(value.id)) ?? value.id ?? '';
  if (field?.type === 'file' || typeof value.entries.name === 'string') return value.entries.name as string;
  return value.id ?? '';
}
