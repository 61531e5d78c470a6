import type { FindWorkflow } from '../expressions/workflow-scope.ts';
import type { Field, SubField } from '../model/field.ts';
import { findField } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import { formatValue, type Style } from '../templates/format-value.ts';
import type { Value } from '../values/value.ts';
import type { FactCode, Language } from './codes.ts';
import { EN } from './en.ts';

/** Names of fields, labels of options and values as their readers write them, for sentences about conditions. */
export type Wording = {
  /** What a path is called: a field, a column, a field of a record that a reference points to, a fact of the record. */
  readonly nameOf: (path: readonly string[]) => string;
  /** The field or column at the end of a path; null where it is none. */
  readonly fieldAt: (path: readonly string[]) => Field | SubField | null;
  /** A value that stands beside a path, or null for none: labels for codes, the field's currency, unit and places. */
  readonly format: (value: Value, path: readonly string[] | null) => string;
  /** The zone by whose clock a moment without an offset is meant. */
  readonly zone: string;
  /** The same within the rows of a table: `item` names the row; without a name its columns are known by themselves. */
  readonly within: (item: string | null, table: readonly string[]) => Wording;
};

type Fields = readonly (Field | SubField)[];
type Rows = { readonly item: string | null; readonly fields: Fields };

const isFact = (language: Language, code: string): code is FactCode => Object.hasOwn(language.facts, code);

/** The words of a workflow. `findWorkflow` finds those that references lead to; without it their fields go by their keys. */
export function makeWording(
  workflow: Workflow,
  style: Style,
  findWorkflow: FindWorkflow = () => null,
  language: Language = EN,
): Wording {
  const choicesOf: Readonly<Record<string, Workflow['stages'] | Workflow['tracks'] | Workflow['handOffs']>> = {
    'record.stage': workflow.stages,
    'record.track': workflow.tracks,
    'destination.key': workflow.stages,
    'handoff.key': workflow.handOffs,
  };
  const fieldsOf = (field: Field | SubField | null): Fields => {
    if (field?.type === 'table') return field.fields;
    return field?.type === 'reference' ? (findWorkflow(field.workflow)?.fields ?? []) : [];
  };
  const make = (rows: readonly Rows[]): Wording => {
    const firstOf = (name: string): Field | SubField | null => {
      for (const { item, fields } of [...rows].reverse()) {
        const found = item === null ? fields.find((own) => own.key === name) : undefined;
        if (found) return found;
      }
      return findField(workflow, name);
    };
    const rowOf = (name: string): Fields | null => [...rows].reverse().find(({ item }) => item === name)?.fields ?? null;
    /** The fields on a path, one for each step that is one. */
    const fieldsOn = ([first = '', ...rest]: readonly string[]): readonly (Field | SubField | null)[] => {
      const row = rowOf(first);
      const found: (Field | SubField | null)[] = row ? [] : [firstOf(first)];
      let among = row ?? fieldsOf(found[0] ?? null);
      for (const name of rest) {
        const field = among.find((own) => own.key === name) ?? null;
        found.push(field);
        among = fieldsOf(field);
      }
      return found;
    };
    const fieldAt = (path: readonly string[]): Field | SubField | null => fieldsOn(path).at(-1) ?? null;
    return {
      zone: style.zone,
      fieldAt,
      nameOf: (path) => {
        const fact = path.join('.');
        if (isFact(language, fact)) return language.facts[fact];
        const isRow = rowOf(path[0] ?? '') !== null;
        const steps = isRow ? path.slice(1) : path;
        const found = fieldsOn(path);
        return steps.map((step, index) => found[index]?.name ?? step).join(' › ') || fact;
      },
      format: (value, path) => {
        if (path === null) return typeof value === 'string' ? `“${value}”` : formatValue(value, null, style);
        const among = choicesOf[path.join('.')];
        if (among && typeof value === 'string') return among.find(({ key }) => key === value)?.name ?? `“${value}”`;
        const field = fieldAt(path);
        const isCode = field?.type === 'choice' || field?.type === 'multi-choice' || field?.type === 'member';
        const written = formatValue(value, field, style);
        return typeof value === 'string' && (!isCode || written === value) ? `“${value}”` : written;
      },
      within: (item, table) => make([...rows, { item, fields: fieldsOf(fieldAt(table)) }]),
    };
  };
  return make([]);
}
