import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import { decidesByPatterns, type Json, loadPatternEngine, makeKey, openStoredWorkflow, type Workflow } from '@ypomet/core';
import { callApi } from '../../shared/api.ts';
import { pagesOf } from '../../shared/paged.ts';
import type { DraftStore } from './draft-store.ts';

export const workflowsQuery = queryOptions({ queryKey: ['workflows'], queryFn: () => callApi('workflows') });
/** Workflows whose drafts say something anywhere: in names, labels, conditions, texts. */
export const foundWorkflowsQuery = (find: string) =>
  queryOptions({ queryKey: ['workflows', find], queryFn: () => callApi('workflows', { query: { find } }) });
export const draftQuery = (key: string) =>
  queryOptions({
    queryKey: ['draft', key],
    queryFn: async () => {
      const draft = await callApi('draft', { params: { key } });
      if (decidesByPatterns(openStoredWorkflow(draft.definition))) await loadPatternEngine();
      return draft;
    },
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
export const versionsQuery = (key: string) =>
  queryOptions({ queryKey: ['versions', key], queryFn: () => callApi('versions', { params: { key } }) });

/** A published version with its definition; it never changes. */
export const versionQuery = (key: string, number: number) =>
  queryOptions({
    queryKey: ['version', key, number],
    queryFn: () => callApi('version', { params: { key, number } }),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** The draft as it was after a revision; that never changes either. */
export const earlierDraftQuery = (key: string, revision: number) =>
  queryOptions({
    queryKey: ['draft-at', key, revision],
    queryFn: () => callApi('draftAt', { params: { key, revision } }),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** What was changed in a draft up to a revision, newest first. */
export const draftEditsQuery = (key: string, revision: number) =>
  infiniteQueryOptions({
    queryKey: ['draft-edits', key, revision],
    ...pagesOf((query) => callApi('draftEdits', { params: { key }, query })),
  });

/** A file that holds no JSON, told apart from a server that can't be reached. */
export class NoJson extends Error {}

function readJson(text: string): Readonly<Record<string, Json>> {
  try {
    return JSON.parse(text) as Readonly<Record<string, Json>>;
  } catch (error) {
    if (error instanceof SyntaxError) throw new NoJson('It holds no JSON. Choose a file that was saved as a definition.');
    throw error;
  }
}

export const neighboursQuery = (key: string) =>
  queryOptions({ queryKey: ['neighbours', key], queryFn: () => callApi('neighbours', { params: { key } }), staleTime: 60_000 });
/** What publishing a draft takes, as of a revision; `along`: keys of further workflows to be published with it. */
export const publicationQuery = (store: DraftStore, revision: number, along: readonly string[]) =>
  queryOptions({
    queryKey: ['publication', store.key, revision, along],
    queryFn: async () => {
      await store.settle();
      return callApi('publication', { params: { key: store.key }, query: { along: along.join(',') } });
    },
    staleTime: 0,
    gcTime: 0,
    retry: false,
    placeholderData: keepPreviousData,
  });
export const membersQuery = queryOptions({ queryKey: ['members'], queryFn: () => callApi('members'), staleTime: 60_000 });

/** Makes a workflow of a definition; its key. */
export const createWorkflow = async (definition: Readonly<Record<string, Json>>): Promise<string> =>
  (await callApi('createWorkflow', { body: definition as never })).definition.key;

/** What a definition file holds, unchecked. */
export type DefinitionFile = Readonly<Record<string, Json>>;

/** Where a file whose workflow exists waits for the designer, which asks what is to become of it. */
export const fileToReadInKey = (workflow: string) => ['definition-file', workflow] as const;

/** Reads a definition file. If no workflow has its key, one is made of it; nothing happens to one that is there. */
export async function readDefinitionFile(
  file: File,
): Promise<{ readonly key: string; readonly isNew: boolean; readonly definition: DefinitionFile }> {
  const definition = readJson(await file.text());
  const existing = (await callApi('workflows')).find((workflow) => workflow.key === definition.key);
  if (existing) return { key: existing.key, isNew: false, definition };
  return { key: await createWorkflow(definition), isNew: true, definition };
}

/** Makes a further workflow of a definition whose key is taken, under a name and key of its own; its key. */
export const createBeside = (definition: Workflow, taken: ReadonlySet<string>): Promise<string> =>
  createWorkflow(renamedCopy(definition as unknown as DefinitionFile, `Copy of ${definition.name}`.slice(0, 200), taken));

const renamedCopy = (definition: DefinitionFile, name: string, taken: ReadonlySet<string>): DefinitionFile => ({
  ...definition,
  name,
  key: makeKey(name, taken, 'workflow'),
});

/** Makes a workflow of another one's draft, under a name of its own; its key. */
export async function copyWorkflow(key: string, name: string, taken: ReadonlySet<string>): Promise<string> {
  const { definition } = await callApi('draft', { params: { key } });
  return createWorkflow(renamedCopy(definition as unknown as DefinitionFile, name, taken));
}

/** Tells the other pages at a draft which part is selected on this one. */
export const tellPlace = (key: string, tab: string, part: string | null): Promise<null> =>
  callApi('standAt', { params: { key }, body: { tab, part } });
