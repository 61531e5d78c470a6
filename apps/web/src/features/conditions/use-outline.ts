import {
  type OutlineGroup,
  parseExpression,
  readOutlineGroup,
  readOutlineJson,
  type Scope,
  writeOutlineJson,
} from '@ypomet/core';
import { useEffect, useRef, useState } from 'react';
import { type UnfinishedPlace, unfinished } from '../expressions/unfinished.ts';
import { textOf } from './editing.ts';

/** The outline of a condition's text; null if the text can't be parsed. A new condition begins as "all of", whatever stands in its place. */
export function outlineOf(text: string): OutlineGroup | null {
  const parsed = parseExpression(text);
  if (!parsed.ok) return null;
  const group = readOutlineGroup(parsed.value);
  return group.of.length === 0 ? { kind: 'group', which: 'all', of: [] } : group;
}

/**
 * - `kept`: the outline says what the condition is.
 * - `blank`: it has no clause, and the condition is always or never so.
 * - `emptied`: it has no clause any more; the condition is still the one before.
 * - `incomplete`: a clause or group lacks something; the condition is still the one before.
 * - `faulty`: it is complete and means nothing; the condition is still the one before.
 */
export type OutlineStatus = 'kept' | 'blank' | 'emptied' | 'incomplete' | 'faulty';

function statusOf(outline: OutlineGroup, text: string, scope: Scope): OutlineStatus {
  if (outline.of.length === 0) return text === 'true' || text === 'false' ? 'blank' : 'emptied';
  const found = textOf(outline, scope);
  return 'text' in found ? 'kept' : found.open;
}

const isUnfinished = (status: OutlineStatus): boolean => status !== 'kept' && status !== 'blank';

export type EditedOutline = {
  /** Null where the text can't be parsed. */
  readonly outline: OutlineGroup | null;
  readonly status: OutlineStatus;
  /** Whether the kept condition changed (by somebody else, or by undo) while this outline was unfinished. */
  readonly isMet: boolean;
  readonly change: (next: OutlineGroup) => void;
  /** Shows what is kept, in the place of what is unfinished. */
  readonly takeBack: () => void;
  /** Shows a condition that is kept together with something else. */
  readonly settle: (text: string) => void;
  /** Takes a condition that was written otherwise: as text, or from elsewhere. */
  readonly take: (text: string) => void;
};

/**
 * The outline of a condition while it is edited. Every complete, sound outline goes to `onSound`; what is unfinished is kept in this
 * browser (for `at`, if one is given), so that neither the other view, nor another page, nor a reload loses it.
 */
export function useOutline(
  text: string,
  at: UnfinishedPlace | null,
  scope: Scope,
  onSound: (text: string) => void,
): EditedOutline {
  const [outline, setOutline] = useState<OutlineGroup | null>(() => keptAt(at) ?? outlineOf(text));
  const [isMet, setMet] = useState(false);
  const last = useRef(text);
  const status = outline ? statusOf(outline, text, scope) : 'kept';
  const isOpen = useRef(false);
  isOpen.current = isUnfinished(status);
  useEffect(() => {
    if (last.current === text) return;
    last.current = text;
    if (isOpen.current) setMet(true);
    else setOutline(outlineOf(text));
  }, [text]);
  const settle = (next: OutlineGroup | null): void => {
    setOutline(next);
    setMet(false);
    if (at) unfinished.outlines.drop(at);
  };
  return {
    outline,
    status,
    isMet: isMet && isUnfinished(status),
    change: (next) => {
      const found = next.of.length > 0 ? textOf(next, scope) : null;
      if (found && 'text' in found) {
        settle(next);
        last.current = found.text;
        onSound(found.text);
      } else if (isUnfinished(statusOf(next, text, scope))) {
        setOutline(next);
        if (at) unfinished.outlines.keep(at, writeOutlineJson(next));
      } else settle(next);
    },
    takeBack: () => settle(outlineOf(text)),
    settle: (next) => {
      settle(outlineOf(next));
      last.current = next;
    },
    take: (next) => {
      settle(outlineOf(next));
      last.current = next;
      onSound(next);
    },
  };
}

function keptAt(at: UnfinishedPlace | null): OutlineGroup | null {
  const kept = at && readOutlineJson(unfinished.outlines.find(at));
  return kept?.kind === 'group' ? kept : null;
}
