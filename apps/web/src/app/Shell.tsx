import { UnstyledButton } from '@mantine/core';
import { useClickOutside } from '@mantine/hooks';
import { type UseQueryResult, useQuery } from '@tanstack/react-query';
import type { Session } from '@ypomet/contract';
import { useEffect, useRef, useState } from 'react';
import { Navigate, NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import { waitingQuery } from '../features/dispatch/queries.ts';
import { CommandsProvider, useCommands } from '../features/palette/commands-context.tsx';
import { ownRegistersQuery } from '../features/registers/queries.ts';
import { sessionQuery, useSignOut } from '../features/session/queries.ts';
import { Loaded } from '../shared/Loaded.tsx';
import { SchemeSwitch } from '../shared/SchemeSwitch.tsx';
import { usePageTitle } from '../shared/use-page-title.ts';
import classes from './Shell.module.css';

/** The frame around every page of someone signed in: where they are, where they can go, who they are. */
export function Shell() {
  const session = useQuery(sessionQuery);
  const location = useLocation();
  if (session.data === null)
    return <Navigate to={`/sign-in?to=${encodeURIComponent(location.pathname + location.search + location.hash)}`} replace />;
  return <SignedIn session={session} place={location.pathname} />;
}

function SignedIn({ session, place }: { readonly session: UseQueryResult<Session | null>; readonly place: string }) {
  const isAnalyst = session.data?.member.roles.includes('analyst') === true;
  const content = useRef<HTMLDivElement>(null);
  usePageTitle(content);
  const from = useRef(place);
  // Whoever goes on to another page by the keyboard is at its beginning then, not at the window's.
  useEffect(() => {
    if (from.current === place) return;
    from.current = place;
    if (window.document.activeElement === window.document.body) content.current?.focus({ preventScroll: true });
  }, [place]);
  const page = (
    <div className={classes.shell}>
      <a className={classes.skip} href="#content">
        Skip to the content
      </a>
      <header className={classes.bar}>
        <NavLink to="/" className={classes.mark ?? ''} aria-label="Ypomet, start">
          ypomet
        </NavLink>
        {session.data && <Places roles={session.data.member.roles} />}
        <div className={classes.end}>
          {isAnalyst && <FindAnything />}
          <SchemeSwitch />
          {session.data && <Me name={session.data.member.name} workspace={session.data.workspace.name} />}
        </div>
      </header>
      <div id="content" ref={content} className={classes.content} tabIndex={-1}>
        {session.data ? (
          <Outlet />
        ) : (
          <div className={classes.waiting}>
            <Loaded query={session}>{() => null}</Loaded>
          </div>
        )}
      </div>
    </div>
  );
  return isAnalyst ? <CommandsProvider>{page}</CommandsProvider> : page;
}

function FindAnything() {
  const { open } = useCommands();
  return (
    <UnstyledButton className={classes.find} onClick={open} aria-keyshortcuts="Control+K">
      Find anything <kbd className="mono">Ctrl K</kbd>
    </UnstyledButton>
  );
}

function Places({ roles }: { readonly roles: readonly string[] }) {
  const registers = useQuery(ownRegistersQuery);
  const register = (registers.data ?? []).length > 0 ? [['/registers', 'Registers']] : [];
  const places = roles.includes('analyst')
    ? [['/workflows', 'Workflows'], ['/desk', 'Desk'], ...register, ['/dispatch', 'Dispatch']]
    : [['/desk', 'Desk'], ...register];
  return (
    <nav aria-label="Places" className={classes.places}>
      {places.map(([to = '', name]) => (
        <NavLink key={to} to={to} className={({ isActive }) => `${classes.place} ${isActive ? classes.here : ''}`}>
          {name}
          {to === '/dispatch' && <WaitingMark />}
        </NavLink>
      ))}
    </nav>
  );
}

/** How many deliveries wait for a person: whoever can mend them sees it from anywhere. */
function WaitingMark() {
  const { data } = useQuery(waitingQuery);
  if (!data || data.waiting + data.standing.length === 0) return null;
  const waits = data.waiting === 1 ? 'One delivery waits for a person' : `${data.waiting} deliveries wait for a person`;
  const text = data.standing.length > 0 ? `${waits}, and some that are queued don’t move` : waits;
  return (
    <span className={classes.tally} role="img" aria-label={text} title={text}>
      {data.standing.length > 0 ? '!' : data.waiting > 99 ? '99+' : data.waiting}
    </span>
  );
}

/** Who is signed in, and the way out. */
function Me({ name, workspace }: { readonly name: string; readonly workspace: string }) {
  const [isOpen, setOpen] = useState(false);
  const around = useClickOutside(() => setOpen(false));
  const signOut = useSignOut();
  const navigate = useNavigate();
  return (
    <div ref={around} className={classes.who}>
      <UnstyledButton
        className={classes.me}
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
        onKeyDown={(event) => event.key === 'Escape' && setOpen(false)}
      >
        {name}
      </UnstyledButton>
      {isOpen && (
        <div className={classes.out}>
          <p>{workspace}</p>
          <UnstyledButton onClick={() => signOut.mutate(undefined, { onSuccess: () => navigate('/sign-in') })}>
            Sign out
          </UnstyledButton>
        </div>
      )}
    </div>
  );
}
