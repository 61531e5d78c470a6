import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import type { BodyInput, PublicLinkEntry, PublicLinkSettings } from '@ypomet/contract';
import { callApi } from '../../shared/api.ts';
import { ready } from '../records/queries.ts';

export { actAs } from '../../shared/api.ts';

/** The intakes of a workflow's published version, with their public links. */
export const publicLinksQuery = (key: string) =>
  queryOptions({ queryKey: ['public-links', key], queryFn: () => callApi('publicLinks', { params: { key } }) });

function useLinkChange<T>(key: string, change: (of: T) => Promise<PublicLinkEntry>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    // One after another: what was changed last is what stays.
    scope: { id: `public links of ${key}` },
    onSuccess: (entry) =>
      client.setQueryData(publicLinksQuery(key).queryKey, (list) =>
        list?.map((one) => (one.stage === entry.stage ? entry : one)),
      ),
  });
}

export const usePutLink = (key: string, stage: string) =>
  useLinkChange(key, (body: PublicLinkSettings) => callApi('putPublicLink', { params: { key, stage }, body }));
export const useRenewLink = (key: string, stage: string) =>
  useLinkChange<void>(key, () => callApi('renewPublicLink', { params: { key, stage } }));

/** What a public link offers whoever opens it. */
export const publicIntakeQuery = (address: string) =>
  queryOptions({
    queryKey: ['public', address],
    queryFn: async () => {
      const found = await callApi('publicIntake', { params: { address } });
      if (found.intake) await ready(found.intake.form);
      return found;
    },
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnWindowFocus: false,
  });

/** The record that a pass leads to. */
export const followedQuery = (pass: string) =>
  queryOptions({ queryKey: ['followed', pass], queryFn: () => callApi('followed'), refetchOnWindowFocus: false });

type Values = BodyInput<'publicForm'>['values'];

export const askPublicForm = async (address: string, values: Values) =>
  ready(await callApi('publicForm', { params: { address }, body: { values } }));

type Beginning = BodyInput<'beginPublicly'> & { readonly idempotencyKey: string };

export const useBeginPublicly = (address: string) =>
  useMutation({
    mutationFn: ({ idempotencyKey, ...body }: Beginning) =>
      callApi('beginPublicly', { params: { address }, body, idempotencyKey }),
  });

export const confirmAddress = (token: string) => callApi('confirmAddress', { body: { token } });
