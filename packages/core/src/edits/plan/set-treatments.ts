import { z } from 'zod';
import { Treatment } from '../../model/field.ts';
import { splitFieldPath } from '../../model/field-path.ts';
import { Key } from '../../model/keys.ts';
import { findField, findStage, findSubField } from '../../model/lookup.ts';
import { joinPath } from '../../model/path.ts';
import type { Workflow } from '../../model/workflow.ts';
import { success } from '../../shared/result.ts';
import { term } from '../../shared/terms.ts';
import type { EditKind } from '../edit.ts';
import { unknownPart } from '../naming.ts';
import { cellAfter } from '../renamed-paths.ts';

const Cell = z.strictObject({ field: z.string().max(130), stage: Key, treatment: Treatment.nullable() });
const schema = z.strictObject({ type: z.literal('set-treatments'), cells: z.array(Cell).min(1).max(20_000) });
export type SetTreatments = z.infer<typeof schema>;

/** Sets cells of the plan; null leaves the field's default. Code `edit/unknown-part`. */
export const setTreatments: EditKind<SetTreatments, never> = {
  type: 'set-treatments',
  schema,
  apply: (definition, { cells }) => {
    const plan = { ...definition.plan };
    const fields = new Set<string>();
    const stages = new Set(definition.stages.map(({ key }) => key));
    for (const { field, stage, treatment } of cells) {
      if (!fields.has(field) && !isFieldPath(definition, field)) return unknownPart(joinPath('plan', field));
      if (!stages.has(stage)) return unknownPart(joinPath('stages', stage));
      // A row is copied once, however many of its cells are set.
      if (!fields.has(field)) plan[field] = { ...(Object.hasOwn(plan, field) ? plan[field] : {}) };
      fields.add(field);
      const row = plan[field] as Record<string, Treatment>;
      if (treatment === null) delete row[stage];
      else row[stage] = treatment;
    }
    for (const field of fields) if (Object.keys(plan[field] ?? {}).length === 0) delete plan[field];
    return success({ ...definition, plan });
  },
  map: (edit, { rename }) => ({ ...edit, cells: edit.cells.map((cell) => cellAfter(cell, rename)) }),
  describe: ({ cells }, before) => {
    const names = (list: readonly string[], nameOf: (key: string) => string): readonly string[] => [...new Set(list)].map(nameOf);
    const fields = names(
      cells.map((cell) => cell.field),
      (path) => nameOfField(before, path),
    );
    const stages = names(
      cells.map((cell) => cell.stage),
      (key) => findStage(before, key)?.name ?? key,
    );
    const [first] = cells;
    const isOne = first !== undefined && fields.length === 1 && cells.every((cell) => cell.treatment === first.treatment);
    if (!isOne) return { code: 'set-treatments-many', params: { count: cells.length, fields, stages } };
    const treatment = term(first.treatment === null ? 'treatment/default' : `treatment/${first.treatment}`);
    return { code: 'set-treatments', params: { field: fields[0] ?? '', stages, treatment } };
  },
};

export const isFieldPath = (definition: Workflow, path: string): boolean =>
  splitFieldPath(path).sub === null ? findField(definition, path) !== null : findSubField(definition, path) !== null;

/** What people call a field; a sub-field with its table before it. */
export function nameOfField(definition: Workflow, path: string): string {
  const own = findSubField(definition, path);
  return own ? `${own.table.name}: ${own.field.name}` : (findField(definition, path)?.name ?? path);
}
