import type { OutlineItem } from '../expressions/outline/outline.ts';
import type { Value } from '../values/value.ts';
import { cutOutlines, type OutlineContext } from './cut-outline.ts';

/**
 * Whether a branch can be taken where the first that holds is: it can; it never holds; wherever it holds one of the earlier
 * branches `after` does; or that can't be said.
 */
export type Reach =
  | { readonly kind: 'reached' }
  | { readonly kind: 'never' }
  | { readonly kind: 'after'; readonly after: readonly number[] }
  | { readonly kind: 'undecided' };

/** Combinations of values that are tried before it is said that it can't be said. */
const MAX_COMBINATIONS = 20_000;

const UNDECIDED: Reach = { kind: 'undecided' };

/**
 * Which branches can be taken, in their order: tried out on one value of each extent of each subject, which is exact where
 * every clause compares a subject with constants.
 */
export function reachOf(conditions: readonly OutlineItem[], context: OutlineContext): readonly Reach[] {
  const cut = cutOutlines(conditions, context);
  if (!cut) return conditions.map(() => UNDECIDED);
  const count = cut.subjects.reduce((product, { atoms }) => product * atoms.length, 1);
  if (count > MAX_COMBINATIONS) return conditions.map(() => UNDECIDED);
  const isReached = conditions.map(() => false);
  const before = conditions.map(() => new Set<number>());
  for (let combination = 0; combination < count; combination++) {
    const values = valuesOf(combination, cut.subjects);
    let taken = -1;
    conditions.forEach((_, index) => {
      if (cut.truth(index, values) !== true) return;
      if (taken < 0) {
        taken = index;
        isReached[index] = true;
      } else before[index]?.add(taken);
    });
  }
  return conditions.map((_, index): Reach => {
    if (isReached[index]) return { kind: 'reached' };
    const after = [...(before[index] ?? [])].sort((a, b) => a - b);
    return after.length > 0 ? { kind: 'after', after } : { kind: 'never' };
  });
}

/** The values of a combination, counted through the subjects like the digits of a number. */
function valuesOf(combination: number, subjects: readonly { readonly atoms: readonly { readonly value: Value }[] }[]): Value[] {
  let rest = combination;
  return subjects.map(({ atoms }) => {
    const value = atoms[rest % atoms.length]?.value ?? null;
    rest = Math.floor(rest / atoms.length);
    return value;
  });
}
