import { startTransition, useEffect, useState } from 'react';

/**
 * How many of many things are drawn by now: so many at a time, one part after another, so that drawing them holds nobody up.
 * Begins again with other things, which have another `key`.
 */
export function useByParts(count: number, atOnce: number, key: string | number = 0): number {
  const [state, setState] = useState({ key, drawn: atOnce });
  const drawn = state.key === key ? state.drawn : atOnce;
  useEffect(() => {
    if (drawn < count) startTransition(() => setState({ key, drawn: drawn + atOnce }));
  }, [drawn, count, atOnce, key]);
  return drawn;
}
