import { type CompiledWorkflow, compileWorkflow } from '@ypomet/core';
import { createContext, type ReactNode, useContext, useDeferredValue, useMemo, useSyncExternalStore } from 'react';
import type { DraftSnapshot, DraftStore } from './draft-store.ts';

type Draft = { readonly store: DraftStore; readonly snapshot: DraftSnapshot; readonly compiled: CompiledWorkflow };

const DraftContext = createContext<Draft | null>(null);

/**
 * Gives the pages of the designer the draft, compiled once per change. Compiling a large draft takes longer than a key
 * should: what was changed is painted first, what follows from it right after.
 */
export function DraftProvider({ store, children }: { readonly store: DraftStore; readonly children: ReactNode }) {
  const snapshot = useSyncExternalStore(store.subscribe, store.get);
  const settled = useDeferredValue(snapshot.definition);
  const compiled = useMemo(() => compileWorkflow(settled), [settled]);
  const draft = useMemo(() => ({ store, snapshot, compiled }), [store, snapshot, compiled]);
  return <DraftContext value={draft}>{children}</DraftContext>;
}

export function useDraft(): Draft {
  const draft = useContext(DraftContext);
  if (!draft) throw new Error('outside a draft');
  return draft;
}
