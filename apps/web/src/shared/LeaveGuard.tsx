import { lazy, Suspense, useEffect } from 'react';
import { useBlocker } from 'react-router';

/** Loaded when it is asked for: most never leave anything behind. */
const LeaveDialog = lazy(() => import('./LeaveDialog.tsx').then((module) => ({ default: module.LeaveDialog })));

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
  if (blocker.state !== 'blocked') return null;
  return (
    <Suspense>
      <LeaveDialog what={what} onLeave={() => blocker.proceed()} onStay={() => blocker.reset()} />
    </Suspense>
  );
}
