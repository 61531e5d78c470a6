import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { Session } from '@ypomet/contract';
import type { CalendarSettings } from '@ypomet/core';
import { callApi } from '../../shared/api.ts';
import { sessionQuery } from '../session/queries.ts';

/** Changes the workspace's settings; whoever is signed in has them at once. */
function useWorkspaceChange<T>(change: (of: T) => Promise<Session['workspace']>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: (workspace) =>
      client.setQueryData<Session | null>(sessionQuery.queryKey, (before) => (before ? { ...before, workspace } : before)),
  });
}

export const usePutCalendar = () =>
  useWorkspaceChange((calendar: CalendarSettings) => callApi('putCalendar', { body: calendar }));
export const usePutNextPages = () =>
  useWorkspaceChange((addresses: readonly string[]) => callApi('putNextPages', { body: { addresses: [...addresses] } }));
