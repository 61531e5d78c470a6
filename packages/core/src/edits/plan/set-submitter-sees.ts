import { z } from 'zod';
import { joinPath } from '../../model/path.ts';
import { success } from '../../shared/result.ts';
import { term } from '../../shared/terms.ts';
import type { EditKind } from '../edit.ts';
import { unknownPart } from '../naming.ts';
import { cellAfter } from '../renamed-paths.ts';
import { isFieldPath, nameOfField } from './set-treatments.ts';

const Cell = z.strictObject({ field: z.string().max(130), sees: z.enum(['hidden', 'shown']).nullable() });
const schema = z.strictObject({ type: z.literal('set-submitter-sees'), cells: z.array(Cell).min(1).max(20_000) });
export type SetSubmitterSees = z.infer<typeof schema>;

/** Sets cells of the plan's column *Submitter*; null leaves what the intake showed. Code `edit/unknown-part`. */
export const setSubmitterSees: EditKind<SetSubmitterSees, never> = {
  type: 'set-submitter-sees',
  schema,
  apply: (definition, { cells }) => {
    const submitterSees = { ...definition.submitterSees };
    for (const { field, sees } of cells) {
      if (!isFieldPath(definition, field)) return unknownPart(joinPath('submitterSees', field));
      if (sees === null) delete submitterSees[field];
      else submitterSees[field] = sees;
    }
    return success({ ...definition, submitterSees });
  },
  map: (edit, { rename }) => ({ ...edit, cells: edit.cells.map((cell) => cellAfter(cell, rename)) }),
  describe: ({ cells }, before) => {
    const fields = [...new Set(cells.map(({ field }) => nameOfField(before, field)))];
    const [first] = cells;
    if (!first || cells.some(({ sees }) => sees !== first.sees)) return { code: 'set-submitter-sees-many', params: { fields } };
    const treatment = term(first.sees === null ? 'treatment/default' : `treatment/${first.sees}`);
    return { code: 'set-submitter-sees', params: { fields, treatment } };
  },
};
