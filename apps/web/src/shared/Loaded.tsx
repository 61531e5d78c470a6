import { Button, Skeleton } from '@mantine/core';
import type { UseQueryResult } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Notice } from './Notice.tsx';
import { ApiProblem } from './problems.ts';

/** Things wrong that are told one by one. */
const MOST_DETAILS = 5;

/** A query's loading and error states; its data once there is some. */
export function Loaded<T>({
  query,
  children,
  rows = 4,
}: {
  readonly query: UseQueryResult<T>;
  readonly children: (data: T) => ReactNode;
  readonly rows?: number;
}) {
  if (query.data !== undefined) return children(query.data);
  if (query.isError) {
    const problem = query.error instanceof ApiProblem ? query.error.problem : null;
    return (
      <Notice tone="fault" title={problem?.title ?? 'This couldn’t be loaded'}>
        {problem?.detail ?? query.error.message}{' '}
        {problem?.details.slice(0, MOST_DETAILS).map(({ path, code, message }) => (
          <span key={`${path} ${code}`} style={{ display: 'block' }}>
            {message}
          </span>
        ))}
        <Button variant="subtle" size="compact-sm" onClick={() => query.refetch()}>
          Try again
        </Button>
      </Notice>
    );
  }
  return (
    <div aria-busy="true" role="status" aria-label="Loading">
      {Array.from({ length: rows }, (_, index) => (
        <Skeleton key={String(index)} height={34} mb={8} radius={4} />
      ))}
    </div>
  );
}
