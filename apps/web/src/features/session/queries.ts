import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Session } from '@ypomet/contract';
import { ApiProblem, callApi } from '../../shared/api.ts';
import { forgetLocalCopies } from '../unfinished/local-copy.ts';

export const sessionQuery = queryOptions({
  queryKey: ['session'],
  queryFn: async (): Promise<Session | null> => {
    try {
      return await callApi('session');
    } catch (error) {
      if (error instanceof ApiProblem && error.problem.status === 401) return null;
      throw error;
    }
  },
  staleTime: 60_000,
});

export const demoMembersQuery = queryOptions({
  queryKey: ['demo-members'],
  queryFn: () => callApi('demoMembers'),
  staleTime: Number.POSITIVE_INFINITY,
});

/** Whoever is signed in. Only for pages inside the shell, which sees to it that somebody is. */
export function useSession(): Session {
  const { data } = useQuery(sessionQuery);
  if (!data) throw new Error('nobody is signed in');
  return data;
}

export function useSignIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { email: string; password: string }) => callApi('signIn', { body }),
    onSuccess: (session) => {
      client.clear();
      client.setQueryData(sessionQuery.queryKey, session);
    },
  });
}

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => callApi('signOut'),
    onSuccess: () => {
      forgetLocalCopies();
      client.clear();
      client.setQueryData(sessionQuery.queryKey, null);
    },
  });
}
