import { infiniteQueryOptions, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import type { CorrectionRequest, DeliveryStatus, ReceiverMode } from '@ypomet/contract';
import { callApi } from '../../shared/api.ts';
import { pagesOf } from '../../shared/paged.ts';

/** What the dispatch log is narrowed to. */
export type LogFilter = {
  readonly status?: DeliveryStatus;
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

/** How many deliveries wait for a person. */
export const waitingQuery = queryOptions({
  queryKey: ['deliveries-waiting'],
  queryFn: () => callApi('waitingDeliveries'),
  refetchInterval: 60_000,
});

/** What is asked for anew when a delivery was settled: the log, and the page of its record. */
const OF_DELIVERIES = ['deliveries', 'deliveries-waiting', 'delivery', 'outlets', 'record'] as const;
const useAfterSettling = () => {
  const client = useQueryClient();
  return () => Promise.all(OF_DELIVERIES.map((key) => client.invalidateQueries({ queryKey: [key] })));
};

/** Says of a waiting delivery that it isn't sent any more. */
export function usePutAway(id: string) {
  const onSettled = useAfterSettling();
  return useMutation({
    mutationFn: (reason: string) => callApi('putAwayDelivery', { params: { id }, body: { reason } }),
    onSettled,
  });
}

/** Puts a waiting delivery right and tries it again. */
export function useCorrect(id: string) {
  const onSettled = useAfterSettling();
  return useMutation({
    mutationFn: (correction: CorrectionRequest) => callApi('correctDelivery', { params: { id }, body: correction }),
    onSettled,
  });
}

/** Tries one waiting delivery again. */
export function useRetryOne(id: string) {
  const onSettled = useAfterSettling();
  return useMutation({ mutationFn: () => callApi('retryDelivery', { params: { id } }), onSettled });
}

/** Tries waiting deliveries again: one, several, or all of an outlet. */
export function useRetry() {
  const onSettled = useAfterSettling();
  return useMutation({
    mutationFn: (which: { readonly ids?: string[]; readonly outlet?: string }) => callApi('retryDeliveries', { body: which }),
    onSettled,
  });
}
