import { Button } from '@mantine/core';
import { useState } from 'react';
import { formatInstant } from '../../shared/instants.ts';
import { Notice } from '../../shared/Notice.tsx';
import { useSession } from '../session/queries.ts';
import { isNothing } from './content.ts';
import type { Begun } from './use-unfinished.ts';

/** Says that the form was begun before, once, with the way to begin it afresh. */
export function BegunNotice({ begun, onForget }: { readonly begun: Begun; readonly onForget: () => void }) {
  const { workspace } = useSession();
  const [isOpen, setOpen] = useState(!isNothing(begun.content));
  if (!isOpen) return null;
  return (
    <Notice tone="calm" title="You began this before, and what you entered is here">
      {begun.at !== null && `Last changed ${formatInstant(begun.at, workspace)}. `}
      <Button variant="subtle" size="compact-sm" onClick={() => setOpen(false)}>
        Go on with it
      </Button>
      <Button
        variant="subtle"
        size="compact-sm"
        onClick={() => {
          setOpen(false);
          onForget();
        }}
      >
        Give it up, begin afresh
      </Button>
    </Notice>
  );
}
