import { useState } from 'react';

/**
 * Which of some pages is shown, and how to turn to another. Pages turn by a press alone, never while somebody types: `aim` is
 * another object each time a press leads somewhere, and `pageOf` its page; negative where it is on none.
 */
export function useTurnedPage<T extends object>(
  count: number,
  aim: T | null,
  pageOf: (aim: T) => number,
): readonly [at: number, turn: (page: number) => void] {
  const [asked, turn] = useState(0);
  const at = Math.min(asked, Math.max(0, count - 1));
  const [seen, setSeen] = useState<T | null>(null);
  if (seen !== aim) {
    setSeen(aim);
    const page = aim === null ? -1 : pageOf(aim);
    if (page >= 0 && page !== at) turn(page);
  }
  return [at, turn];
}
