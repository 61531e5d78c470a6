import type { Entered } from '../forms/form-state.ts';

/** What a guest began at a public link: the pass it goes with, and what was entered. */
export type Visit = { readonly pass: string; readonly guest: string; readonly entered: Entered; readonly at: number };

const PREFIX = 'ypomet.visit.';
/** A pass that nothing was handed in with is good for a week; a little less, so that a form doesn't run out under one's hands. */
const GOOD_MS = 6.5 * 24 * 3_600_000;

/** What was begun in this browser and is still good; null for nothing. Browsers that keep nothing have nothing. */
export function readVisit(address: string): Visit | null {
  try {
    const text = window.localStorage.getItem(PREFIX + address);
    const visit = text === null ? null : (JSON.parse(text) as Visit);
    return visit && Date.now() - visit.at < GOOD_MS ? visit : null;
  } catch {
    // Storage can be switched off, or hold what another version left: then it is begun afresh.
    return null;
  }
}

/** Keeps what was entered in this browser; null forgets it. */
export function writeVisit(address: string, visit: Visit | null): void {
  try {
    if (visit) window.localStorage.setItem(PREFIX + address, JSON.stringify(visit));
    else window.localStorage.removeItem(PREFIX + address);
  } catch {
    // Storage can be switched off or full: then what was entered is on the page alone.
  }
}
