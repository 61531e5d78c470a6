import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import type { CompiledField } from '../forms/compiled-field.ts';
import type { CompiledForms } from '../forms/compiled-forms.ts';
import { decidedOf, effectiveValueOf, type Form } from '../forms/evaluate-form.ts';
import { readFieldValue, writeFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { type DateTimeValue, makeDateTime } from '../values/temporal.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import { mayRead } from './permissions.ts';
import type { Actor, Outside, WorkflowRecord } from './record.ts';

/** What a participant sends to sign: who, when and what is signed is then set down by whoever decides. */
export const isSignRequest = (json: Json): boolean =>
  json !== null && typeof json === 'object' && !Array.isArray(json) && (json as { readonly sign?: Json }).sign === true;

/** A sign-off by an actor, now, whose values are not set down yet. */
export const beginSignOff = (actor: Actor, outside: Pick<Outside, 'now' | 'zone'>): ContextValue => ({
  kind: 'context',
  id: null,
  entries: { by: actor.id, name: actor.name, at: makeDateTime(outside.now, outside.zone), sha256: '', fields: [] },
});

/** The sign-off over what the signer sees of a form: every shown value that is neither computed nor a sign-off. */
export function signForm(form: Form, signOff: ContextValue, actor: Actor): ContextValue {
  const signed = form.forms.fields.filter(
    (of) => canBeSigned(of) && decidedOf(form, of).treatment !== 'hidden' && mayRead(form.forms, of.field.key, actor),
  );
  const values = signed.map((of): [string, Json] => [of.field.key, signedJson(of, effectiveValueOf(form, of))]);
  const fields = signed.map(({ field }) => field.key);
  return { ...signOff, entries: { ...signOff.entries, sha256: hashOf(signOff, values), fields } };
}

const canBeSigned = ({ field, computes }: CompiledField): boolean =>
  field.type !== 'note' && field.type !== 'sign-off' && computes === null;

/**
 * Sign-offs of a record that no longer stand, because a value that was signed has changed since: their fields' keys. One
 * that was taken over from elsewhere, or names no values, doesn't stand either.
 */
export function brokenSignOffs(forms: CompiledForms, record: Pick<WorkflowRecord, 'values'>, zone: string): readonly string[] {
  const context = { zone, findRecord: () => null };
  return forms.fields.flatMap(({ field }) => {
    const json = Object.hasOwn(record.values, field.key) ? record.values[field.key] : null;
    if (field.type !== 'sign-off' || json === null || json === undefined) return [];
    const read = readFieldValue(field, json, context);
    if (!read.ok || read.value === null) return [field.key];
    const signOff = read.value as ContextValue;
    const keys = signOff.entries.fields as readonly string[];
    const values = keys.map((key): [string, Json] => {
      const of = forms.fieldByKey.get(key);
      const stored = Object.hasOwn(record.values, key) ? record.values[key] : null;
      const value = of ? readFieldValue(of.field, stored, context) : null;
      return [key, of && value?.ok ? signedJson(of, value.value) : null];
    });
    return hashOf(signOff, values) === signOff.entries.sha256 ? [] : [field.key];
  });
}

/** A value as it is signed: as it is stored, without computed cells, which follow from the others. */
function signedJson(of: CompiledField, value: Value): Json {
  const json = writeFieldValue(of.field, value);
  if (isList(value) && value.length === 0) return null;
  if (of.field.type !== 'table' || !Array.isArray(json)) return json;
  const computed = new Set(of.subFields.filter(({ computes }) => computes !== null).map(({ field }) => field.key));
  return (json as readonly { readonly id: string; readonly values: Readonly<Record<string, Json>> }[]).map(({ id, values }) => ({
    id,
    values: Object.fromEntries(Object.entries(values).filter(([key]) => !computed.has(key))),
  }));
}

function hashOf({ entries }: ContextValue, values: readonly (readonly [string, Json])[]): string {
  const signed = [entries.by as string, (entries.at as DateTimeValue).ms, values] as unknown as Json;
  return bytesToHex(sha256(utf8ToBytes(canonical(signed))));
}

/** JSON text in which an object's keys stand in order, so that equal values have equal texts. */
const canonical = (json: Json): string =>
  JSON.stringify(json, (_, value: unknown) =>
    value !== null && typeof value === 'object' && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );
