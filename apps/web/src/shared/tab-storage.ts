/** What a page keeps for the next one in its tab stands under keys that begin like this. */
export const TAB_PREFIX = 'ypomet.tab.';

/** Removes what pages kept in this tab: whoever signs out may leave it to others. */
export function forgetTab(): void {
  try {
    for (const key of Object.keys(window.sessionStorage)) if (key.startsWith(TAB_PREFIX)) window.sessionStorage.removeItem(key);
  } catch (error) {
    // A browser that keeps nothing has nothing to forget.
    if (!(error instanceof DOMException)) throw error;
  }
}
