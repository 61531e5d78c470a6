import type { Pattern } from './pattern-engine.ts';

type Engine = Pick<typeof import('./pattern-engine.ts'), 'compilePattern'>;
let engine: Engine | null = null;

/** Resolves when patterns can be compiled. The engine is large, and most forms have no pattern. */
export async function loadPatternEngine(): Promise<void> {
  engine ??= await import('./pattern-engine.ts');
}

/** As in `pattern-engine.ts`. Throws before the engine is loaded: no value is ever held against a pattern that can't be looked at. */
export function compilePattern(pattern: string, flags: string): Pattern | null {
  if (!engine) throw new Error('a pattern was needed before its engine was loaded');
  return engine.compilePattern(pattern, flags);
}
