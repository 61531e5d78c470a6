import { MantineProvider } from '@mantine/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import type { ReactElement } from 'react';
import '@testing-library/jest-dom/jest-globals';

/** What a page has and jsdom lacks. */
class Observer {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
Object.assign(globalThis, { ResizeObserver: Observer, IntersectionObserver: Observer });
Element.prototype.scrollIntoView ??= () => {};
window.matchMedia ??= ((query: string) => ({
  matches: false,
  media: query,
  addEventListener: () => {},
  removeEventListener: () => {},
})) as unknown as typeof window.matchMedia;

/** Renders a part of a page as the application does, without transitions and with queries that fail at once. */
export const renderPart = (part: ReactElement) =>
  render(part, {
    wrapper: ({ children }) => (
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        <MantineProvider env="test">{children}</MantineProvider>
      </QueryClientProvider>
    ),
  });
