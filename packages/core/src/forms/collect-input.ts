import { isEmpty, writeFieldValue } from '../model/field-value.ts';
import { isEnterable } from '../model/treatment.ts';
import { isUnreadText } from '../model/unread-text.ts';
import type { Json } from '../shared/json.ts';
import { decidedOf, effectiveValueOf, type Form } from './evaluate-form.ts';

const readable = (json: Json | undefined): Json => (json === undefined || isUnreadText(json) ? null : json);

/**
 * What of the entered values may be sent with a hand-off: fields, and cells of rows, that can be entered as the form
 * stands; defaults as they are shown, which an hour later could be others. What was typed before an adjustment took the field
 * away stays with whoever typed it. A text that can't be read counts as empty, as it does in the form.
 */
export function collectInput(form: Form, entered: Readonly<Record<string, Json>>): Record<string, Json> {
  const input: Record<string, Json> = {};
  for (const [key, json] of Object.entries(entered)) {
    const of = form.forms.fieldByKey.get(key);
    if (!of || !isEnterable(decidedOf(form, of).treatment)) continue;
    if (of.field.type !== 'table' || !Array.isArray(json)) {
      input[key] = readable(json);
      continue;
    }
    input[key] = (json as readonly { readonly id: string; readonly values: Readonly<Record<string, Json>> }[]).map((row) => {
      const treatments = form.rows.get(of.slot)?.get(row.id);
      const open = of.subFields.filter(({ index }) => isEnterable(treatments?.[index]?.treatment ?? 'hidden'));
      return { id: row.id, values: Object.fromEntries(open.map(({ field }) => [field.key, readable(row.values[field.key])])) };
    });
  }
  for (const of of form.forms.filled) {
    const { field, slot } = of;
    if (Object.hasOwn(entered, field.key) || !form.given.due.has(slot) || !isEnterable(decidedOf(form, of).treatment)) continue;
    const value = effectiveValueOf(form, of);
    if (!isEmpty(value)) input[field.key] = writeFieldValue(field, value);
  }
  return input;
}
