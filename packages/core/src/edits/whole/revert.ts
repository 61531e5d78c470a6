import { z } from 'zod';
import type { Workflow } from '../../model/workflow.ts';
import { diagnostic } from '../../shared/diagnostic.ts';
import { failure, type Result, success } from '../../shared/result.ts';
import { applyDifferences, type Difference } from '../../structure/differences.ts';
import type { EditKind, EditSentence } from '../edit.ts';
import { namesOfChanged } from '../naming.ts';
import { Differences, differencesAfter } from './difference-schema.ts';

const schema = z.strictObject({ type: z.literal('revert'), differences: Differences });
export type Revert = z.infer<typeof schema>;

/**
 * Takes an edit back, difference by difference. What somebody else has changed since stays as they left it; code
 * `edit/overtaken` when that leaves nothing to take back.
 */
export const revert: EditKind<Revert, never> = {
  type: 'revert',
  schema,
  apply: (definition, { differences }) => applyWhatFits(definition, differences as readonly Difference[]),
  map: (edit, around) => ({ ...edit, differences: differencesAfter(edit.differences, around) }),
  describe: ({ differences }, before, after): EditSentence => ({
    code: 'revert',
    params: { parts: namesOfChanged(differences as readonly Difference[], before, after) },
  }),
};

/** Makes the differences that still fit. Fails where there are some and none does. */
export function applyWhatFits(definition: Workflow, differences: readonly Difference[]): Result<Workflow> {
  const { definition: after, overtaken } = applyDifferences(definition, differences);
  if (overtaken.length === 0 || overtaken.length < differences.length) return success(after);
  const paths = [...new Set(overtaken.map(({ path }) => path))];
  return failure([diagnostic('edit/overtaken', paths[0] ?? '', { paths })]);
}
