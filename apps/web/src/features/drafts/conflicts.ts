import {
  applyEdit,
  type Difference,
  differencesBetween,
  type Edit,
  type EditContext,
  type EditSentence,
  type IdentifiedEdit,
  tellDifference,
  type Workflow,
} from '@ypomet/core';

/** A change that wasn't made, because somebody else had changed the same meanwhile: what it would have done, and what they did. */
export type Conflict = { readonly id: string; readonly edit: Edit; readonly mine: EditSentence; readonly theirs: EditSentence };

/** What a difference is about, where two of them can meet: a property or a cell. */
const placeOf = (difference: Difference): string | null =>
  difference.kind === 'changed' ? JSON.stringify([difference.path, difference.property]) : null;

/**
 * Parts edits into those that meet a change of somebody else's and those that don't. `base` is what both began from, `theirs` what
 * the others made of it. The same change made by both is no conflict.
 */
export function findConflicts(
  base: Workflow,
  theirs: Workflow,
  edits: readonly IdentifiedEdit[],
  context: EditContext,
): { readonly free: readonly IdentifiedEdit[]; readonly conflicts: readonly Conflict[] } {
  const changed = new Map<string, Difference>();
  for (const difference of edits.length > 0 ? differencesBetween(base, theirs) : []) {
    const place = placeOf(difference);
    if (place !== null) changed.set(place, difference);
  }
  const free: IdentifiedEdit[] = [];
  const conflicts: Conflict[] = [];
  let mine = base;
  for (const { id, edit } of edits) {
    const result = applyEdit(mine, edit, context);
    const own = result.ok ? differencesBetween(mine, result.value.definition) : [];
    const met = own.find((difference) => {
      const other = changed.get(placeOf(difference) ?? '');
      return other?.kind === 'changed' && difference.kind === 'changed' && !isSame(other.to, difference.to);
    });
    const other = met && changed.get(placeOf(met) ?? '');
    if (met && other && result.ok) {
      const told = tellDifference(met, mine, result.value.definition);
      conflicts.push({ id, edit, mine: told, theirs: tellDifference(other, base, theirs) });
    } else free.push({ id, edit });
    if (result.ok) mine = result.value.definition;
  }
  return { free, conflicts };
}

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
