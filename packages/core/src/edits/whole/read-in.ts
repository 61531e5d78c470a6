import { z } from 'zod';
import type { Workflow } from '../../model/workflow.ts';
import { type Difference, differencesBetween } from '../../structure/differences.ts';
import type { EditKind } from '../edit.ts';
import { namesOfChanged } from '../naming.ts';
import { Differences, differencesAfter } from './difference-schema.ts';
import { applyWhatFits } from './revert.ts';

/** Where it comes from: a file, a published version, or the draft as it was at an earlier revision. */
const source = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('file') }),
  z.strictObject({ kind: z.literal('version'), number: z.int().min(1) }),
  z.strictObject({ kind: z.literal('revision'), number: z.int().min(0) }),
]);
export type ReadInSource = z.infer<typeof source>;

const schema = z.strictObject({
  type: z.literal('read-in'),
  differences: Differences,
  source: source.default({ kind: 'file' }),
});
export type ReadIn = z.infer<typeof schema>;

/**
 * A whole definition read in, as what it changes of the draft it was read into: so that taking it back leaves alone what came after, and
 * another analyst's change beside it stays. Code `edit/overtaken`.
 */
export const readIn: EditKind<ReadIn, never> = {
  type: 'read-in',
  schema,
  apply: (definition, { differences }) => applyWhatFits(definition, differences as readonly Difference[]),
  map: (edit, around) => ({ ...edit, differences: differencesAfter(edit.differences, around) }),
  describe: ({ differences, source: from = { kind: 'file' } }, before, after) => {
    const parts = namesOfChanged(differences as readonly Difference[], before, after);
    if (from.kind === 'file') return { code: 'read-in-changing', params: { parts } };
    return { code: `back-to-${from.kind}`, params: { number: from.number, parts } };
  },
};

/** The edit that makes a draft what another definition says; null where they are the same. */
export function makeReadIn(draft: Workflow, other: Workflow, from: ReadInSource = { kind: 'file' }): ReadIn | null {
  const differences = differencesBetween(draft, other);
  return differences.length === 0 ? null : { type: 'read-in', differences: differences as ReadIn['differences'], source: from };
}
