type Page = { readonly next: string | null };

/** How a list is read page by page: `read` asks for the page after a place, or for the first. */
export const pagesOf = <T extends Page>(read: (query: { after?: string }) => Promise<T>) => ({
  queryFn: ({ pageParam }: { pageParam: string | undefined }) => read(pageParam === undefined ? {} : { after: pageParam }),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (page: T): string | undefined => page.next ?? undefined,
});
