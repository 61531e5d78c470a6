import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import { callApi } from '../../shared/api.ts';
import { pagesOf } from '../../shared/paged.ts';

export const deliveriesQuery = infiniteQueryOptions({
  queryKey: ['deliveries'],
  ...pagesOf((query) => callApi('deliveries', { query })),
  refetchInterval: 5_000,
});

export const mailboxQuery = infiniteQueryOptions({
  queryKey: ['mailbox'],
  ...pagesOf((query) => callApi('mailbox', { query })),
  refetchInterval: 5_000,
});

export const mailQuery = (id: string) =>
  queryOptions({
    queryKey: ['mail', id],
    queryFn: () => callApi('mail', { params: { id } }),
    staleTime: Number.POSITIVE_INFINITY,
  });

export function useRetryDelivery() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => callApi('retryDelivery', { params: { id } }),
    onSettled: () => client.invalidateQueries({ queryKey: ['deliveries'] }),
  });
}
