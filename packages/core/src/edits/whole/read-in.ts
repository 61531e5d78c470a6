import { z } from 'zod';
import type { Workflow } from '../../model/workflow.ts';
import { type Difference, differencesBetween } from '../../structure/differences.ts';
import type { EditKind } from '../edit.ts';
import { namesOfChanged } from '../naming.ts';
import { Differences } from './difference-schema.ts';
import { applyWhatFits } from './revert.ts';

const schema = z.strictObject({ type: z.literal('read-in'), differences: Differences });
export type ReadIn = z.infer<typeof schema>;

/**
 * A file read in, as what it changes of the draft it was read into: so that taking it back leaves alone what came after, and
 * another analyst's change beside it stays. Code `edit/overtaken`.
 */
export const readIn: EditKind<ReadIn, never> = {
  type: 'read-in',
  schema,
  apply: (definition, { differences }) => applyWhatFits(definition, differences as readonly Difference[]),
  describe: ({ differences }, before, after) => ({
    code: 'read-in-changing',
    params: { parts: namesOfChanged(differences as readonly Difference[], before, after) },
  }),
};

/** The edit that makes a draft what a file says; null where they are the same. */
export function makeReadIn(draft: Workflow, file: Workflow): ReadIn | null {
  const differences = differencesBetween(draft, file);
  return differences.length === 0 ? null : { type: 'read-in', differences: differences as ReadIn['differences'] };
}
