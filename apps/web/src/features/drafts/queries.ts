import { queryOptions } from '@tanstack/react-query';
import { callApi } from '../../shared/api.ts';

export const workflowsQuery = queryOptions({ queryKey: ['workflows'], queryFn: () => callApi('workflows') });
export const draftQuery = (key: string) =>
  queryOptions({
    queryKey: ['draft', key],
    queryFn: () => callApi('draft', { params: { key } }),
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
export const versionsQuery = (key: string) =>
  queryOptions({ queryKey: ['versions', key], queryFn: () => callApi('versions', { params: { key } }) });

/** A file that holds no JSON, told apart from a server that can't be reached. */
export class NoJson extends Error {}

function readJson(text: string): { readonly key?: string } {
  try {
    return JSON.parse(text) as { key?: string };
  } catch (error) {
    if (error instanceof SyntaxError) throw new NoJson('It holds no JSON. Choose a file that was saved as a definition.');
    throw error;
  }
}

export const neighboursQuery = (key: string) =>
  queryOptions({ queryKey: ['neighbours', key], queryFn: () => callApi('neighbours', { params: { key } }), staleTime: 60_000 });
export const membersQuery = queryOptions({ queryKey: ['members'], queryFn: () => callApi('members'), staleTime: 60_000 });

/** Reads a definition file in: a new workflow, or a new draft of the one with its key. */
export async function importDefinition(file: File): Promise<{ key: string; isNew: boolean }> {
  const definition = readJson(await file.text());
  const existing = (await callApi('workflows')).find((workflow) => workflow.key === definition.key);
  if (!existing) {
    const created = await callApi('createWorkflow', { body: definition as never });
    return { key: created.definition.key, isNew: true };
  }
  await callApi('replaceDraft', { params: { key: existing.key }, revision: existing.draftRevision, body: definition as never });
  return { key: existing.key, isNew: false };
}
