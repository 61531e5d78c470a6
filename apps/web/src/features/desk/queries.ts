import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import type { BodyInput } from '@ypomet/contract';
import { callApi } from '../../shared/api.ts';
import { problemText } from '../../shared/problems.ts';

/** By what the records of a workflow can be found on the desk. */
export const deskWorkflowQuery = (key: string) =>
  queryOptions({
    queryKey: ['desk-workflow', key],
    queryFn: () => callApi('deskWorkflow', { params: { key } }),
    staleTime: 60_000,
  });

export const deskViewsQuery = queryOptions({ queryKey: ['desk-views'], queryFn: () => callApi('deskViews') });

/** Keeps a view of the desk under a name, changes it, deletes it. */
export function useDeskViews() {
  const client = useQueryClient();
  const onSettled = () => client.invalidateQueries(deskViewsQuery);
  const keep = useMutation({
    mutationFn: ({ id, ...body }: BodyInput<'addDeskView'> & { readonly id: string | null }) =>
      id === null ? callApi('addDeskView', { body }) : callApi('putDeskView', { params: { id }, body }),
    onSettled,
  });
  const drop = useMutation({ mutationFn: (id: string) => callApi('deleteDeskView', { params: { id } }), onSettled });
  return { keep, drop, fault: keep.isError ? problemText(keep.error) : null };
}
