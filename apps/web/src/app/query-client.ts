import { QueryClient } from '@tanstack/react-query';
import { isWorthRetrying } from '../shared/problems.ts';

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: { retry: isWorthRetrying, staleTime: 5_000, refetchOnWindowFocus: true },
    mutations: { retry: false },
  },
});
