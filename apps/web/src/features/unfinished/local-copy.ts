import type { Content } from './content.ts';

/** What this browser holds, and which of the server's revisions it goes on from. */
export type LocalCopy = { readonly content: Content; readonly revision: number };

const PREFIX = 'ypomet.form.';
const keyOf = (member: string, place: string): string => `${PREFIX}${member}.${place}`;

/** What this browser holds of a member's form until the server has it; null when it holds nothing. */
export function readLocalCopy(member: string, place: string): LocalCopy | null {
  try {
    const kept: unknown = JSON.parse(window.localStorage.getItem(keyOf(member, place)) ?? 'null');
    if (kept === null || typeof kept !== 'object' || Array.isArray(kept)) return null;
    const { entered = {}, base = {}, revision = 0 } = kept as Partial<Content & { revision: number }>;
    return { content: { entered, base }, revision };
  } catch {
    // A browser that keeps nothing, or a text that isn't ours: there is no copy.
    return null;
  }
}

/** Whether it was written: a browser may refuse, or be full. */
export function writeLocalCopy(member: string, place: string, copy: LocalCopy | null): boolean {
  try {
    if (copy === null) window.localStorage.removeItem(keyOf(member, place));
    else window.localStorage.setItem(keyOf(member, place), JSON.stringify({ ...copy.content, revision: copy.revision }));
    return true;
  } catch {
    return false;
  }
}

/** Removes all copies from this browser: whoever signs out may leave it to others. */
export function forgetLocalCopies(): void {
  try {
    for (const key of Object.keys(window.localStorage)) if (key.startsWith(PREFIX)) window.localStorage.removeItem(key);
  } catch {
    // A browser that keeps nothing holds no copies.
  }
}
