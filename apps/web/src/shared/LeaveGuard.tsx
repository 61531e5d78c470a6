import { lazy, Suspense, useEffect } from 'react';
import { useBlocker } from 'react-router';

/** Loaded beside the page, so that it is there when the network isn't: most never leave anything behind. */
const loadDialog = () => import('./LeaveDialog.tsx').then((module) => ({ default: module.LeaveDialog }));
const LeaveDialog = lazy(loadDialog);

/** The page itself comes first. */
const PRELOAD_AFTER_MS = 2000;

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
    const timer = setTimeout(() => void loadDialog().catch(() => 'asked for again when it is needed'), PRELOAD_AFTER_MS);
    return () => clearTimeout(timer);
  }, []);
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
