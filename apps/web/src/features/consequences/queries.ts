import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import type { OutletRequest } from '@ypomet/contract';
import type { RichText } from '@ypomet/core';
import { callApi } from '../../shared/api.ts';

export const outletsQuery = queryOptions({ queryKey: ['outlets'], queryFn: () => callApi('outlets'), staleTime: 15_000 });

function useOutletChange<T, R>(change: (of: T) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: change, onSettled: () => client.invalidateQueries(outletsQuery) });
}

export const usePutOutlet = () =>
  useOutletChange(({ key, ...body }: OutletRequest & { readonly key: string }) =>
    callApi('putOutlet', { params: { key }, body }),
  );
export const useDeleteOutlet = () => useOutletChange((key: string) => callApi('deleteOutlet', { params: { key } }));
export const useTryOutlet = () => useMutation({ mutationFn: (key: string) => callApi('tryOutlet', { params: { key } }) });
export const useMailMe = () =>
  useMutation({
    mutationFn: ({ outlet, subject, body }: { readonly outlet: string; readonly subject: string; readonly body: RichText }) =>
      callApi('mailMe', { params: { key: outlet }, body: { subject, body } }),
  });
