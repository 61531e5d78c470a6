import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import { callApi } from '../../shared/api.ts';

const nextPage = (page: { next: string | null }): string | undefined => page.next ?? undefined;

export const deliveriesQuery = infiniteQueryOptions({
  queryKey: ['deliveries'],
  queryFn: ({ pageParam }) => callApi('deliveries', { query: pageParam ? { after: pageParam } : {} }),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: nextPage,
  refetchInterval: 5_000,
});

export const mailboxQuery = infiniteQueryOptions({
  queryKey: ['mailbox'],
  queryFn: ({ pageParam }) => callApi('mailbox', { query: pageParam ? { after: pageParam } : {} }),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: nextPage,
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
