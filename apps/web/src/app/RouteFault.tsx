import { Button } from '@mantine/core';
import { useRouteError } from 'react-router';
import { Notice } from '../shared/Notice.tsx';

/** What a page shows when it fails to load or to draw. */
export function RouteFault() {
  const error = useRouteError();
  return (
    <main style={{ padding: 40, maxWidth: 620 }}>
      <Notice tone="fault" title="This page couldn’t be shown">
        {error instanceof Error ? error.message : 'Something unexpected happened.'} What was handed on is safe on the server. What
        you typed into a form or a design is kept in this browser and comes back when the page is loaded again.
      </Notice>
      <Button mt="md" onClick={() => window.location.reload()}>
        Load again
      </Button>
    </main>
  );
}
