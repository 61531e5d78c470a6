import { infiniteQueryOptions, keepPreviousData, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import type { BodyInput, DeskSettings, FormDocument, ResponseOf } from '@ypomet/contract';
import { decidesByPatterns, loadPatternEngine } from '@ypomet/core';
import { callApi } from '../../shared/api.ts';
import { pagesOf } from '../../shared/paged.ts';

export const deskQuery = ({ workflow, stage, ...shown }: DeskSettings) =>
  infiniteQueryOptions({
    queryKey: ['desk', { workflow, stage, ...shown }],
    ...pagesOf((query) =>
      callApi('desk', {
        query: { ...shown, ...(workflow === null ? {} : { workflow }), ...(stage === null ? {} : { stage }), ...query },
      }),
    ),
    placeholderData: keepPreviousData,
    refetchInterval: 20_000,
  });

export const deskSummaryQuery = queryOptions({
  queryKey: ['desk', 'summary'],
  queryFn: () => callApi('deskSummary'),
  refetchInterval: 20_000,
});

export const colleaguesQuery = (id: string, search: string) =>
  queryOptions({
    queryKey: ['colleagues', id, search],
    queryFn: () => callApi('colleagues', { params: { id }, query: { search } }),
    placeholderData: keepPreviousData,
  });

/** Takes a record, gives it back, or hands it over. */
export function usePossess(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ revision, ...possession }: BodyInput<'possess'> & { readonly revision: number }) =>
      callApi('possess', { params: { id }, body: possession, revision }),
    onSettled: () => {
      void client.invalidateQueries({ queryKey: ['record', id] });
      forgetLists(client);
    },
  });
}

export const submittedQuery = infiniteQueryOptions({
  queryKey: ['submitted'],
  ...pagesOf((query) => callApi('submitted', { query })),
});

export const intakesQuery = queryOptions({ queryKey: ['intakes'], queryFn: () => callApi('intakes') });

/** A form, once what it decides by is there: the engine of patterns is loaded for expressions that call for one. */
export async function ready<T extends { readonly definition: FormDocument['definition'] }>(form: T): Promise<T> {
  if (decidesByPatterns(form.definition)) await loadPatternEngine();
  return form;
}
async function withReadyForm<T extends { readonly form: FormDocument }>(answer: Promise<T>): Promise<T> {
  await ready((await answer).form);
  return answer;
}

const LOOK_AGAIN_MS = 2000;

export const recordQuery = (id: string) =>
  queryOptions({
    queryKey: ['record', id],
    queryFn: () => withReadyForm(callApi('record', { params: { id } })),
    refetchOnWindowFocus: false,
    // While the queue opens records from this one, nothing of it changes by itself: look again how far it is.
    refetchInterval: ({ state }) => (state.data && state.data.opening > 0 ? LOOK_AGAIN_MS : false),
  });

/** All of a record that the member may see, to read. */
export const shownQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ['record', id, 'shown', revision],
    queryFn: async () => ready(await callApi('shownRecord', { params: { id } })),
  });

export const intakeQuery = (key: string, stage: string) =>
  queryOptions({
    queryKey: ['intake', key, stage],
    queryFn: () => withReadyForm(callApi('intake', { params: { key, stage }, body: { values: {} } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });

export type Values = NonNullable<BodyInput<'recordForm'>['values']>;

/** Asks the server for a form again, with what was entered so far. */
export const askRecordForm = async (id: string, values: Values) =>
  ready(await callApi('recordForm', { params: { id }, body: { values } }));
export const askIntakeForm = async (key: string, stage: string, values: Values) =>
  (await withReadyForm(callApi('intake', { params: { key, stage }, body: { values } }))).form;

export const findRecordChoices = (id: string, field: string, search: string) =>
  callApi('recordChoices', { params: { id }, query: { field, search } });
export const findIntakeChoices = (key: string, stage: string, field: string, search: string) =>
  callApi('intakeChoices', { params: { key, stage }, query: { field, search } });

/** Hands a record on. The key makes a repeat (a double click, a lost answer) act once. */
export function useHandOn(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({
      handOff,
      values,
      revision,
      idempotencyKey,
    }: {
      handOff: string;
      values: Values;
      revision: number;
      idempotencyKey: string;
    }) => callApi('handOn', { params: { id }, body: { handOff, values }, revision, idempotencyKey }),
    onSuccess: () => forgetLists(client),
  });
}

export function useBegin(key: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({
      stage,
      handOff,
      values,
      idempotencyKey,
    }: {
      stage: string;
      handOff: string;
      values: Values;
      idempotencyKey: string;
    }): Promise<ResponseOf<'begin'>> => callApi('begin', { params: { key }, body: { stage, handOff, values }, idempotencyKey }),
    onSuccess: () => forgetLists(client),
  });
}

function forgetLists(client: ReturnType<typeof useQueryClient>): void {
  for (const queryKey of [['desk'], ['submitted'], ['deliveries'], ['mailbox'], ['workflows']])
    void client.invalidateQueries({ queryKey });
}
