import type { Json } from '../shared/json.ts';
import { writeExact } from './exact.ts';
import { writeDate, writeDuration, writeInstant, writeTime } from './temporal.ts';
import { isList, type Value } from './value.ts';

/** A number of JSON (RFC 8259, section 6) with all its digits, which a double might not hold. */
export type JsonNumber = { readonly number: string };
/** JSON for others: numbers are numbers. */
export type OutsideJson =
  | null
  | boolean
  | string
  | JsonNumber
  | readonly OutsideJson[]
  | { readonly object: readonly (readonly [name: string, value: OutsideJson])[] };

/** A value as other programs read it: numbers as numbers, days and instants by ISO 8601, rows as objects, codes as they are. */
export function toOutsideJson(value: Value): OutsideJson {
  if (value === null || typeof value === 'boolean' || typeof value === 'string') return value;
  if (isList(value)) return value.map(toOutsideJson);
  switch (value.kind) {
    case 'number':
      return { number: writeExact(value) };
    case 'date':
      return writeDate(value);
    case 'time':
      return writeTime(value);
    case 'date-time':
      return writeInstant(value.ms);
    case 'days-duration':
    case 'months-duration':
      return writeDuration(value);
    case 'range':
      return null;
    case 'context':
      return { object: Object.entries(value.entries).map(([name, own]) => [name, toOutsideJson(own)] as const) };
    default:
      return value satisfies never;
  }
}

/** JSON text in which every number has the digits it had. */
export function writeOutsideJson(json: OutsideJson): string {
  if (json === null || typeof json !== 'object') return JSON.stringify(json);
  if (Array.isArray(json)) return `[${(json as readonly OutsideJson[]).map(writeOutsideJson).join(',')}]`;
  if ('number' in json) return json.number;
  const { object } = json as { readonly object: readonly (readonly [string, OutsideJson])[] };
  return `{${object.map(([name, value]) => `${JSON.stringify(name)}:${writeOutsideJson(value)}`).join(',')}}`;
}

/** A form's value: text as it is, everything else as its JSON; nothing for null. */
export const writeFormValue = (json: OutsideJson): string =>
  json === null ? '' : typeof json === 'string' ? json : writeOutsideJson(json);

/** Puts values under names with points in them: `a.b` is `b` within `a`. The first of two that exclude each other stays. */
export function nestProperties(properties: readonly (readonly [name: string, value: OutsideJson])[]): OutsideJson {
  type Node = Map<string, Node | { readonly leaf: OutsideJson }>;
  const root: Node = new Map();
  for (const [name, value] of properties) {
    const steps = name.split('.');
    let at = root;
    steps.forEach((step, index) => {
      const own = at.get(step);
      if (index === steps.length - 1) {
        if (!own) at.set(step, { leaf: value });
      } else if (own instanceof Map) at = own;
      else {
        const inner: Node = new Map();
        if (!own) at.set(step, inner);
        at = inner;
      }
    });
  }
  const write = (node: Node): OutsideJson => ({
    object: [...node].map(([name, own]) => [name, own instanceof Map ? write(own) : own.leaf] as const),
  });
  return write(root);
}

/** What a name with points leads to in JSON; undefined where it leads nowhere. Places of lists are counted from 0. */
export function findProperty(json: Json, name: string): Json | undefined {
  let at: Json = json;
  for (const step of name.split('.')) {
    if (at === null || typeof at !== 'object') return undefined;
    const next: Json | undefined = Array.isArray(at)
      ? (at as readonly Json[])[/^\d{1,6}$/.test(step) ? Number(step) : -1]
      : Object.hasOwn(at, step)
        ? (at as Readonly<Record<string, Json>>)[step]
        : undefined;
    if (next === undefined) return undefined;
    at = next;
  }
  return at;
}
