import type { DraftEvent } from '@ypomet/contract';
import { OPERATIONS } from '@ypomet/contract/operations';
import type { Path } from '@ypomet/core';
import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from 'react';
import type { DraftStore } from './draft-store.ts';
import { tellPlace } from './queries.ts';

/** Another page at the draft: whose, and which part is selected there. */
export type Other = { readonly tab: string; readonly name: string; readonly part: Path | null };

type Presence = {
  readonly others: readonly Other[];
  /** Tells the others what is selected here. */
  readonly standAt: (part: Path | null) => void;
};

const PresenceContext = createContext<Presence>({ others: [], standAt: () => {} });

/** Said again so often, else the others forget who is here. */
const AGAIN_MS = 30_000;
const FORGOTTEN_MS = 75_000;
const REST_MS = 400;

/** Keeps the draft as the others make it, and knows where they are. */
export function PresenceProvider({ store, children }: { readonly store: DraftStore; readonly children: ReactNode }) {
  const [others, setOthers] = useState<ReadonlyMap<string, Other & { readonly at: number }>>(new Map());
  const [tab] = useState(() => crypto.randomUUID());
  const place = useRef<Path | null>(null);
  const tell = useRef<() => void>(() => {});
  const resting = useRef<ReturnType<typeof setTimeout> | null>(null);
  useEffect(() => {
    const address = OPERATIONS.watchDraft.path.replace(':key', encodeURIComponent(store.key));
    const source = new EventSource(`${address}?tab=${tab}`);
    const say = (): void => {
      // Nobody misses it when it can't be said: it is said again.
      void tellPlace(store.key, tab, place.current).catch(() => {});
    };
    tell.current = say;
    source.addEventListener('open', () => {
      say();
      void store.refresh(null);
    });
    source.addEventListener('message', ({ data }: MessageEvent<string>) => {
      const event = JSON.parse(data) as DraftEvent;
      if (event.type === 'changed') void store.refresh(event.revision);
      else if (event.type === 'gone') setOthers((before) => without(before, event.tab));
      else setOthers((before) => new Map(before).set(event.tab, { ...event, at: Date.now() }));
    });
    // What waits is kept when the connection is there again, whoever notices it first.
    const onOnline = (): void => void store.refresh(null);
    window.addEventListener('online', onOnline);
    const timer = setInterval(() => {
      say();
      if (store.get().keep.status === 'not-kept') onOnline();
      const now = Date.now();
      setOthers((before) => {
        const kept = [...before].filter(([, { at }]) => now - at < FORGOTTEN_MS);
        return kept.length === before.size ? before : new Map(kept);
      });
    }, AGAIN_MS);
    return () => {
      source.close();
      window.removeEventListener('online', onOnline);
      clearInterval(timer);
    };
  }, [store, tab]);
  const presence = useMemo(
    () => ({
      others: [...others.values()],
      standAt: (part: Path | null): void => {
        if (part === place.current) return;
        place.current = part;
        // Whoever moves on with the arrow keys is somewhere when they rest.
        if (resting.current !== null) clearTimeout(resting.current);
        resting.current = setTimeout(() => tell.current(), REST_MS);
      },
    }),
    [others],
  );
  return <PresenceContext value={presence}>{children}</PresenceContext>;
}

const without = <T,>(map: ReadonlyMap<string, T>, key: string): ReadonlyMap<string, T> =>
  new Map([...map].filter(([own]) => own !== key));

export const usePresence = (): Presence => useContext(PresenceContext);
