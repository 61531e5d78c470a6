import { useQuery } from '@tanstack/react-query';
import { type CompiledWorkflow, compileWorkflow, type Diagnostic, isFault, openStoredWorkflow } from '@ypomet/core';
import { createContext, type ReactNode, useContext, useDeferredValue, useMemo, useSyncExternalStore } from 'react';
import type { DraftSnapshot, DraftStore } from './draft-store.ts';
import { neighboursQuery } from './queries.ts';

type Draft = {
  readonly store: DraftStore;
  readonly snapshot: DraftSnapshot;
  readonly compiled: CompiledWorkflow;
  /** What stands in the way of publishing, and what can be accepted with a reason. */
  readonly faults: readonly Diagnostic[];
  readonly warnings: readonly Diagnostic[];
};

const DraftContext = createContext<Draft | null>(null);

/**
 * Gives the pages of the designer the draft, compiled once per change beside the workflows it refers to. Compiling a large
 * draft takes longer than a key should: what was changed is painted first, what follows from it right after.
 */
export function DraftProvider({ store, children }: { readonly store: DraftStore; readonly children: ReactNode }) {
  const snapshot = useSyncExternalStore(store.subscribe, store.get);
  const settled = useDeferredValue(snapshot.definition);
  const neighbours = useQuery(neighboursQuery(store.key));
  const findWorkflow = useMemo(() => {
    if (!neighbours.data) return null;
    const known = new Map(neighbours.data.map((one) => [one.key, openStoredWorkflow(one)]));
    return (key: string) => known.get(key) ?? null;
  }, [neighbours.data]);
  const compiled = useMemo(() => compileWorkflow(settled, findWorkflow), [settled, findWorkflow]);
  const draft = useMemo(() => {
    const [faults, warnings] = [compiled.diagnostics.filter(isFault), compiled.diagnostics.filter((one) => !isFault(one))];
    return { store, snapshot, compiled, faults, warnings };
  }, [store, snapshot, compiled]);
  return <DraftContext value={draft}>{children}</DraftContext>;
}

export function useDraft(): Draft {
  const draft = useContext(DraftContext);
  if (!draft) throw new Error('outside a draft');
  return draft;
}
