import { Edit } from '@ypomet/core';
import { TAB_PREFIX } from '../../shared/tab-storage.ts';

/** What takes back the edit of an id. */
export type Step = { readonly id: string; readonly inverse: Edit };

/** The undo and redo of a draft as a page left them. */
export type KeptSteps = {
  /** The draft's revision that the page had. */
  readonly revision: number;
  /** Ids of edits that were on their way to the server: whether they arrived isn't known. */
  readonly pending: readonly string[];
  /** The last edit is the last one. */
  readonly undo: readonly Step[];
  readonly redo: readonly Step[];
};

/** Steps kept of each kind; older ones can't be taken back after a reload. */
const MAX_STEPS = 100;
/** Browsers keep about five million characters for all pages of a server together. */
const MAX_CHARACTERS = 1_000_000;

const keyOf = (member: string, workflow: string): string => `${TAB_PREFIX}steps.${member}.${workflow}`;

/** Keeps the steps of a draft for this tab, the latest ones where all are too many. */
export function keepSteps(member: string, workflow: string, steps: KeptSteps): void {
  const latest = (most: number): KeptSteps => ({ ...steps, undo: steps.undo.slice(-most), redo: steps.redo.slice(-most) });
  for (let most = MAX_STEPS; most >= 1; most = Math.floor(most / 2)) {
    const text = JSON.stringify(latest(most));
    if (text.length > MAX_CHARACTERS) continue;
    try {
      window.sessionStorage.setItem(keyOf(member, workflow), text);
      return;
    } catch (error) {
      // The browser's space is full, or it keeps nothing.
      if (!(error instanceof DOMException)) throw error;
    }
  }
}

/** Returns the steps that were kept of a draft and keeps them no longer; null where there are none that can be read. */
export function takeSteps(member: string, workflow: string): KeptSteps | null {
  try {
    const key = keyOf(member, workflow);
    const text = window.sessionStorage.getItem(key);
    window.sessionStorage.removeItem(key);
    return text === null ? null : readSteps(JSON.parse(text));
  } catch (error) {
    if (error instanceof DOMException || error instanceof SyntaxError) return null;
    throw error;
  }
}

/** Steps of another version of the application may hold edits that this one doesn't know: then there are none. */
function readSteps(json: unknown): KeptSteps | null {
  if (json === null || typeof json !== 'object') return null;
  const { revision, pending, undo, redo } = json as Record<string, unknown>;
  const isStep = (one: unknown): boolean => {
    const { id, inverse } = (one ?? {}) as Record<string, unknown>;
    return typeof id === 'string' && Edit.safeParse(inverse).success;
  };
  const areSteps = (list: unknown): list is readonly Step[] => Array.isArray(list) && list.every(isStep);
  const areIds = (list: unknown): list is readonly string[] => Array.isArray(list) && list.every((id) => typeof id === 'string');
  return typeof revision === 'number' && areIds(pending) && areSteps(undo) && areSteps(redo)
    ? { revision, pending, undo, redo }
    : null;
}
