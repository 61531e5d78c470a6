import { Button, Group, Modal } from '@mantine/core';
import { useEffect } from 'react';
import { useBlocker } from 'react-router';

/**
 * Asks before something unkept is left behind: on the way to another page, and when the window closes. `within`: addresses
 * that begin with it are the same place.
 */
export function LeaveGuard({ when, what, within }: { readonly when: boolean; readonly what: string; readonly within?: string }) {
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) =>
      when &&
      currentLocation.pathname !== nextLocation.pathname &&
      !(within !== undefined && nextLocation.pathname.startsWith(within)),
  );
  useEffect(() => {
    if (!when) return;
    const ask = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [when]);
  return (
    <Modal opened={blocker.state === 'blocked'} onClose={() => blocker.reset?.()} title="Leave this page?" centered>
      <p style={{ marginTop: 0 }}>{what}</p>
      <Group justify="flex-end">
        <Button variant="default" onClick={() => blocker.proceed?.()}>
          Leave
        </Button>
        <Button onClick={() => blocker.reset?.()}>Stay</Button>
      </Group>
    </Modal>
  );
}
