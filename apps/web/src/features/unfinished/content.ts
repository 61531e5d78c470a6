import type { Json } from '@ypomet/core';
import { isSameData } from '../../shared/use-same.ts';
import type { Entered } from '../forms/form-state.ts';

/** What was entered in a form, and what its record had in those fields when that began. */
export type Content = { readonly entered: Entered; readonly base: Entered };

export const NOTHING: Content = { entered: {}, base: {} };
export const isNothing = ({ entered }: Content): boolean => Object.keys(entered).length === 0;

/** The content after something was entered; a field's base is what the record had when the field was first entered. */
export function withEntered({ base }: Content, entered: Entered, stored: Entered): Content {
  const keys = Object.keys(entered);
  return {
    entered,
    base: Object.fromEntries(
      keys
        .map((key) => [key, Object.hasOwn(base, key) ? base[key] : stored[key]] as const)
        .map(([key, value]) => [key, value ?? null]),
    ),
  };
}

/** What one person entered in two windows: nothing of either is lost; of a field that both have, this window's stays. */
export const mergeContents = (own: Content, other: Content): Content => ({
  entered: { ...other.entered, ...own.entered },
  base: { ...other.base, ...own.base },
});

/** A field that was entered here and changed in the record meanwhile, to something else. */
export type Meeting = { readonly key: string; readonly mine: Json; readonly theirs: Json };

/** Where what was entered meets what others changed since. */
export function meetingsOf({ entered, base }: Content, stored: Entered): readonly Meeting[] {
  return Object.entries(entered).flatMap(([key, mine]) => {
    const theirs = stored[key] ?? null;
    const isChanged = Object.hasOwn(base, key) && !isSameData(base[key] ?? null, theirs);
    return isChanged && !isSameData(mine, theirs) ? [{ key, mine, theirs }] : [];
  });
}

/** The content once a meeting is settled: what was entered stays, knowing what is there now, or is let go. */
export function settled(content: Content, { key, theirs }: Meeting, isMine: boolean): Content {
  if (isMine) return { ...content, base: { ...content.base, [key]: theirs } };
  const without = (of: Entered): Entered => Object.fromEntries(Object.entries(of).filter(([other]) => other !== key));
  return { entered: without(content.entered), base: without(content.base) };
}
