import { loadPatternEngine } from '@ypomet/core';
import { useEffect, useState } from 'react';

/**
 * Whether texts can be looked at by patterns now. The engine is loaded when it is first needed: most forms do without. Where it
 * can't be loaded, offline say, nothing is told while somebody types; pressing a hand-off asks for it again and says so.
 */
export function usePatternEngine(isNeeded: boolean): boolean {
  const [isLoaded, setLoaded] = useState(false);
  useEffect(() => {
    if (!isNeeded || isLoaded) return;
    let isHere = true;
    loadPatternEngine().then(
      () => isHere && setLoaded(true),
      () => 'asked for again at the press',
    );
    return () => {
      isHere = false;
    };
  }, [isNeeded, isLoaded]);
  return isLoaded;
}
