import { useState } from 'react';

/**
 * Which of some pages is shown, and how to turn to another. What is newly found wrong turns to the first page that has some
 * of it, unless the one shown has: `found` is another object each time something is found.
 */
export function useTurnedPage(
  count: number,
  found: object,
  faultyPages: () => readonly number[],
): readonly [at: number, turn: (page: number) => void] {
  const [asked, turn] = useState(0);
  const at = Math.min(asked, Math.max(0, count - 1));
  const [seen, setSeen] = useState(found);
  if (seen !== found) {
    setSeen(found);
    const faulty = faultyPages();
    if (faulty.length > 0 && !faulty.includes(at)) turn(Math.min(...faulty));
  }
  return [at, turn];
}
