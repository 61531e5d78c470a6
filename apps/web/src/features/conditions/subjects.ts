import {
  EN,
  type Field,
  type FindWorkflow,
  findField,
  makeScope,
  type OutlineItem,
  type Scope,
  type SubField,
  TYPES,
  type Type,
  type Typing,
  typing,
  type Workflow,
} from '@ypomet/core';

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
export type SubjectGroup = { readonly group: string; readonly items: SubjectOption[] };

/** The rows that a condition looks at one by one: the name of each, where it has one, and the table. */
export type RowsInScope = { readonly item: string | null; readonly table: readonly string[] };

const FACTS: readonly string[] = [
  'record.track',
  'record.stage',
  'record.number',
  'record.createdAt',
  'record.arrivedAt',
  'record.due',
  'record.awaited',
  'actor.roles',
  'actor.name',
  'actor.email',
  'followUps.open',
  'followUps.done',
];

const isNumeric = (field: Field | SubField): boolean => field.type === 'money' || field.type === 'number';
const option = (kind: string, path: readonly string[], label: string): SubjectOption => ({
  value: `${kind}:${path.join('.')}`,
  label,
});

/**
 * What a clause can be about, as a picker's groups. Values are `field:a.b`, `count:t`, `total:t.c`, `some:t`, `every:t`.
 */
export function subjectOptions(
  workflow: Workflow,
  findWorkflow: FindWorkflow,
  scope: Scope,
  rows: RowsInScope | null,
): readonly SubjectGroup[] {
  const table = rows ? findField(workflow, rows.table.join('.')) : null;
  const columns = table?.type === 'table' ? table.fields : [];
  const own = columns.map((sub) => option('field', rows?.item ? [rows.item, sub.key] : [sub.key], sub.name));
  // Where rows are filtered, a column hides a field of the same key.
  const hidden = new Set(rows && rows.item === null ? columns.map(({ key }) => key) : []);
  const fields = workflow.fields.filter(({ type, key }) => type !== 'table' && type !== 'note' && !hidden.has(key));
  const tables = workflow.fields.filter((field) => field.type === 'table');
  const ofRows = tables.flatMap((one): readonly SubjectOption[] => [
    option('some', [one.key], `any row of ${one.name}`),
    option('every', [one.key], `every row of ${one.name}`),
    option('count', [one.key], `number of rows of ${one.name}`),
    option('field', [one.key], `${one.name} as a whole`),
    ...one.fields.filter(isNumeric).map((sub) => option('total', [one.key, sub.key], `total of ${one.name} › ${sub.name}`)),
  ]);
  const references = workflow.fields.filter((field) => field.type === 'reference');
  const facts = FACTS.filter((fact) => typeAt(scope, fact.split('.')) !== null);
  return [
    { group: 'Of the row', items: own },
    { group: 'Fields', items: fields.map((field) => option('field', [field.key], field.name)) },
    { group: 'Rows', items: ofRows },
    ...references.map((field) => ({
      group: field.name,
      items: (findWorkflow(field.workflow)?.fields ?? [])
        .filter(({ type }) => type !== 'table' && type !== 'note' && type !== 'reference')
        .map((inner) => option('field', [field.key, inner.key], `${field.name} › ${inner.name}`)),
    })),
    { group: 'Record', items: facts.map((fact) => option('field', fact.split('.'), EN.facts[fact as 'record.track'])) },
  ].filter(({ items }) => items.length > 0);
}

/** The scope within "any row where", or within the rows that are counted. Only for types and pickers; nothing is evaluated in it. */
export function scopeWithin(scope: Scope, { item, table }: RowsInScope): Scope {
  const list = typeAt(scope, table);
  const row = list?.kind === 'list' ? list.of : typing(TYPES.any, true);
  const names = item !== null ? { [item]: row } : row.type.kind === 'context' ? row.type.entries : {};
  return { entries: new Map([...scope.entries, ...makeScope(names).entries]) };
}

/** The rows that stand within an item; null where it has none. */
export function rowsWithin(item: OutlineItem): RowsInScope | null {
  if (item.kind === 'rows') return { item: item.item, table: item.table };
  return item.kind === 'clause' && item.subject.kind === 'count' ? { item: null, table: item.subject.table } : null;
}
