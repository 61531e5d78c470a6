import { OPERATIONS } from '@ypomet/contract/operations';
import { useEffect, useRef } from 'react';

/** Asked for again at most so often: many changes at once are one. */
const REST_MS = 400;

/**
 * Calls back when the server says that something has changed: a record, the records of a register, or, without either, what
 * the member may see. After a break of the connection too, since nobody knows what was missed. A page that isn't in view
 * listens to nothing, and looks again when it is: browsers open only a few connections for all pages together.
 */
export function useChanges(watched: { readonly record?: string; readonly workflow?: string }, onChange: () => void): void {
  const latest = useRef(onChange);
  latest.current = onChange;
  const query = new URLSearchParams(watched as Record<string, string>).toString();
  useEffect(() => {
    let source: EventSource | null = null;
    let resting: ReturnType<typeof setTimeout> | null = null;
    let isAgain = false;
    const tell = (): void => {
      resting ??= setTimeout(() => {
        resting = null;
        latest.current();
      }, REST_MS);
    };
    const follow = (): void => {
      if (document.hidden) {
        source?.close();
        source = null;
        return;
      }
      if (source) return;
      source = new EventSource(`${OPERATIONS.watchRecords.path}?${query}`);
      source.addEventListener('open', () => {
        if (isAgain) tell();
        isAgain = true;
      });
      source.addEventListener('message', tell);
    };
    follow();
    document.addEventListener('visibilitychange', follow);
    return () => {
      document.removeEventListener('visibilitychange', follow);
      source?.close();
      if (resting !== null) clearTimeout(resting);
    };
  }, [query]);
}
