import type { CompiledField } from '../forms/compiled-field.ts';
import { isReader } from '../forms/readers.ts';
import type { Field, SubField } from '../model/field.ts';
import { formatValue, type Style } from '../templates/format-value.ts';
import type { FieldEntry } from '../templates/rich-text.ts';
import { writeExact } from '../values/exact.ts';
import { writeDate, writeInstant, writeTime } from '../values/temporal.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import { type OutsideJson, toOutsideJson } from '../values/write-json.ts';
import type { Moment } from './moment.ts';
import { onlookAt } from './onlook.ts';
import { type Actor, makeOutside, type Outside, type Reader } from './record.ts';

/** A field of a record with the value that somebody is given of it; of a table the rows with the columns they are given. */
export type ShownValue = { readonly field: Field; readonly value: Value };

/** Stands for an outside address: it is shown what a submitter without an account would be. */
const ADDRESS = 'address';

function onlookerOf(reader: Reader | null, outside: Outside): Actor | null {
  const base = { id: '', name: '', email: null };
  if (reader === null) return { ...base, id: ADDRESS, roles: [] };
  if (reader.kind === 'role') return { ...base, roles: [reader.role] };
  if (reader.kind === 'roles') return { ...base, roles: reader.roles };
  const member = outside.findMember(reader.member);
  return member && { ...member, email: null };
}

/**
 * Every field shown to all of some readers (semantics 7): what each would see looking in on the record at this moment. Null
 * among them is an outside address. In the workflow's order; empty ones are left out.
 */
export function shownToAll(readers: readonly (Reader | null)[], moment: Moment): readonly ShownValue[] {
  const onlookers = readers.map((reader) => onlookerOf(reader, moment.outside));
  return shownTo(onlookers, moment);
}

/** The same for people who are known; null for one who isn't there, who is shown nothing. */
export function shownTo(onlookers: readonly (Actor | null)[], { workflow, record, outside }: Moment): readonly ShownValue[] {
  const { now, zone, locale, calendar, findMember } = outside;
  const views = onlookers.map((onlooker) => {
    const seen = onlooker?.id === ADDRESS ? { ...record, submittedBy: ADDRESS } : record;
    return onlooker && onlookAt(workflow, seen, onlooker, makeOutside({ now, zone, locale, calendar, findMember }));
  });
  if (views.length === 0 || views.includes(null)) return [];
  return workflow.forms.fields.flatMap(({ field }) => {
    const values = views.map((view) => view?.values.get(field.key));
    const [first] = values;
    if (first === undefined || values.includes(undefined)) return [];
    const value = field.type === 'table' ? sharedRows(values as readonly Value[]) : first;
    return isNothing(value) ? [] : [{ field, value }];
  });
}

/** Rows with the cells that all views have. */
function sharedRows([first, ...rest]: readonly Value[]): Value {
  const rows = isList(first ?? null) ? (first as readonly ContextValue[]) : [];
  return rows.map((row, index) => {
    const others = rest.map((view) => (view as readonly ContextValue[])[index]?.entries ?? {});
    const kept = Object.entries(row.entries).filter(([key]) => others.every((own) => Object.hasOwn(own, key)));
    return { ...row, entries: Object.fromEntries(kept) };
  });
}

const isNothing = (value: Value): boolean => value === null || (isList(value) && value.length === 0);

/** Every field that holders of some roles may read, treatments aside: for outlets, which look at no form. */
export function readableBy(roles: readonly string[], { workflow, frame }: Moment): readonly ShownValue[] {
  const { readers, fields } = workflow.forms;
  return fields.flatMap((of: CompiledField) => {
    const { field, slot, subFields } = of;
    if (field.type === 'note' || !isReader(readers.of(field.key), roles)) return [];
    const value = frame.slots[slot] ?? null;
    if (field.type !== 'table' || !isList(value)) return [{ field, value }];
    const open = subFields.filter((own) => isReader(readers.ofPart(field.key, own.field.key), roles));
    const rows = (value as readonly ContextValue[]).map((row) => ({
      ...row,
      entries: Object.fromEntries(open.map((own) => [own.field.key, row.entries[own.field.key] ?? null])),
    }));
    return [{ field, value: rows }];
  });
}

/** Shown values as names and texts. */
export const toEntries = (shown: readonly ShownValue[], style: Style): readonly FieldEntry[] =>
  shown.map(({ field, value }) => ({ name: field.name, text: formatValue(value, narrowed(field, value), style) }));

/** A table field with the columns that its rows have. */
function narrowed(field: Field, value: Value): Field {
  if (field.type !== 'table' || !isList(value)) return field;
  const seen = new Set((value as readonly ContextValue[]).flatMap((row) => Object.keys(row.entries)));
  return { ...field, fields: field.fields.filter(({ key }) => seen.has(key)) };
}

/** A field's value for other programs: members and records by their ids. */
export function fieldToOutside(field: Field | SubField, value: Value): OutsideJson {
  if (field.type === 'reference') return (value as ContextValue | null)?.id ?? null;
  if (field.type !== 'table' || !isList(value)) return toOutsideJson(value);
  return (value as readonly ContextValue[]).map((row) => ({
    object: field.fields
      .filter(({ key }) => Object.hasOwn(row.entries, key))
      .map((own) => [own.key, fieldToOutside(own, row.entries[own.key] ?? null)] as const),
  }));
}

/** What a spreadsheet would take for a formula (common practice: OWASP, CSV injection), also by signs of full width. */
const FORMULA = /^[=+\-@\t\r\n＝＋－＠]/;
const isFormula = (text: string): boolean => FORMULA.test(text);

/** A cell without the quote that keeps its text from being a formula, as {@link writeCell} writes it. */
export const unquotedCell = (text: string): string => (text.startsWith("'") && isFormula(text.slice(1)) ? text.slice(1) : text);

/** A value as the cell of a sheet: numbers and days as sheets read them, labels for codes; text that looks like a formula is quoted. */
export function writeCell(value: Value, field: Field | SubField | null, style: Style): string {
  if (value !== null && typeof value === 'object' && !isList(value)) {
    if (value.kind === 'number') return writeExact(value);
    if (value.kind === 'date') return writeDate(value);
    if (value.kind === 'time') return writeTime(value);
    if (value.kind === 'date-time') return writeInstant(value.ms);
  }
  return quotedCell(formatValue(value, field, style));
}

/** A text as a cell: one that a sheet would take for a formula is quoted. */
export const quotedCell = (text: string): string => (isFormula(text) ? `'${text}` : text);
