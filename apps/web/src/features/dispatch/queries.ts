import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import type { ReceiverMode } from '@ypomet/contract';
import { callApi } from '../../shared/api.ts';
import { pagesOf } from '../../shared/paged.ts';

/** What the dispatch log is narrowed to. */
export type LogFilter = {
  readonly status?: 'queued' | 'sent' | 'waiting';
  readonly outlet?: string;
  readonly workflow?: string;
  readonly record?: string;
  readonly from?: string;
  readonly to?: string;
};

export const deliveriesQuery = (filter: LogFilter) =>
  infiniteQueryOptions({
    queryKey: ['deliveries', filter],
    ...pagesOf((query) => callApi('deliveries', { query: { ...query, ...filter } })),
    refetchInterval: 5_000,
  });

export const deliveryQuery = (id: string) =>
  queryOptions({ queryKey: ['delivery', id], queryFn: () => callApi('delivery', { params: { id } }), refetchInterval: 5_000 });

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

export const receiverQuery = queryOptions({ queryKey: ['receiver'], queryFn: () => callApi('receiver'), refetchInterval: 3_000 });
export const registersQuery = queryOptions({
  queryKey: ['file-registers'],
  queryFn: () => callApi('registers'),
  refetchInterval: 5_000,
});

export function useSetReceiver() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (mode: ReceiverMode) => callApi('setReceiver', { body: { mode } }),
    onSuccess: (page) => client.setQueryData(receiverQuery.queryKey, page),
  });
}

/** Tries waiting deliveries again: one, several, or all of an outlet. */
export function useRetry() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (which: { readonly ids?: string[]; readonly outlet?: string }) => callApi('retryDeliveries', { body: which }),
    onSettled: () =>
      Promise.all(['deliveries', 'delivery', 'outlets'].map((key) => client.invalidateQueries({ queryKey: [key] }))),
  });
}
