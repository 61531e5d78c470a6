/** @jest-environment jsdom */
import { expect, test } from '@jest/globals';
import { useInfiniteQuery } from '@tanstack/react-query';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { renderPart } from '../../testing/render.tsx';
import { LoadedPages } from './LoadedPages.tsx';
import { pagesOf } from './paged.ts';

type Page = { readonly entries: readonly string[]; readonly next: string | null };

function List({ read }: { readonly read: (query: { after?: string }) => Promise<Page> }) {
  const list = useInfiniteQuery({ queryKey: ['list'], ...pagesOf(read) });
  return (
    <LoadedPages list={list} empty={<p>Nothing here yet.</p>}>
      {(entries) => (
        <ul>
          {entries.map((entry) => (
            <li key={entry}>{entry}</li>
          ))}
        </ul>
      )}
    </LoadedPages>
  );
}

const shown = (): readonly (string | null)[] => screen.queryAllByRole('listitem').map((item) => item.textContent);

test('pages follow one another, each asked for by the place of the one before', async () => {
  const asked: ({ after?: string } | undefined)[] = [];
  const pages: Readonly<Record<string, Page>> = { '': { entries: ['a', 'b'], next: 'b' }, b: { entries: ['c'], next: null } };
  renderPart(
    <List
      read={async (query) => {
        asked.push(query);
        return pages[query.after ?? ''] as Page;
      }}
    />,
  );
  expect(screen.getByRole('status', { name: 'Loading' })).toBeInTheDocument();
  await screen.findByText('b');
  await userEvent.click(screen.getByRole('button', { name: 'More' }));
  await screen.findByText('c');
  expect(shown()).toEqual(['a', 'b', 'c']);
  expect(asked).toEqual([{}, { after: 'b' }]);
  expect(screen.queryByRole('button', { name: 'More' })).toBeNull();
});

test('what is empty says so, and has no more', async () => {
  renderPart(<List read={async () => ({ entries: [], next: null })} />);
  await screen.findByText('Nothing here yet.');
  expect(screen.queryByRole('button')).toBeNull();
});

test('a first page that fails can be asked for again', async () => {
  let isDown = true;
  renderPart(
    <List
      read={async () => {
        if (isDown) throw new Error('the line is dead');
        return { entries: ['a'], next: null };
      }}
    />,
  );
  expect(await screen.findByRole('alert')).toHaveTextContent('the line is dead');
  isDown = false;
  await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
  await screen.findByText('a');
});

test('a later page that fails leaves what is there, says so, and can be asked for again', async () => {
  let isDown = true;
  renderPart(
    <List
      read={async ({ after }) => {
        if (after !== undefined && isDown) throw new Error('the line is dead');
        return after === undefined ? { entries: ['a'], next: 'a' } : { entries: ['b'], next: null };
      }}
    />,
  );
  await screen.findByText('a');
  await userEvent.click(screen.getByRole('button', { name: 'More' }));
  expect(await screen.findByRole('alert')).toHaveTextContent('More couldn’t be loaded.');
  expect(shown()).toEqual(['a']);
  isDown = false;
  await userEvent.click(screen.getByRole('button', { name: 'More' }));
  await waitFor(() => expect(shown()).toEqual(['a', 'b']));
  expect(screen.queryByRole('alert')).toBeNull();
});
