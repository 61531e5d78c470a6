import { type Typing, withOrigin } from './types.ts';

/** A name an expression may read: where its value stands in the frame's slots, and what it means. */
export type ScopeEntry = {
  readonly typing: Typing;
  readonly slot: number;
};

/** The names in scope, by name. Made once per workflow (and once per table, which adds `row`). */
export type Scope = { readonly entries: ReadonlyMap<string, ScopeEntry> };

/** A scope in which each name stands in the slot of its position. */
export function makeScope(names: Readonly<Record<string, Typing>>): Scope {
  const entries = new Map<string, ScopeEntry>();
  for (const [name, typing] of Object.entries(names)) entries.set(name, { typing: withOrigin(typing, name), slot: entries.size });
  return { entries };
}

/** What a name in a tree was resolved to. */
export type Reference =
  | { readonly kind: 'slot'; readonly slot: number }
  /** The item of a loop or filter, by its depth. */
  | { readonly kind: 'local'; readonly local: number }
  /** An entry of a filter's item: `objects[fragile]`. */
  | { readonly kind: 'entry'; readonly local: number };
