import type { Field, SubField, TableField, Treatment } from './field.ts';
import type { HandOff, Stage } from './flow.ts';
import type { Section, Workflow } from './workflow.ts';

/** Finds another workflow's definition; null when it isn't known. */
export type FindDefinition = (key: string) => Workflow | null;

export const findField = (workflow: Workflow, key: string): Field | null =>
  workflow.fields.find((field) => field.key === key) ?? null;
export const findStage = (workflow: Workflow, key: string): Stage | null =>
  workflow.stages.find((stage) => stage.key === key) ?? null;
export const findHandOff = (workflow: Workflow, key: string): HandOff | null =>
  workflow.handOffs.find((handOff) => handOff.key === key) ?? null;
export const findSection = (workflow: Workflow, key: string): Section | null =>
  workflow.sections.find((section) => section.key === key) ?? null;
export const handOffsFrom = (workflow: Workflow, stage: string): readonly HandOff[] =>
  workflow.handOffs.filter((handOff) => handOff.from === stage);

/** A sub-field by its path `table.subField`. */
export function findSubField(workflow: Workflow, path: string): { readonly table: TableField; readonly field: SubField } | null {
  const [tableKey, key] = path.split('.');
  const table = tableKey === undefined ? null : findField(workflow, tableKey);
  if (table?.type !== 'table') return null;
  const field = table.fields.find((candidate) => candidate.key === key);
  return field ? { table, field } : null;
}

/** What the plan says for a field (or `table.subField`) at a stage, before any adjustment. Sub-fields follow their table. */
export function plannedTreatment(workflow: Workflow, path: string, stage: string): Treatment {
  const cell = Object.hasOwn(workflow.plan, path) ? workflow.plan[path]?.[stage] : undefined;
  if (cell) return cell;
  const table = path.split('.')[0] as string;
  if (table !== path) return subFieldDefault(plannedTreatment(workflow, table, stage));
  return findField(workflow, path)?.treatment ?? 'hidden';
}

/** A required table asks for rows, not for every cell: its sub-fields are optional unless the plan says more. */
const subFieldDefault = (table: Treatment): Treatment => (table === 'required' || table === 'nudged' ? 'optional' : table);

/** The stages a hand-off can lead to directly, each once, with the branches that do. */
export function destinationsOf(handOff: HandOff): readonly { readonly to: string; readonly branch: string | null }[] {
  const branches = handOff.branches.map((branch) => ({ to: branch.to, branch: branch.key as string | null }));
  return handOff.otherwise ? [...branches, { to: handOff.otherwise.to, branch: null }] : branches;
}
