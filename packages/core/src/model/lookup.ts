import type { Field, SubField, TableField } from './field.ts';
import { splitFieldPath } from './field-path.ts';
import type { HandOff, Stage } from './flow.ts';
import type { Treatment } from './treatment.ts';
import type { Section, Workflow } from './workflow.ts';

/** Finds another workflow's definition; null when it isn't known. */
export type FindDefinition = (key: string) => Workflow | null;

type Keyed = { readonly key: string };

const indexes = new WeakMap<readonly Keyed[], ReadonlyMap<string, Keyed>>();

/** The part of a list with a key; the first where there are several. Lists never change, so each is indexed once. */
function findIn<T extends Keyed>(list: readonly T[], key: string): T | null {
  let index = indexes.get(list);
  if (!index) {
    index = new Map([...list].reverse().map((part) => [part.key, part]));
    indexes.set(list, index);
  }
  return (index.get(key) as T | undefined) ?? null;
}

export const findField = (workflow: Workflow, key: string): Field | null => findIn(workflow.fields, key);
export const findStage = (workflow: Workflow, key: string): Stage | null => findIn(workflow.stages, key);
export const findHandOff = (workflow: Workflow, key: string): HandOff | null => findIn(workflow.handOffs, key);
export const findSection = (workflow: Workflow, key: string): Section | null => findIn(workflow.sections, key);
export const handOffsFrom = (workflow: Workflow, stage: string): readonly HandOff[] =>
  workflow.handOffs.filter((handOff) => handOff.from === stage);

/** A sub-field by its path `table.subField`. */
export function findSubField(workflow: Workflow, path: string): { readonly table: TableField; readonly field: SubField } | null {
  const { field: tableKey, sub } = splitFieldPath(path);
  const table = sub === null ? null : findField(workflow, tableKey);
  if (table?.type !== 'table') return null;
  const field = table.fields.find((candidate) => candidate.key === sub);
  return field ? { table, field } : null;
}

/** What the plan says for a field (or `table.subField`) at a stage, before any adjustment. Sub-fields follow their table. */
export function plannedTreatment(workflow: Workflow, path: string, stage: string): Treatment {
  const cell = Object.hasOwn(workflow.plan, path) ? workflow.plan[path]?.[stage] : undefined;
  if (cell) return cell;
  const { field: table, sub } = splitFieldPath(path);
  if (sub !== null) return subFieldDefault(plannedTreatment(workflow, table, stage));
  return findField(workflow, path)?.treatment ?? 'hidden';
}

/** Whether the plan says something of its own of a field, or a cell of rows, at a stage. */
export const hasOwnCell = ({ plan }: Pick<Workflow, 'plan'>, path: string, stage: string): boolean =>
  Object.hasOwn(plan, path) && plan[path]?.[stage] !== undefined;

/** A required table asks for rows, not for every cell: its sub-fields are optional unless the plan says more. */
export const subFieldDefault = (table: Treatment): Treatment => (table === 'required' || table === 'nudged' ? 'optional' : table);

/** The stages a hand-off can lead to directly, each once, with the branches that do. */
export function destinationsOf(handOff: HandOff): readonly { readonly to: string; readonly branch: string | null }[] {
  const branches = handOff.branches.map((branch) => ({ to: branch.to, branch: branch.key as string | null }));
  return handOff.otherwise ? [...branches, { to: handOff.otherwise.to, branch: null }] : branches;
}
