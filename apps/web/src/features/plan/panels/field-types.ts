import { useQuery } from '@tanstack/react-query';
import { type FieldType, type Json, joinPath, type Path, splitFieldPath, type Workflow } from '@ypomet/core';
import { useDraft } from '../../drafts/draft-context.tsx';
import { workflowsQuery } from '../../drafts/queries.ts';

/** What people call the types of fields. */
export const TYPE_NAMES: Readonly<Record<FieldType, string>> = {
  text: 'Text',
  'long-text': 'Long text',
  number: 'Number',
  money: 'Money',
  'yes-no': 'Yes/no',
  date: 'Date',
  time: 'Time',
  'date-time': 'Date and time',
  choice: 'Choice',
  'multi-choice': 'Several choices',
  member: 'Member',
  file: 'Files',
  reference: 'Reference to a record',
  table: 'Table',
  'sign-off': 'Sign-off',
  note: 'Note',
};

/** The other workflows, to whose records a reference can lead. */
export function useOtherWorkflows(): readonly { readonly key: string; readonly name: string }[] {
  const { store } = useDraft();
  return useQuery(workflowsQuery).data?.filter(({ key }) => key !== store.key) ?? [];
}

/** Types that stand for themselves, not in rows. */
const ALONE: ReadonlySet<FieldType> = new Set(['table', 'sign-off', 'note']);

export const typeChoices = (isSub: boolean): readonly { value: FieldType; label: string }[] =>
  (Object.keys(TYPE_NAMES) as FieldType[])
    .filter((type) => !isSub || !ALONE.has(type))
    .map((value) => ({ value, label: TYPE_NAMES[value] }));

/** What a field of a type can't be without. `others`: the workflows that a reference can lead to. */
export function neededBy(type: FieldType, others: readonly string[]): Readonly<Record<string, Json>> {
  switch (type) {
    case 'choice':
    case 'multi-choice':
      return { options: [{ code: 'option1', label: 'Option 1' }] };
    case 'money':
      return { currency: 'EUR' };
    case 'reference':
      return { workflow: others[0] ?? 'other' };
    case 'table':
      return { fields: [{ type: 'text', key: 'item', name: 'Item' }] };
    case 'note':
      return { text: '' };
    default:
      return {};
  }
}

/** The path in the definition of a field, or of a table's sub-field. */
export function partOfField(path: string): Path {
  const { field, sub } = splitFieldPath(path);
  return sub === null ? joinPath('fields', field) : joinPath('fields', field, 'fields', sub);
}

/** The keys that a new field, or a sub-field of a table, can't have. */
export function takenKeys({ fields, decisionTables }: Workflow, table: string | null): ReadonlySet<string> {
  if (table === null) return new Set([...fields, ...decisionTables].map(({ key }) => key));
  const found = fields.find(({ key }) => key === table);
  return new Set(found?.type === 'table' ? found.fields.map(({ key }) => key) : []);
}
