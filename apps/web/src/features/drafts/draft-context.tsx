import { useQuery, useQueryClient } from '@tanstack/react-query';
import {
  CompilationMemory,
  type CompiledWorkflow,
  type Diagnostic,
  isFault,
  openStoredWorkflow,
  prepareWorkflow,
  type Surroundings,
  type UsedParts,
  type Workflow,
  workflowsNamedBy,
} from '@ypomet/core';
import {
  createContext,
  type ReactNode,
  useContext,
  useDeferredValue,
  useEffect,
  useMemo,
  useState,
  useSyncExternalStore,
} from 'react';
import { outletsQuery } from '../consequences/queries.ts';
import { useSession } from '../session/queries.ts';
import type { DraftSnapshot, DraftStore } from './draft-store.ts';
import { membersQuery, neighboursQuery } from './queries.ts';
import { useExamined } from './use-examined.ts';

type Draft = {
  readonly store: DraftStore;
  readonly definition: Workflow;
  readonly compiled: CompiledWorkflow;
  /** What stands in the way of publishing, and what can be accepted with a reason. */
  readonly faults: readonly Diagnostic[];
  readonly warnings: readonly Diagnostic[];
  /** What names what, as a worker found it. */
  readonly used: UsedParts;
};

const DraftContext = createContext<Draft | null>(null);
/** Whether faults and warnings are of the draft as it is now: a worker looks for them. It changes twice with every edit. */
const ExaminedContext = createContext(false);
export const useIsExamined = (): boolean => useContext(ExaminedContext);

/** What a design may name of the workspace; null until all of it is known. */
function useSurroundings(key: string): Surroundings | null {
  const { workspace } = useSession();
  const { data: neighbours } = useQuery(neighboursQuery(key));
  const outlets = useQuery(outletsQuery);
  const members = useQuery(membersQuery);
  return useMemo(
    () =>
      outlets.data && members.data && neighbours
        ? {
            outlets: outlets.data.map(({ key, settings }) => [key, settings.kind] as const),
            members: members.data.map(({ id }) => id),
            nextPages: workspace.nextPages,
            openings: neighbours.openings,
          }
        : null,
    [outlets.data, members.data, workspace.nextPages, neighbours],
  );
}

/**
 * Loads the neighbouring workflows again when the draft names a workflow that isn't among them, whether somebody chose it, pasted
 * it, brought it back by undo, or a colleague did. Waits until the edit is kept, since the server answers from the kept draft. A
 * workflow that doesn't exist is asked for once.
 */
function useNewlyNamed(store: DraftStore, neighbours: readonly Workflow[] | null): void {
  const client = useQueryClient();
  const definition = useSyncExternalStore(store.subscribe, store.definition);
  const unknown = useMemo(() => {
    if (!neighbours) return '';
    const known = new Set([definition.key, ...neighbours.map(({ key }) => key)]);
    return workflowsNamedBy(definition)
      .filter((key) => !known.has(key))
      .join();
  }, [definition, neighbours]);
  useEffect(() => {
    if (unknown === '') return;
    store
      .settle()
      .then(() => client.invalidateQueries(neighboursQuery(store.key)))
      .catch(() => 'what isn’t kept says so itself');
  }, [unknown, store, client]);
}

type ProviderProps = { readonly store: DraftStore; readonly children: ReactNode };

/** Gives the pages of the designer the draft, beside what it may name of the workspace. */
export function DraftProvider({ store, children }: ProviderProps) {
  const query = useQuery(neighboursQuery(store.key));
  const neighbours = useMemo(() => query.data?.workflows.map((one) => openStoredWorkflow(one)) ?? null, [query.data]);
  const surroundings = useSurroundings(store.key);
  useNewlyNamed(store, neighbours);
  return (
    <DraftBeside store={store} neighbours={neighbours} surroundings={surroundings}>
      {children}
    </DraftBeside>
  );
}

/**
 * The draft, kept compiled: what an edit touches is compiled when it is first asked for, the rest is as it was. What is wrong
 * with the whole comes from a worker.
 */
function DraftBeside({
  store,
  neighbours,
  surroundings,
  children,
}: ProviderProps & { readonly neighbours: readonly Workflow[] | null; readonly surroundings: Surroundings | null }) {
  const definition = useSyncExternalStore(store.subscribe, store.definition);
  const findWorkflow = useMemo(() => {
    if (!neighbours) return null;
    const known = new Map(neighbours.map((one) => [one.key, one]));
    return (key: string) => known.get(key) ?? null;
  }, [neighbours]);
  useEffect(() => store.know(findWorkflow), [store, findWorkflow]);
  const [memory] = useState(() => new CompilationMemory());
  const compiled = useMemo(() => prepareWorkflow(definition, findWorkflow, memory), [definition, findWorkflow, memory]);
  const { diagnostics, isCurrent, used } = useExamined(store, neighbours, surroundings);
  const draft = useMemo(() => {
    const [faults, warnings] = [diagnostics.filter(isFault), diagnostics.filter((one) => !isFault(one))];
    return { store, definition, compiled, faults, warnings, used };
  }, [store, definition, compiled, diagnostics, used]);
  return (
    <DraftContext value={draft}>
      <ExaminedContext value={isCurrent}>{children}</ExaminedContext>
    </DraftContext>
  );
}

export function useDraft(): Draft {
  const draft = useContext(DraftContext);
  if (!draft) throw new Error('outside a draft');
  return draft;
}

/** Shows what is in it of the draft as it was a moment ago: an edit made elsewhere is painted there first. */
export function LaterDraft({ children }: { readonly children: ReactNode }) {
  return <DraftContext value={useDeferredValue(useDraft())}>{children}</DraftContext>;
}

/** Whether the draft is kept, and what it is a draft of: apart from the definition, which changes less often. */
export function useDraftState(): DraftSnapshot {
  const { store } = useDraft();
  return useSyncExternalStore(store.subscribe, store.get);
}
