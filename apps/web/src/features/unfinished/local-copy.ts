import { type Content, NOTHING } from './content.ts';

const PREFIX = 'ypomet.form.';
const keyOf = (member: string, place: string): string => `${PREFIX}${member}.${place}`;

/** What this browser holds of a member's form until the server has it; null when it holds nothing. */
export function readLocalCopy(member: string, place: string): Content | null {
  try {
    const kept: unknown = JSON.parse(window.localStorage.getItem(keyOf(member, place)) ?? 'null');
    if (kept === null || typeof kept !== 'object' || Array.isArray(kept)) return null;
    return { ...NOTHING, ...(kept as Partial<Content>) };
  } catch {
    // A browser that keeps nothing, or a text that isn't ours: there is no copy.
    return null;
  }
}

/** Whether it was written: a browser may refuse, or be full. */
export function writeLocalCopy(member: string, place: string, content: Content | null): boolean {
  try {
    if (content === null) window.localStorage.removeItem(keyOf(member, place));
    else window.localStorage.setItem(keyOf(member, place), JSON.stringify(content));
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
