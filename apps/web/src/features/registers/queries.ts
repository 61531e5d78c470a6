import { infiniteQueryOptions, keepPreviousData, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import type { BodyInput, HandedOnRow, QueryOf, RegisterEntry, RegisterSettings } from '@ypomet/contract';
import { MAX_HANDED_ON } from '@ypomet/contract/limits';
import { OPERATIONS } from '@ypomet/contract/operations';
import { callApi } from '../../shared/api.ts';
import { inPartsOf } from '../../shared/in-parts.ts';
import { pagesOf } from '../../shared/paged.ts';
import { problemText } from '../../shared/problems.ts';

/** What of a register is asked for, as its address has it. */
export type Narrowing = Pick<RegisterSettings, 'filter' | 'find' | 'sort' | 'direction'>;

/** The registers that the member may see: few change, and every page asks. */
export const ownRegistersQuery = queryOptions({
  queryKey: ['own-registers'],
  queryFn: () => callApi('ownRegisters'),
  staleTime: 300_000,
});

export const registerQuery = (key: string) =>
  queryOptions({ queryKey: ['register', key], queryFn: () => callApi('register', { params: { key } }), staleTime: 60_000 });

/** The records as narrowed, with the values of some fields, at a stage or anywhere. */
export const registerRecordsQuery = (
  key: string,
  { filter, find, sort, direction }: Narrowing,
  shown: readonly string[],
  stage?: string,
) => {
  // The same fields in another order are the same question.
  const fields = [...shown].sort().join(',');
  return infiniteQueryOptions({
    queryKey: ['register', key, 'records', { filter, find, sort, direction, fields, stage }],
    ...pagesOf((query) =>
      callApi('registerRecords', {
        params: { key },
        query: { filter, find, sort, direction, fields, ...(stage === undefined ? {} : { stage }), ...query },
      }),
    ),
    placeholderData: keepPreviousData,
  });
};

/**
 * Reads the records of a register as narrowed, all that aren't finished, page by page; more than `atMost` are not read.
 */
export async function readAllMatching(
  key: string,
  { filter, find, sort, direction }: Narrowing,
  atMost: number,
): Promise<readonly RegisterEntry['record'][]> {
  const found: RegisterEntry['record'][] = [];
  let after: string | null | undefined;
  do {
    const query = { filter, find, sort, direction, limit: 200, ...(after ? { after } : {}) };
    const page = await callApi('registerRecords', { params: { key }, query });
    found.push(...page.entries.flatMap(({ record }) => (record.stageKind === 'end' ? [] : [record])));
    after = page.next;
  } while (after && found.length <= atMost);
  return found.slice(0, atMost);
}

export const registerTotalsQuery = (
  key: string,
  { filter, find }: Pick<Narrowing, 'filter' | 'find'>,
  summed: readonly string[] = [],
) =>
  queryOptions({
    queryKey: ['register', key, 'totals', { filter, find, summed }],
    queryFn: () => callApi('registerTotals', { params: { key }, query: { filter, find, sums: summed.join(',') } }),
    placeholderData: keepPreviousData,
  });

export const registerViewsQuery = (key: string) =>
  queryOptions({ queryKey: ['register', key, 'views'], queryFn: () => callApi('registerViews', { params: { key } }) });

export const watchingQuery = (key: string, weeks: number) =>
  queryOptions({
    queryKey: ['register', key, 'watching', weeks],
    queryFn: () => callApi('watching', { params: { key }, query: { weeks } }),
    placeholderData: keepPreviousData,
  });

/** How an export is written; each part is a query of the operation. */
export type ExportWishes = Required<
  Pick<QueryOf<'exportRegister'>, 'format' | 'tables' | 'table' | 'names' | 'forms' | 'currency' | 'mark'>
>;

/** Where the records as narrowed can be saved from. */
export function exportAddress(
  key: string,
  { filter, find, sort, direction }: Narrowing,
  columns: readonly string[],
  wishes: ExportWishes,
): string {
  const query = new URLSearchParams({ filter, find, sort, direction, columns: columns.join(','), ...wishes });
  return `${OPERATIONS.exportRegister.path.replace(':key', key)}?${query}`;
}

/** Keeps a view under a name, changes it, deletes it. */
export function useViews(key: string) {
  const client = useQueryClient();
  const onSettled = () => client.invalidateQueries({ queryKey: ['register', key, 'views'] });
  const keep = useMutation({
    mutationFn: ({ id, ...body }: BodyInput<'addRegisterView'> & { readonly id: string | null }) =>
      id === null
        ? callApi('addRegisterView', { params: { key }, body })
        : callApi('putRegisterView', { params: { key, id }, body }),
    onSettled,
  });
  const drop = useMutation({
    mutationFn: (id: string) => callApi('deleteRegisterView', { params: { key, id } }),
    onSettled,
  });
  return { keep, drop, fault: keep.isError ? problemText(keep.error) : null };
}

/** The hand-offs that can be pressed on some records, asked for in parts. */
export const offeredQuery = (ids: readonly string[]) =>
  queryOptions({
    queryKey: ['offered', ids],
    queryFn: async () =>
      (
        await Promise.all(
          inPartsOf(ids, MAX_HANDED_ON).map((part) => callApi('offeredHandOffs', { body: { records: [...part] } })),
        )
      ).flat(),
    gcTime: 0,
  });

/** Hands records on, or tries it out: one sent twice in a run is handed on once. */
export const takeBack = async (records: BodyInput<'takeBackMany'>['records']) =>
  (await callApi('takeBackMany', { body: { records } })).rows;

export const sendHandOns = async (body: BodyInput<'handOnMany'>, signal: AbortSignal): Promise<readonly HandedOnRow[]> =>
  (await callApi('handOnMany', { body, signal })).rows;
