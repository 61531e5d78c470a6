import { type Diagnostic, type DiagnosticCode, diagnostic } from '../shared/diagnostic.ts';
import { type Json, makeDictionary } from '../shared/json.ts';
import { type Term, term } from '../shared/terms.ts';
import { isWellFormed } from '../shared/well-formed.ts';
import {
  type Exact,
  exactInteger,
  findInteger,
  isRounded,
  PRECISION,
  placesOf,
  readExact,
  roundExact,
  writeExact,
  writeFixed,
} from '../values/exact.ts';
import {
  type DateTimeValue,
  inZone,
  readDate,
  readDateTime,
  readTime,
  writeDate,
  writeInstant,
  writeTime,
} from '../values/temporal.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { Field, SubField, TableField } from './field.ts';
import { isUnreadText } from './unread-text.ts';

/** Finds the values of a referenced record that may be read, by field key; null when there is none or it may not be seen. */
export type FindRecord = (workflow: string, id: string) => Readonly<Record<string, Value>> | null;

/** What reading a value needs from outside. */
export type ReadContext = { readonly zone: string; readonly findRecord: FindRecord };

const MAX_TEXT = 100_000;
const MAX_ROWS = 10_000;

class WrongValue extends Error {
  constructor(readonly diagnostic: Diagnostic) {
    super(diagnostic.code);
  }
}

const wrong = (path: string, expected: Term, code: DiagnosticCode = 'value/wrong-type'): WrongValue =>
  new WrongValue(diagnostic(code, path, { expected }));

/**
 * Reads a stored or sent JSON value of a field. Codes: `value/wrong-type`, `value/unread`, `value/too-long`,
 * `value/too-many-rows`, `value/unknown-field`.
 */
export function readFieldValue(
  field: Field | SubField,
  json: Json | undefined,
  context: ReadContext,
): { readonly ok: true; readonly value: Value } | { readonly ok: false; readonly diagnostic: Diagnostic } {
  try {
    return { ok: true, value: read(field, json, context, field.key, raise) };
  } catch (error) {
    if (error instanceof WrongValue) return { ok: false, diagnostic: error.diagnostic };
    throw error;
  }
}

/**
 * Reads a value that is still being entered. Whatever can't be read counts as empty and is named: a cell costs that cell
 * alone, the rest of its row and table stay.
 */
export function readFieldValueSoFar(
  field: Field | SubField,
  json: Json | undefined,
  context: ReadContext,
): { readonly value: Value; readonly unread: readonly Diagnostic[] } {
  const unread: Diagnostic[] = [];
  try {
    return { value: read(field, json, context, field.key, ({ diagnostic: found }) => unread.push(found)), unread };
  } catch (error) {
    if (error instanceof WrongValue) return { value: field.type === 'table' ? [] : null, unread: [error.diagnostic] };
    throw error;
  }
}

/** What is done about a cell of a row that can't be read: the whole value is refused, or the cell is named. */
type OnWrongCell = (wrongCell: WrongValue) => void;
const raise: OnWrongCell = (wrongCell) => {
  throw wrongCell;
};

function read(
  field: Field | SubField,
  json: Json | undefined,
  context: ReadContext,
  path: string,
  onWrongCell: OnWrongCell,
): Value {
  if (field.type === 'table') return readRows(field, json, context, path, onWrongCell);
  if (json === null || json === undefined || field.type === 'note') return null;
  if (isUnreadText(json)) throw wrong(path, EXPECTED[field.type] ?? term('value/text'), 'value/unread');
  switch (field.type) {
    case 'text':
    case 'long-text':
    case 'member':
      return readText(json, path);
    case 'number':
    case 'money':
      return readNumber(json, path);
    case 'yes-no':
      if (typeof json !== 'boolean') throw wrong(path, term('value/yes-no'));
      return json;
    case 'date':
      return readText(json, path) === null ? null : must(readDate(json as string), path, term('value/date'));
    case 'time':
      return readText(json, path) === null ? null : must(readTime(json as string), path, term('value/time'));
    case 'date-time':
      return readText(json, path) === null
        ? null
        : inZone(must(readDateTime(json as string, context.zone), path, term('value/date-time')), context.zone);
    case 'choice':
      return readText(json, path);
    case 'multi-choice':
      return readCodes(field, json, path);
    case 'file':
      return readFiles(json, path);
    case 'reference': {
      const id = readText(json, path);
      return id === null ? null : { kind: 'context', id, entries: context.findRecord(field.workflow, id) ?? {} };
    }
    case 'sign-off':
      return readSignOff(json, context.zone, path);
    default:
      return field satisfies never;
  }
}

/** What the types that are typed as text hold. */
const EXPECTED: Partial<Readonly<Record<Field['type'], Term>>> = {
  number: term('value/decimal'),
  money: term('value/decimal'),
  'yes-no': term('value/yes-no'),
  date: term('value/date'),
  time: term('value/time'),
  'date-time': term('value/date-time'),
};

function must<T>(value: T | null, path: string, expected: Term): T {
  if (value === null) throw wrong(path, expected);
  return value;
}

function readText(json: Json, path: string): string | null {
  if (typeof json !== 'string') throw wrong(path, term('value/text'));
  if (json.length > MAX_TEXT) throw wrong(path, term('value/characters', { limit: MAX_TEXT }), 'value/too-long');
  if (!isWellFormed(json)) throw wrong(path, term('value/whole-text'));
  return settleText(json);
}

const settleText = (text: string): string | null => {
  const settled = text.normalize('NFC').trim();
  return settled === '' ? null : settled;
};

/** Digits need no normal form, so numbers go without it. */
function readNumber(json: Json, path: string): Value {
  if (typeof json !== 'string') throw wrong(path, term('value/decimal'));
  if (json.length > MAX_TEXT) throw wrong(path, term('value/characters', { limit: MAX_TEXT }), 'value/too-long');
  const text = json.trim();
  if (text === '') return null;
  const value = must(readExact(text), path, term('value/decimal'));
  if (isRounded(text)) throw wrong(path, term('value/digits', { limit: PRECISION }), 'value/too-many-digits');
  return value;
}

function readCodes(field: MultiChoice, json: Json, path: string): Value {
  if (!isArray(json) || !json.every((code) => typeof code === 'string') || json.length > 2000)
    throw wrong(path, term('value/codes'));
  const codes = (json as readonly string[]).map((code) => readText(code, path)).filter((code) => code !== null);
  return orderCodes(field, codes);
}

type MultiChoice = Extract<Field | SubField, { type: 'multi-choice' }>;

/** Codes once each, in the order of the options; those that are no option's come last. */
function orderCodes(field: MultiChoice, codes: readonly string[]): Value {
  const given = new Set(codes);
  const known = field.options.map((option) => option.code).filter((code) => given.has(code));
  const unknown = [...given].filter((code) => !known.includes(code));
  return given.size === 0 ? null : [...known, ...unknown];
}

const isArray = (json: Json): json is readonly Json[] => Array.isArray(json);
const isObject = (json: Json | undefined): json is { readonly [key: string]: Json } =>
  json !== null && typeof json === 'object' && !Array.isArray(json);

function readFiles(json: Json, path: string): Value {
  if (!isArray(json) || json.length > 100) throw wrong(path, term('value/files'));
  if (json.length === 0) return null;
  return json.map((file) => {
    if (!isObject(file)) throw wrong(path, term('value/files'));
    const { name, mediaType, bytes, sha256 } = file;
    const isFile =
      typeof name === 'string' && typeof mediaType === 'string' && Number.isSafeInteger(bytes) && typeof sha256 === 'string';
    if (!isFile) throw wrong(path, term('value/file'));
    return { kind: 'context', id: null, entries: { name, mediaType, bytes: exactInteger(bytes as number), sha256 } };
  });
}

/** A sign-off as it is stored: who, when, and a hash of the values signed, whose fields it names. */
function readSignOff(json: Json, zone: string, path: string): Value {
  const { by, name = by, at, sha256, fields = [] } = isObject(json) ? json : {};
  const instant = typeof at === 'string' ? readDateTime(at, 'UTC') : null;
  const isSignOff = typeof by === 'string' && typeof name === 'string' && typeof sha256 === 'string';
  const isNamed = isArray(fields) && fields.length <= 1000 && fields.every((key) => typeof key === 'string');
  if (!isSignOff || !instant || !isNamed) throw wrong(path, term('value/sign-off'));
  return {
    kind: 'context',
    id: null,
    entries: { by, name, at: inZone(instant, zone), sha256, fields: fields as readonly string[] },
  };
}

function readRows(
  field: TableField,
  json: Json | undefined,
  context: ReadContext,
  path: string,
  onWrongCell: OnWrongCell,
): Value {
  if (json === null || json === undefined) return [];
  if (!isArray(json)) throw wrong(path, term('value/rows'));
  if (json.length > MAX_ROWS) throw wrong(path, term('value/row-count', { limit: MAX_ROWS }), 'value/too-many-rows');
  const ids = new Set<string>();
  return json.map((row): ContextValue => {
    if (!isObject(row) || typeof row.id !== 'string' || !/^[A-Za-z0-9_-]{1,64}$/.test(row.id) || !isObject(row.values))
      throw wrong(path, term('value/row'));
    if (ids.has(row.id)) throw wrong(`${path}[${row.id}]`, term('value/row-id'));
    ids.add(row.id);
    const { values } = row;
    const unknown = Object.keys(values).find((key) => !field.fields.some((own) => own.key === key));
    if (unknown !== undefined) throw wrong(`${path}[${row.id}].${unknown}`, term('value/sub-fields'), 'value/unknown-field');
    const entries = makeDictionary<Value>();
    for (const own of field.fields) {
      const cell = Object.hasOwn(values, own.key) ? values[own.key] : null;
      try {
        entries[own.key] = read(own, cell, context, `${path}[${row.id}].${own.key}`, onWrongCell);
      } catch (error) {
        if (!(error instanceof WrongValue)) throw error;
        entries[own.key] = null;
        onWrongCell(error);
      }
    }
    return { kind: 'context', id: row.id, entries };
  });
}

/** Writes a value as it is stored and sent. Numbers are padded to their field's scale, where the field is known. */
export function writeFieldValue(field: Field | SubField | null, value: Value): Json {
  if (value === null || typeof value === 'boolean' || typeof value === 'string') return value;
  if (isList(value)) {
    if (field?.type === 'table') return value.map((row) => writeRow(field, row as ContextValue));
    return value.map((item) => (field?.type === 'file' ? writeFile(item as ContextValue) : writeFieldValue(null, item)));
  }
  switch (value.kind) {
    case 'number': {
      const scale = field?.type === 'number' || field?.type === 'money' ? field.scale : 0;
      return placesOf(value) <= scale ? writeFixed(value, scale) : writeExact(value);
    }
    case 'date':
      return writeDate(value);
    case 'time':
      return writeTime(value);
    case 'date-time':
      return writeInstant(value.ms);
    case 'context':
      return field?.type === 'sign-off' ? writeSignOff(value) : value.id;
    case 'days-duration':
    case 'months-duration':
    case 'range':
      return null;
    default:
      return value satisfies never;
  }
}

const writeRow = (field: TableField, row: ContextValue): Json => ({
  id: row.id ?? '',
  values: Object.fromEntries(field.fields.map((own) => [own.key, writeFieldValue(own, row.entries[own.key] ?? null)])),
});

const writeFile = ({ entries }: ContextValue): Json => ({
  name: entries.name as string,
  mediaType: entries.mediaType as string,
  bytes: findInteger(entries.bytes as never) ?? 0,
  sha256: entries.sha256 as string,
});

const writeSignOff = ({ entries }: ContextValue): Json => ({
  by: entries.by as string,
  name: entries.name as string,
  at: writeInstant((entries.at as DateTimeValue).ms),
  sha256: entries.sha256 as string,
  fields: entries.fields as readonly string[],
});

/**
 * How a computed value is brought into the form in which its field keeps values: text trimmed and in NFC, empty text
 * null, codes in option order, instants in the workspace's zone. Null where every value of the type is in that form.
 */
export function settlerOf(field: Field | SubField): ((value: Value, zone: string) => Value) | null {
  switch (field.type) {
    case 'text':
    case 'long-text':
    case 'member':
    case 'choice':
      return (value) => (typeof value === 'string' && value.length <= MAX_TEXT ? settleText(value) : null);
    case 'multi-choice':
      return (value) =>
        isList(value)
          ? orderCodes(
              field,
              value.filter((code) => typeof code === 'string'),
            )
          : null;
    case 'date-time':
      return (value, zone) => (isDateTime(value) ? inZone(value, zone) : null);
    default:
      return null;
  }
}

const isDateTime = (value: Value): value is DateTimeValue =>
  value !== null && typeof value === 'object' && !isList(value) && value.kind === 'date-time';

/**
 * Reads a value that an expression gives a field, just as an entered one is read: what it yields is what the record will
 * hold. Numbers are rounded half even to the field's scale; rows get ids of their own where they have none.
 */
export const readGivenValue = (field: Field | SubField, value: Value, context: ReadContext): ReturnType<typeof readFieldValue> =>
  readFieldValue(field, writeFieldValue(field, fit(field, value)), context);

function fit(field: Field | SubField, value: Value): Value {
  if (field.type === 'table') return isList(value) ? fitRows(field, value) : [];
  const isNumber = value !== null && typeof value === 'object' && !isList(value) && value.kind === 'number';
  return isNumber && (field.type === 'number' || field.type === 'money')
    ? roundExact(value as Exact, field.scale, 'half-even')
    : value;
}

function fitRows(table: TableField, rows: readonly Value[]): Value {
  const taken = new Set<string>();
  return rows.flatMap((row): readonly ContextValue[] => {
    if (row === null || typeof row !== 'object' || isList(row) || row.kind !== 'context') return [];
    const entries = table.fields.map((own) => [own.key, fit(own, row.entries[own.key] ?? null)] as const);
    return [{ kind: 'context', id: freeId(row.id, taken), entries: Object.fromEntries(entries) }];
  });
}

/** A row's own id where no row before has it, else the first number that is free. */
function freeId(id: string | null, taken: Set<string>): string {
  let free = id ?? 'r1';
  for (let number = 1; taken.has(free); number++) free = `r${number}`;
  taken.add(free);
  return free;
}

/** No value, no rows, nothing chosen. */
export const isEmpty = (value: Value): boolean => value === null || (isList(value) && value.length === 0);
