import { findField, type Scope, type Type, type Typing, type Wording, type Workflow } from '@ypomet/core';

/** Names of fields and labels of options, for sentences and pickers. */
export function makeWording(workflow: Workflow, items: ReadonlyMap<string, string> = new Map()): Wording {
  const fieldAt = (path: readonly string[]) => {
    const [first = '', second] = path;
    const field = findField(workflow, items.get(first) ?? first);
    if (second === undefined) return field;
    return field?.type === 'table' ? (field.fields.find((sub) => sub.key === second) ?? null) : null;
  };
  return {
    nameOf: (path) => {
      const [first = '', second] = path;
      if (first === 'record') return `Record’s ${second ?? ''}`;
      return fieldAt(path)?.name ?? path.join('.');
    },
    labelOf: (path, value) => {
      const code = value.kind === 'text' ? value.value : '';
      const field = fieldAt(path);
      const options = field?.type === 'choice' || field?.type === 'multi-choice' ? field.options : [];
      return options.find((option) => option.code === code)?.label ?? `“${code}”`;
    },
  };
}

/** The type at the end of a path in a scope; null when there is none. */
export function typeAt(scope: Scope, path: readonly string[]): Type | null {
  const [first = '', ...rest] = path;
  let found: Typing | undefined = scope.entries.get(first)?.typing;
  for (const name of rest) {
    const type = found?.type.kind === 'list' ? found.type.of.type : found?.type;
    found = type?.kind === 'context' ? type.entries[name] : undefined;
  }
  return found?.type ?? null;
}

export type SubjectOption = { readonly value: string; readonly label: string };

/** What a clause can be about, as a picker's groups. Values are `field:a.b`, `count:t`, `total:t.c`, `some:t`, `every:t`. */
export function subjectOptions(workflow: Workflow, item: { readonly name: string; readonly table: string } | null) {
  if (item) {
    const table = findField(workflow, item.table);
    const fields = table?.type === 'table' ? table.fields : [];
    return [{ group: 'Of the row', items: fields.map((sub) => ({ value: `field:${item.name}.${sub.key}`, label: sub.name })) }];
  }
  const plain = workflow.fields.filter((field) => !['table', 'note', 'file', 'sign-off', 'reference'].includes(field.type));
  const tables = workflow.fields.filter((field) => field.type === 'table');
  const rows = tables.flatMap((table): readonly SubjectOption[] => [
    { value: `some:${table.key}`, label: `any row of ${table.name}` },
    { value: `every:${table.key}`, label: `every row of ${table.name}` },
    { value: `count:${table.key}`, label: `number of rows of ${table.name}` },
    ...table.fields
      .filter((sub) => sub.type === 'money' || sub.type === 'number')
      .map((sub) => ({ value: `total:${table.key}.${sub.key}`, label: `total of ${sub.name}` })),
  ]);
  return [
    { group: 'Fields', items: plain.map((field) => ({ value: `field:${field.key}`, label: field.name })) },
    ...(rows.length > 0 ? [{ group: 'Rows', items: rows }] : []),
    { group: 'Record', items: [{ value: 'field:record.track', label: 'Record’s track' }] },
  ];
}
