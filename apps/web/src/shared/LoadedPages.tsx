import { Button } from '@mantine/core';
import type { InfiniteData, UseInfiniteQueryResult } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Loaded } from './Loaded.tsx';
import { Notice } from './Notice.tsx';

/** A list that is read page by page: loading, failing, empty, its entries so far, and the way to more of them. */
export function LoadedPages<Entry>({
  list,
  empty,
  children,
  rows,
}: {
  readonly list: UseInfiniteQueryResult<InfiniteData<{ readonly entries: readonly Entry[] }>>;
  /** What to say, and what to do next, while there is nothing. */
  readonly empty: ReactNode;
  readonly children: (entries: readonly Entry[]) => ReactNode;
  readonly rows?: number;
}) {
  return (
    <Loaded query={list} {...(rows === undefined ? {} : { rows })}>
      {({ pages }) => {
        const entries = pages.flatMap((page) => page.entries);
        if (entries.length === 0) return empty;
        return (
          <>
            {children(entries)}
            {list.isFetchNextPageError && <Notice tone="fault">More couldn’t be loaded. Try again.</Notice>}
            {list.hasNextPage && (
              <Button variant="default" size="xs" mt="sm" loading={list.isFetchingNextPage} onClick={() => list.fetchNextPage()}>
                More
              </Button>
            )}
          </>
        );
      }}
    </Loaded>
  );
}
