/** Prefix of the session storage keys under which a page stores what the next page in the same tab needs. */
export const TAB_PREFIX = 'ypomet.tab.';

/** Removes everything that pages stored in this tab, for sign-out: the next person at this machine must not find it. */
export function forgetTab(): void {
  try {
    for (const key of Object.keys(window.sessionStorage)) if (key.startsWith(TAB_PREFIX)) window.sessionStorage.removeItem(key);
  } catch (error) {
    // Storage is switched off, so nothing was stored.
    if (!(error instanceof DOMException)) throw error;
  }
}
