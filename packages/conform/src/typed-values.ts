import {
  isList,
  listOf,
  readDate,
  readDateTime,
  readDuration,
  readExact,
  readTime,
  TYPES,
  type Type,
  type Typing,
  typing,
  type Value,
  writeText,
} from '@ypomet/core';
import type { NameType, TypedValue } from './format.ts';

const SIMPLE: Readonly<Record<Extract<NameType, string>, Type>> = {
  number: TYPES.number,
  text: TYPES.text,
  boolean: TYPES.boolean,
  date: TYPES.date,
  time: TYPES.time,
  'date and time': TYPES.dateTime,
  'days and time duration': TYPES.daysDuration,
  'years and months duration': TYPES.monthsDuration,
};

/** A name's type as the core has it. */
export function readNameType(type: NameType): Typing {
  if (typeof type === 'string') return typing(SIMPLE[type], true);
  if ('choice' in type) return typing({ kind: 'choice', options: type.choice.map((code) => ({ code, label: code })) }, true);
  if ('list' in type) return typing(listOf(readNameType(type.list).type, true), true);
  const entries = Object.entries(type.row).map(([name, own]): [string, Typing] => [name, readNameType(own)]);
  return typing({ kind: 'context', entries: Object.fromEntries(entries) }, true);
}

/** A typed value as the core has it; throws with the value when a text is none of its type. */
export function readTypedValue(value: TypedValue, zone: string): Value {
  if (value === null || typeof value === 'boolean' || typeof value === 'string') return value;
  if (typeof value === 'number') return valid(readExact(String(value)), value);
  if (Array.isArray(value)) return value.map((item) => readTypedValue(item, zone));
  if ('row' in value) {
    const entries = Object.entries(value.row).map(([name, own]): [string, Value] => [name, readTypedValue(own, zone)]);
    return { kind: 'context', id: null, entries: Object.fromEntries(entries) };
  }
  if ('number' in value) return valid(readExact(value.number), value);
  if ('date' in value) return valid(readDate(value.date), value);
  if ('time' in value) return valid(readTime(value.time), value);
  if ('duration' in value) return valid(readDuration(value.duration), value);
  if ('date and time' in value) return valid(readDateTime(value['date and time'], zone), value);
  throw new Error(`no typed value: ${JSON.stringify(value)}`);
}

function valid(read: Value, given: unknown): Value {
  if (read === null) throw new Error(`no typed value: ${JSON.stringify(given)}`);
  return read;
}

/** A value with its type in words, so that 1 and "1" and two kinds of duration read differently. */
export function showTyped(value: Value): string {
  if (value === null || typeof value === 'boolean') return String(value);
  if (typeof value === 'string') return JSON.stringify(value);
  if (isList(value)) return `[${value.map(showTyped).join(', ')}]`;
  if (value.kind === 'number') return writeText(value) ?? '';
  if (value.kind === 'context') {
    const entries = Object.keys(value.entries).sort();
    return `{${entries.map((name) => `${name}: ${showTyped(value.entries[name] as Value)}`).join(', ')}}`;
  }
  return `${value.kind} ${writeText(value)}`;
}
