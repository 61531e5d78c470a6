import type { RegisterDocument, RegisterEntry } from '@ypomet/contract';
import { SERVER_EN } from '@ypomet/contract/messages/en';
import { type Field, findField, formatValue, readFieldValue, type Style } from '@ypomet/core';
import { formatDue } from '../../shared/due.ts';
import { formatInstant } from '../../shared/instants.ts';

/** A column of a register: a fact of the record, or a field. */
export type Column = {
  readonly id: string;
  readonly name: string;
  readonly field: Field | null;
  readonly isNumeric: boolean;
  readonly canOrder: boolean;
};

const UNORDERED_FACTS: ReadonlySet<string> = new Set(['stage', 'submitter', 'assignee']);
const FACTS = Object.entries(SERVER_EN.registerFacts).map(([fact, name]) => ({
  id: `record.${fact}`,
  name,
  field: null,
  isNumeric: false,
  canOrder: !UNORDERED_FACTS.has(fact),
}));
const UNORDERED: ReadonlySet<Field['type']> = new Set([
  'table',
  'file',
  'multi-choice',
  'reference',
  'sign-off',
  'note',
  'member',
]);

/** Every column that a register can show, facts first. */
export function columnsOf({ definition, searchable }: Pick<RegisterDocument, 'definition' | 'searchable'>): readonly Column[] {
  const fields = definition.fields.map((field) => ({
    id: field.key,
    name: field.short || field.name,
    field,
    isNumeric: field.type === 'number' || field.type === 'money',
    canOrder: searchable.includes(field.key) && !UNORDERED.has(field.type),
  }));
  return [...FACTS, ...fields];
}

/** Fields that say much in little room. */
const TELLING: ReadonlySet<Field['type']> = new Set(['number', 'money', 'choice', 'date']);
const FIRST_TELLING = 5;

/** The columns shown while nobody has chosen any: what a record is known by, and the first few fields that tell something. */
export function firstColumns({ definition }: Pick<RegisterDocument, 'definition'>): readonly string[] {
  const name = definition.fields.find(({ type }) => type === 'text');
  const telling = definition.fields.filter(({ type }) => TELLING.has(type)).slice(0, FIRST_TELLING);
  return ['record.number', 'record.stage', ...[...(name ? [name] : []), ...telling].map(({ key }) => key), 'record.due'];
}

/** What a cell says; empty where the record has nothing there. */
export function cellText(
  column: Column,
  { record, submitter, values }: RegisterEntry,
  style: Style,
  { definition }: Pick<RegisterDocument, 'definition'>,
): string {
  if (column.field) {
    const json = values[column.id];
    if (column.field.type === 'date-time' && typeof json === 'string') return formatInstant(json, style);
    const read = readFieldValue(column.field, values[column.id] as never, { zone: style.zone, findRecord: () => ({}) });
    return read.ok ? formatValue(read.value, column.field, style) : '';
  }
  switch (column.id) {
    case 'record.number':
      return record.number ?? '';
    case 'record.stage':
      return record.stageName;
    case 'record.submitter':
      return submitter ?? '';
    case 'record.assignee':
      return record.assigneeName ?? roleName(definition, record.assignee) ?? '';
    case 'record.createdAt':
      return formatInstant(record.createdAt, style);
    case 'record.arrivedAt':
      return formatInstant(record.arrivedAt, style);
    default:
      return record.due === null ? '' : formatDue(record.due, style);
  }
}

const roleName = ({ roles }: RegisterDocument['definition'], assignee: RegisterEntry['record']['assignee']): string | null =>
  assignee?.kind === 'role' ? (roles.find(({ key }) => key === assignee.role)?.name ?? assignee.role) : null;

/** Those of some columns that are fields of the register: a view may name one that is gone. */
export const fieldsOn = (register: Pick<RegisterDocument, 'definition'>, columns: readonly string[]): readonly string[] =>
  columns.filter((column) => fieldOf(register, column) !== null);

/** The field at the end of a register's column; for those who write its sums. */
export const fieldOf = ({ definition }: Pick<RegisterDocument, 'definition'>, key: string): Field | null =>
  findField(definition, key);
