import { isEmpty, writeFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { addExact, type Exact, ZERO } from '../values/exact.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledField, CompiledSubField } from './compiled-field.ts';
import { effectiveValueOf, type Form } from './evaluate-form.ts';

/** The cells of a row that somebody adds: the defaults of its columns, as JSON by sub-field key. */
export function newRowCells({ frame }: Form, table: CompiledField): Record<string, Json> {
  const cells: Record<string, Json> = {};
  for (const { field, fills } of table.subFields) {
    const value = fills?.evaluate(frame) ?? null;
    if (!isEmpty(value)) cells[field.key] = writeFieldValue(field, value);
  }
  return cells;
}

/** The sum of a column's cells, empty ones skipped; 0 without rows. Null for a column without a total, or beyond what numbers hold. */
export function totalOf(form: Form, table: CompiledField, { field }: CompiledSubField): Exact | null {
  if (!('total' in field) || !field.total) return null;
  const rows = effectiveValueOf(form, table);
  const cells = isList(rows) ? (rows as readonly ContextValue[]).map((row) => row.entries[field.key] ?? null) : [];
  return cells.reduce<Exact | null>((sum, cell) => (sum !== null && isNumber(cell) ? addExact(sum, cell) : sum), ZERO);
}

const isNumber = (value: Value): value is Exact =>
  value !== null && typeof value === 'object' && !isList(value) && value.kind === 'number';
