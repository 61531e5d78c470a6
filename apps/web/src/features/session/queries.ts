import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Session } from '@ypomet/contract';
import { createContext, useContext } from 'react';
import { callApi } from '../../shared/api.ts';
import { ApiProblem } from '../../shared/problems.ts';
import { forgetTab } from '../../shared/tab-storage.ts';
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

/** Who is there without being signed in: a guest, on pages of their own. */
const SessionContext = createContext<Session | null>(null);
export const SessionProvider = SessionContext.Provider;

/** Whoever is there: a guest, or who is signed in. Only for pages inside a frame that sees to it that somebody is. */
export function useSession(): Session {
  const guest = useContext(SessionContext);
  const { data: member } = useQuery({ ...sessionQuery, enabled: guest === null });
  const data = guest ?? member;
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
      forgetTab();
      client.clear();
      client.setQueryData(sessionQuery.queryKey, null);
    },
  });
}
