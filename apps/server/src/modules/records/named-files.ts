import type { CompiledWorkflow, Json } from '@ypomet/core';

/**
 * Returns the SHA-256 of each file that a record's values name, in file fields and in cells of tables. Values of other fields
 * aren't looked at, so that a workflow without file fields costs nothing.
 */
export function filesNamedIn({ forms }: CompiledWorkflow, values: Readonly<Record<string, Json>>): readonly string[] {
  const found = new Set<string>();
  const note = (list: Json | undefined): void => {
    if (!Array.isArray(list)) return;
    for (const one of list as readonly Json[])
      if (typeof one === 'object' && one !== null && 'sha256' in one && typeof one.sha256 === 'string') found.add(one.sha256);
  };
  for (const { field } of forms.fields) {
    if (field.type === 'file') note(values[field.key]);
    if (field.type !== 'table') continue;
    const columns = field.fields.filter(({ type }) => type === 'file');
    const rows = values[field.key];
    if (columns.length === 0 || !Array.isArray(rows)) continue;
    for (const row of rows as readonly { readonly values?: Readonly<Record<string, Json>> }[])
      for (const { key } of columns) note(row.values?.[key]);
  }
  return [...found];
}
