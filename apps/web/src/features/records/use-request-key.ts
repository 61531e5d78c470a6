import { useRef } from 'react';

/** A key for each distinct request: the same request sent again, after a lost answer say, carries the same key. */
export function useRequestKey(): (...request: readonly unknown[]) => string {
  const keys = useRef(new Map<string, string>());
  return (...request) => {
    const text = JSON.stringify(request);
    const known = keys.current.get(text) ?? crypto.randomUUID();
    keys.current.set(text, known);
    return known;
  };
}
