import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import { callApi } from '../../shared/api.ts';

/** What the server has of a form that was begun. Asked for anew whenever the form is opened. */
export const unfinishedQuery = (place: string) =>
  queryOptions({
    queryKey: ['unfinished', place],
    queryFn: () => callApi('unfinishedForm', { params: { place } }),
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
  });

export const unfinishedListQuery = queryOptions({
  queryKey: ['unfinished'],
  queryFn: () => callApi('unfinishedForms'),
  staleTime: 0,
});

/** Gives up what was entered in a form. */
export function useForgetUnfinished() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (place: string) => callApi('forgetUnfinishedForm', { params: { place } }),
    onSettled: () => void client.invalidateQueries({ queryKey: ['unfinished'], exact: true }),
  });
}
