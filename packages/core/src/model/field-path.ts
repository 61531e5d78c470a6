/** The path of a field, or of a table's sub-field: `lux`, `objects.material`. */
export type FieldPath = string;

export const FIELD_PATH_PATTERN = /^[a-z][A-Za-z0-9_]{0,62}(\.[a-z][A-Za-z0-9_]{0,62})?$/;

/** `objects.material` of `objects` and `material`; a field's own key where there is no sub-field. */
export const fieldPath = (field: string, sub: string | null = null): FieldPath => (sub === null ? field : `${field}.${sub}`);

/** The field, or table, and the sub-field if there is one. */
export function splitFieldPath(path: FieldPath): { readonly field: string; readonly sub: string | null } {
  const point = path.indexOf('.');
  return point < 0 ? { field: path, sub: null } : { field: path.slice(0, point), sub: path.slice(point + 1) };
}
