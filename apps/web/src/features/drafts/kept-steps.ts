import { Edit } from '@ypomet/core';
import { TAB_PREFIX } from '../../shared/tab-storage.ts';

/** An edit that was made, by its id, and the edit that takes it back. */
export type Step = { readonly id: string; readonly inverse: Edit };

/** The edits that a page could undo and redo when it was left. */
export type KeptSteps = {
  /** The revision of the draft that the page had loaded. */
  readonly revision: number;
  /** Ids of edits that were on their way to the server: whether they arrived isn't known. */
  readonly pending: readonly string[];
  /** In the order in which the edits were made. */
  readonly undo: readonly Step[];
  readonly redo: readonly Step[];
};

/** Maximum number of undo steps, and of redo steps, that are kept. Older steps can't be undone after a reload. */
const MAX_STEPS = 100;
/** Maximum length of the stored JSON. Browsers give all pages of one server about five million characters together. */
const MAX_CHARACTERS = 1_000_000;

const keyOf = (member: string, workflow: string): string => `${TAB_PREFIX}steps.${member}.${workflow}`;

/** Stores the steps of a draft in this tab; if they are too many or too long, only the latest of them. */
export function keepSteps(member: string, workflow: string, steps: KeptSteps): void {
  const latest = (most: number): KeptSteps => ({ ...steps, undo: steps.undo.slice(-most), redo: steps.redo.slice(-most) });
  for (let most = MAX_STEPS; most >= 1; most = Math.floor(most / 2)) {
    const text = JSON.stringify(latest(most));
    if (text.length > MAX_CHARACTERS) continue;
    try {
      window.sessionStorage.setItem(keyOf(member, workflow), text);
      return;
    } catch (error) {
      // The browser's storage is full or switched off.
      if (!(error instanceof DOMException)) throw error;
    }
  }
}

/** Returns the stored steps of a draft and removes them from the tab. Null if there are none, or if they can't be read. */
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

/** Returns null for steps of another shape: an earlier or later version of the application may have stored edits that this one doesn't know. */
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
