import {
  type CompiledField,
  clearedFields,
  decidedOf,
  effectiveValueOf,
  type Form,
  type HandOff,
  isEmpty,
  type Json,
} from '@ypomet/core';
import type { Entered } from './form-state.ts';

/** Fields that the form points out while they are empty: how many there are, and how many of them are open. */
export function nudgedIn(form: Form): { readonly asked: number; readonly open: number } {
  const nudged = form.forms.fields.filter((of) => decidedOf(form, of).treatment === 'nudged');
  return { asked: nudged.length, open: nudged.filter((of) => isEmpty(effectiveValueOf(form, of))).length };
}

type Row = { readonly id: string; readonly values: Readonly<Record<string, Json>> };

/** What was entered without the rows that somebody added and left blank; the same object where there are none. */
export function withoutBlankRows(entered: Entered, stored: Entered): Entered {
  const isKnown = (key: string, id: string): boolean =>
    ((stored[key] ?? []) as unknown as readonly Row[]).some((row) => row.id === id);
  const isRows = (json: Json): boolean =>
    Array.isArray(json) && json.every((row) => row !== null && typeof row === 'object' && 'values' in row);
  let result = entered;
  for (const [key, json] of Object.entries(entered)) {
    if (!isRows(json)) continue;
    const rows = json as unknown as readonly Row[];
    const kept = rows.filter(({ id, values }) => isKnown(key, id) || Object.values(values).some((value) => value !== null));
    if (kept.length < rows.length) result = { ...result, [key]: kept as unknown as Json };
  }
  return result;
}

/** What whoever presses a hand-off is asked first: each a reason to look again, none a refusal. */
export type Question =
  | { readonly kind: 'dropped'; readonly fields: readonly CompiledField[] }
  | { readonly kind: 'nudged'; readonly open: number }
  | { readonly kind: 'unsent-files'; readonly count: number }
  | { readonly kind: 'final'; readonly handOff: HandOff };

/** The questions of a press, in the order in which they are shown. Without checking nothing is pointed out as missing. */
export function questionsBefore(handOff: HandOff, form: Form, unsentFiles: number): readonly Question[] {
  const nudged = nudgedIn(form);
  const dropped = clearedFields(form);
  const isChecked = handOff.checking === 'full';
  const questions: readonly (Question | null)[] = [
    unsentFiles > 0 ? { kind: 'unsent-files', count: unsentFiles } : null,
    dropped.length > 0 ? { kind: 'dropped', fields: dropped } : null,
    isChecked && nudged.asked > 0 && nudged.open === nudged.asked ? { kind: 'nudged', open: nudged.open } : null,
    handOff.emphasis === 'final' ? { kind: 'final', handOff } : null,
  ];
  return questions.filter((question) => question !== null);
}
