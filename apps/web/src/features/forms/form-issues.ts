/** What is wrong with a field: of itself, and of its cells by `row/subField`. */
export type FieldIssues = { readonly messages: readonly string[]; readonly rows: ReadonlyMap<string, string> };
export type FormIssues = ReadonlyMap<string, FieldIssues>;

/** One issue in words, and where it is. */
export type TellingIssue = {
  readonly path: string;
  readonly field: string | null;
  readonly row: string | null;
  readonly subField: string | null;
  readonly message: string;
};

/** Issues by the field that shows them; those of no field by their path. */
export function gatherIssues(issues: readonly TellingIssue[]): FormIssues {
  const gathered = new Map<string, { messages: string[]; rows: Map<string, string> }>();
  for (const { path, field, row, subField, message } of issues) {
    const key = field ?? path;
    const entry = gathered.get(key) ?? { messages: [], rows: new Map<string, string>() };
    if (row !== null && subField !== null) entry.rows.set(`${row}/${subField}`, message);
    else entry.messages.push(message);
    gathered.set(key, entry);
  }
  return gathered;
}
