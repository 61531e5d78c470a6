import { QueryClient } from '@tanstack/react-query';
import { ApiProblem } from '../shared/api.ts';

/** Refusals are final; only what never reached the server is tried again. */
const isWorthRetrying = (failures: number, error: Error): boolean => !(error instanceof ApiProblem) && failures < 2;

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: { retry: isWorthRetrying, staleTime: 5_000, refetchOnWindowFocus: true },
    mutations: { retry: false },
  },
});
