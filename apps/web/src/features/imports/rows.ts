import { SERVER_EN } from '@ypomet/contract/messages/en';
import {
  type Field,
  isEnterable,
  type Json,
  plannedTreatment,
  type ReadStyle,
  type SubField,
  unquotedCell,
  type Workflow,
} from '@ypomet/core';
import { readCell } from '../forms/read-cell.ts';
import type { Sheet } from './sheet.ts';

/** A field that a column of a sheet can fill: of the record, or of the rows of a table. */
export type Target = {
  readonly path: string;
  readonly field: Field | SubField;
  readonly table: string | null;
  readonly name: string;
};

/** For each column of the sheet the path of its target; null for one that is left out. */
export type Mapping = readonly (string | null)[];

export type ImportRow = { readonly line: number; readonly values: Readonly<Record<string, Json>> };
export type Refused = { readonly line: number; readonly why: readonly string[] };
export type ReadRows = { readonly rows: readonly ImportRow[]; readonly refused: readonly Refused[] };

/** The fields that an intake can ask for and a sheet can fill; files and sign-offs are given by hand. */
export function targetsOf(definition: Workflow, stage: string): readonly Target[] {
  const isAsked = (path: string, section: string): boolean =>
    isEnterable(plannedTreatment(definition, path, stage)) ||
    definition.adjustments.some(
      (one) =>
        isEnterable(one.treatment) &&
        (one.stages.length === 0 || one.stages.includes(stage)) &&
        (one.fields.includes(path) || one.sections.includes(section)),
    );
  return definition.fields.flatMap((field): Target[] => {
    if (!isAsked(field.key, field.section)) return [];
    if (field.type !== 'table') return canHold(field) ? [{ path: field.key, field, table: null, name: field.name }] : [];
    return field.fields.flatMap((sub) => {
      const path = `${field.key}.${sub.key}`;
      if (!canHold(sub) || !isAsked(path, field.section)) return [];
      return [{ path, field: sub, table: field.key, name: `${field.name}: ${sub.name}` }];
    });
  });
}

const BY_HAND: ReadonlySet<string> = new Set(['file', 'sign-off', 'note', 'table']);
const canHold = (field: Field | SubField): boolean =>
  !BY_HAND.has(field.type) && !('expression' in field && field.expression !== undefined && field.expression !== null);

/** Whether a field's cells say what is meant by name, mail address or number: the server knows who and which. */
const isByName = ({ field }: Target): boolean => field.type === 'member' || field.type === 'reference';

/** The paths of a mapping in which rows have names instead of ids. */
export const pathsByName = (mapping: Mapping, targets: readonly Target[]): readonly string[] =>
  targets.flatMap((target) => (isByName(target) && mapping.includes(target.path) ? [target.path] : []));

/** Columns named like a field fill it: by its label, its short one or its key; each field once. */
export function guessMapping({ head }: Sheet, targets: readonly Target[]): Mapping {
  const taken = new Set<string>();
  const plain = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');
  return head.map((name) => {
    const wanted = plain(name);
    const found = targets.find(
      ({ path, field, name: whole }) =>
        wanted !== '' &&
        !taken.has(path) &&
        [field.name, field.short ?? '', field.key, whole, path].some((one) => plain(one) === wanted),
    );
    if (found) taken.add(found.path);
    return found?.path ?? null;
  });
}

/**
 * The records that a sheet's lines make. A line with nothing but cells of tables goes on the record above with one more row,
 * unless it has a number of its own in the column in which exports have the records' numbers. A record with a cell that means nothing in its field is refused whole, with its line and why.
 */
export function readRows({ head, lines }: Sheet, mapping: Mapping, targets: readonly Target[], style: ReadStyle): ReadRows {
  const byPath = new Map(targets.map((target) => [target.path, target]));
  const columns = mapping.flatMap((path, index) => {
    const target = path === null ? undefined : byPath.get(path);
    return target ? [{ target, index }] : [];
  });
  const numbers = head.findIndex((name, index) => name === SERVER_EN.registerFacts.number && mapping[index] === null);
  const records: { line: number; values: Record<string, Json>; why: string[] }[] = [];
  lines.forEach((cells, position) => {
    const line = position + FIRST_LINE;
    const given = columns.filter(({ index }) => (cells[index] ?? '').trim() !== '');
    if (given.length === 0) return;
    const last = records.at(-1);
    const isNumbered = numbers >= 0 && (cells[numbers] ?? '').trim() !== '';
    const isMore = last !== undefined && !isNumbered && given.every(({ target }) => target.table !== null);
    const record = isMore ? last : { line, values: {}, why: [] };
    if (!isMore) records.push(record);
    const rows = new Map<string, Record<string, Json>>();
    for (const { target, index } of given) {
      const text = unquotedCell(cells[index] ?? '');
      const read = isByName(target) ? { json: text.trim() } : readCell(text, target.field, style);
      if ('why' in read) record.why.push(`${target.name}: “${text.trim().slice(0, 40)}” is ${read.why}`);
      else if (target.table === null) record.values[target.field.key] = read.json;
      else rows.set(target.table, { ...rows.get(target.table), [target.field.key]: read.json });
    }
    for (const [table, values] of rows) {
      const before = (record.values[table] ?? []) as Json[];
      record.values[table] = [...before, { id: `l${line}`, values }];
    }
  });
  return {
    rows: records.flatMap(({ line, values, why }) => (why.length === 0 ? [{ line, values }] : [])),
    refused: records.flatMap(({ line, why }) => (why.length > 0 ? [{ line, why }] : [])),
  };
}

/** The first line under the one that names the columns, as the sheet counts. */
const FIRST_LINE = 2;
