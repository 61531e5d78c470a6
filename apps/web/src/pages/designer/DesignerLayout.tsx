import { Button, Tooltip } from '@mantine/core';
import { Notifications, notifications } from '@mantine/notifications';
import '@mantine/notifications/styles.css';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { describeTerm, termOfPart } from '@ypomet/core';
import { lazy, memo, type ReactNode, Suspense, useCallback, useEffect, useRef, useState } from 'react';
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigate, useParams } from 'react-router';
import { addressOfPart } from '../../features/drafts/address-of-part.ts';
import { Conflicts } from '../../features/drafts/Conflicts.tsx';
import { DraftProvider, useDraft, useDraftState } from '../../features/drafts/draft-context.tsx';
import { DraftStore } from '../../features/drafts/draft-store.ts';
import { keepSteps, takeSteps } from '../../features/drafts/kept-steps.ts';
import { OpenPoints } from '../../features/drafts/OpenPoints.tsx';
import { PresenceProvider, usePresence } from '../../features/drafts/presence.tsx';
import { draftQuery, fileToReadInKey } from '../../features/drafts/queries.ts';
import { Keys as KeysOfHelp, showKeys } from '../../features/help/Keys.tsx';
import { type Command, partCommands } from '../../features/palette/commands.ts';
import { useOffer } from '../../features/palette/commands-context.tsx';
import { RehearsalKeeper } from '../../features/rehearsal/rehearsal-context.tsx';
import { sessionQuery, useSession } from '../../features/session/queries.ts';
import { LeaveGuard } from '../../shared/LeaveGuard.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import classes from './Designer.module.css';

const PublishDialog = lazy(() =>
  import('../../features/drafts/PublishDialog.tsx').then((module) => ({ default: module.PublishDialog })),
);

const ReadInDialog = lazy(() => import('./ReadInDialog.tsx').then((module) => ({ default: module.ReadInDialog })));

/** The frame of the designer: which workflow, whether it is kept, and the ways to look at it. */
export function DesignerLayout() {
  const { workflow = '' } = useParams();
  const query = useQuery(draftQuery(workflow));
  const [store, setStore] = useState<DraftStore | null>(null);
  const { member } = useSession();
  const client = useQueryClient();
  useEffect(() => {
    if (query.data && store?.key !== workflow) {
      const opened = new DraftStore(workflow, query.data, (message) => notifications.show({ message, color: 'yellow' }));
      const steps = takeSteps(member.id, workflow);
      if (steps) void opened.recall(steps);
      setStore(opened);
    }
  }, [query.data, workflow, store, member.id]);
  useEffect(() => {
    if (!store) return;
    const keep = (): void => {
      // After sign-out nothing may stay in the tab.
      if (client.getQueryData(sessionQuery.queryKey)) keepSteps(member.id, store.key, store.steps());
    };
    window.addEventListener('pagehide', keep);
    return () => {
      window.removeEventListener('pagehide', keep);
      keep();
    };
  }, [store, member.id, client]);
  const { pathname } = useLocation();
  if (/\/workflows\/[^/]+\/?$/.test(pathname)) return <Navigate to={`/workflows/${workflow}/plan`} replace />;
  if (!store || store.key !== workflow) {
    return (
      <div className={classes.waiting}>
        <Loaded query={query} rows={10}>
          {() => null}
        </Loaded>
      </div>
    );
  }
  return (
    <DraftProvider key={store.key} store={store}>
      <PresenceProvider store={store}>
        <RehearsalKeeper>
          <Notifications position="bottom-left" />
          <div className={classes.designer}>
            <div>
              <Bar />
              <Conflicts />
              <WaitingFile workflow={store.key} />
            </div>
            <Keys>
              <Outlet />
            </Keys>
          </div>
        </RehearsalKeeper>
      </PresenceProvider>
    </DraftProvider>
  );
}

/** A definition file that was chosen in the list of workflows, and is of this one. */
function WaitingFile({ workflow }: { readonly workflow: string }) {
  const client = useQueryClient();
  const [isThere] = useState(() => client.getQueryData(fileToReadInKey(workflow)) !== undefined);
  return (
    isThere && (
      <Suspense>
        <ReadInDialog />
      </Suspense>
    )
  );
}

function Bar() {
  const { store } = useDraft();
  const snapshot = useDraftState();
  const { definition, publishedVersion, differs, keep } = snapshot;
  const [isPublishing, setPublishing] = useState(false);
  const publish = useCallback(() => setPublishing(true), []);
  useKeptOnLeaving(store);
  useFocusOnShown();
  const base = `/workflows/${definition.key}`;
  const state = differs ? `Draft of v${(publishedVersion ?? 0) + 1}` : `v${publishedVersion}, unchanged`;
  return (
    <header className={classes.bar}>
      <Up />
      <h1 className={classes.name}>{definition.name}</h1>
      <span className={classes.state}>{state}</span>
      <OpenPoints />
      <Views base={base} />
      <Others />
      <span className={classes.keep} role="status" data-status={keep.status}>
        {keep.status === 'kept' ? 'Kept' : keep.status === 'keeping' ? 'Keeping …' : 'Not kept'}
      </span>
      {keep.status === 'not-kept' && (
        <Tooltip label={keep.message}>
          <Button size="compact-sm" variant="default" onClick={() => store.retry()}>
            Try again
          </Button>
        </Tooltip>
      )}
      <Steps store={store} canUndo={snapshot.canUndo} canRedo={snapshot.canRedo} />
      <Publish isDisabled={!differs} onPublish={publish} />
      <LeaveGuard
        when={keep.status !== 'kept'}
        within={base}
        what="Your last changes of this draft are not kept on the server yet and would be lost."
      />
      {isPublishing && (
        <Suspense>
          <PublishDialog isOpen onClose={() => setPublishing(false)} />
        </Suspense>
      )}
    </header>
  );
}

/** An input is kept when it is left. A window that closes or is loaded again leaves none of them: this leaves the one with the focus. */
function useKeptOnLeaving(store: DraftStore): void {
  useEffect(() => {
    const leave = (): void => {
      if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
      store.leave();
    };
    window.addEventListener('pagehide', leave);
    return () => window.removeEventListener('pagehide', leave);
  }, [store]);
}

/** Number of frames to wait for the panel that a link opens; after that the focus stays where it is. */
const MAX_FRAMES = 120;

/** Where a link or a command leads to a part, the panel that shows it takes the focus, so that the keyboard goes on from there. */
function useFocusOnShown(): void {
  const { state, key } = useLocation();
  const isAsked = (state as { readonly isShown?: boolean } | null)?.isShown === true;
  // The page that opens removes the part from its address at once, which clears the location's state: the ref remembers it.
  const wish = useRef<string | null>(null);
  if (isAsked) wish.current = key;
  useEffect(() => {
    if (wish.current !== key) return;
    const look = (frames: number): void => {
      const panel = window.document.querySelector<HTMLElement>('[data-shown]');
      if (panel && window.document.querySelector('[data-mantine-shared-portal-node] [role="dialog"]') === null) panel.focus();
      else if (frames > 0) requestAnimationFrame(() => look(frames - 1));
    };
    requestAnimationFrame(() => look(MAX_FRAMES));
  }, [key]);
}

/** What follows stays as it is with most edits, so that an edit doesn't draw it again. */
const Up = memo(function Up() {
  return (
    <Link to="/workflows" className={classes.up}>
      Workflows /
    </Link>
  );
});

type StepsProps = { readonly store: DraftStore; readonly canUndo: boolean; readonly canRedo: boolean };

const Steps = memo(function Steps({ store, canUndo, canRedo }: StepsProps) {
  return (
    <>
      <Button size="compact-md" variant="default" disabled={!canUndo} onClick={() => store.undo()} aria-keyshortcuts="Control+Z">
        Undo
      </Button>
      <Button
        size="compact-md"
        variant="default"
        disabled={!canRedo}
        onClick={() => store.redo()}
        aria-keyshortcuts="Control+Shift+Z"
      >
        Redo
      </Button>
    </>
  );
});

const Publish = memo(function Publish({
  isDisabled,
  onPublish,
}: {
  readonly isDisabled: boolean;
  readonly onPublish: () => void;
}) {
  return (
    <Button size="compact-md" disabled={isDisabled} onClick={onPublish}>
      Publish
    </Button>
  );
});

/** The ways to look at the workflow; none of them changes with an edit. */
const Views = memo(function Views({ base }: { readonly base: string }) {
  return (
    <nav aria-label="Views" className={classes.views}>
      {[
        ['plan', 'Plan'],
        ['decisions', 'Decisions'],
        ['consequences', 'Consequences'],
        ['rehearse', 'Rehearse'],
        ['versions', 'Versions'],
        ['intakes', 'Public intake'],
      ].map(([to, name]) => (
        <NavLink key={to} to={`${base}/${to}`} className={({ isActive }) => `${classes.view} ${isActive ? classes.here : ''}`}>
          {name}
        </NavLink>
      ))}
    </nav>
  );
});

/** Who else is at the draft, and where. */
function Others() {
  const { others } = usePresence();
  const { definition } = useDraft();
  if (others.length === 0) return null;
  return (
    <ul className={classes.others} aria-label="Also at this draft">
      {others.map(({ tab, name, part }) => (
        <li key={tab} title={part === null ? name : `${name}, at ${describeTerm(termOfPart(definition, part))}`}>
          <span className={classes.initials} aria-hidden="true">
            {initialsOf(name)}
          </span>
          <span className={classes.where}>{part === null ? name : describeTerm(termOfPart(definition, part))}</span>
        </li>
      ))}
    </ul>
  );
}

const initialsOf = (name: string): string =>
  name
    .split(/\s+/)
    .map((word) => [...word][0] ?? '')
    .slice(0, 2)
    .join('');

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Undo, redo, and the way to the rehearsal, from anywhere in the designer. */
function Keys({ children }: { readonly children: ReactNode }) {
  const { store } = useDraft();
  const navigate = useNavigate();
  useOffer(() => {
    const command = (name: string, run: () => void): Command => ({ id: name, name, group: 'Do', run });
    return [
      command('Undo', () => store.undo()),
      command('Redo', () => store.redo()),
      command('All keys', showKeys),
      ...partCommands(
        store.definition(),
        (part) => void navigate(addressOfPart(store.definition(), part), { state: { isShown: true } }),
      ),
    ];
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      const isCommand = event.ctrlKey || event.metaKey;
      const letter = event.key.toLowerCase();
      if (isCommand && (letter === 'z' || letter === 'y') && !isTyping(event.target)) {
        event.preventDefault();
        if (letter === 'y' || event.shiftKey) store.redo();
        else store.undo();
      }
      if (event.key === '/' && !isTyping(event.target)) {
        const find = window.document.querySelector<HTMLElement>('[data-find]');
        if (find) event.preventDefault();
        find?.focus();
      }
      if (event.altKey && !event.shiftKey && event.code === 'KeyR') {
        event.preventDefault();
        navigate(`/workflows/${store.key}/${window.location.pathname.endsWith('/rehearse') ? 'plan' : 'rehearse'}`);
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [store, navigate]);
  return (
    <>
      {children}
      <KeysOfHelp />
    </>
  );
}
