import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { isSameData } from '../../shared/use-same.ts';
import type { Entered } from '../forms/form-state.ts';
import { useSession } from '../session/queries.ts';
import { type Content, isNothing, type Meeting, meetingsOf, mergeContents, NOTHING, settled, withEntered } from './content.ts';
import { type Keeping, UnfinishedKeeper } from './keeper.ts';
import { readLocalCopy } from './local-copy.ts';
import { unfinishedQuery } from './queries.ts';

/** What was there of a form when it was opened. */
export type Begun = {
  readonly place: string;
  readonly content: Content;
  readonly revision: number;
  /** When the server had it last; null when only this browser has it, or nothing is there. */
  readonly at: string | null;
  /** Names of the members and records that were entered, by id. */
  readonly names: Readonly<Record<string, string>>;
  /** Whether this browser holds something that the server doesn't have yet. */
  readonly isAhead: boolean;
};

/** What the member had entered in a form before: on the server, and in this browser. Undefined while it is on its way. */
export function useBegun(place: string): Begun | undefined {
  const { member } = useSession();
  const query = useQuery(unfinishedQuery(place));
  const [local] = useState(() => readLocalCopy(member.id, place));
  return useMemo(() => {
    if (query.isPending) return undefined;
    // A server that can't be reached has whatever it has: it is taken in with the first change that reaches it.
    const { entered, base, revision, at, names } = query.data ?? { ...NOTHING, revision: 0, at: null, names: {} };
    const there = { entered, base } as Content;
    // What goes on from what the server has stands in its place; what another window kept since goes under it.
    const own = local && (local.revision === revision ? local.content : mergeContents(local.content, there));
    return { place, content: own ?? there, revision, at, names, isAhead: local !== null };
  }, [place, query.isPending, query.data, local]);
}

export type Unfinished = {
  readonly entered: Entered;
  readonly enter: (change: (before: Entered) => Entered) => void;
  readonly keeping: Keeping;
  /** Fields that others changed since they were entered here. */
  readonly meetings: readonly Meeting[];
  readonly settle: (meeting: Meeting, isMine: boolean) => void;
  /** Forgets all of it: it was handed on, or given up. */
  readonly forget: () => void;
};

/** What is entered in a form, kept as one types. `stored` is what the record has. */
export function useUnfinished(begun: Begun, stored: Entered): Unfinished {
  const { member } = useSession();
  const client = useQueryClient();
  const [content, setContent] = useState(begun.content);
  const [keeping, setKeeping] = useState<Keeping>({ status: isNothing(begun.content) ? 'nothing' : 'kept' });
  const [keeper] = useState(
    () => new UnfinishedKeeper(member.id, begun.place, begun.revision, { onKeeping: setKeeping, onMerged: setContent }),
  );
  const latest = useRef(content);
  latest.current = content;
  const known = useRef(stored);
  known.current = stored;
  const put = useCallback(
    (next: Content): void => {
      latest.current = next;
      setContent(next);
      keeper.put(next);
    },
    [keeper],
  );
  useEffect(() => {
    if (begun.isAhead) keeper.put(latest.current);
  }, [keeper, begun.isAhead]);
  useEffect(() => {
    const flush = (): void => void keeper.flush();
    window.addEventListener('online', flush);
    return () => window.removeEventListener('online', flush);
  }, [keeper]);
  useEffect(
    () => () => void keeper.end().then(() => client.invalidateQueries({ queryKey: ['unfinished'], exact: true })),
    [keeper, client],
  );
  const enter = useCallback(
    (change: (before: Entered) => Entered): void => {
      const entered = change(latest.current.entered);
      // Inputs say again what they hold when they are left.
      if (!isSameData(entered, latest.current.entered)) put(withEntered(latest.current, entered, known.current));
    },
    [put],
  );
  const settle = useCallback((meeting: Meeting, isMine: boolean) => put(settled(latest.current, meeting, isMine)), [put]);
  const forget = useCallback((): void => {
    setContent(NOTHING);
    keeper
      .forget()
      // Where the server can't be told, the form shows it as begun once more; nothing else follows.
      .catch(() => {})
      .finally(() => void client.invalidateQueries({ queryKey: ['unfinished'], exact: true }));
  }, [keeper, client]);
  const meetings = useMemo(() => meetingsOf(content, stored), [content, stored]);
  return { entered: content.entered, enter, keeping, meetings, settle, forget };
}
