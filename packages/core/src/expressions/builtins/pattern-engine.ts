import { RE2JS, RE2JSException } from 're2js';

/** A compiled pattern of the linear-time engine. */
export type Pattern = Pick<RE2JS, 'matcher' | 'split' | 'groupCount'>;

const FLAGS: Readonly<Record<string, number>> = { i: RE2JS.CASE_INSENSITIVE, s: RE2JS.DOTALL, m: RE2JS.MULTILINE, x: 0 };

/** Compiles a pattern with XPath flags; null for one that the engine doesn't take, and for other flags. */
export function compilePattern(pattern: string, flags: string): Pattern | null {
  if (Array.from(flags).some((flag) => !Object.hasOwn(FLAGS, flag))) return null;
  const bits = Array.from(flags).reduce((sum, flag) => sum | (FLAGS[flag] ?? 0), 0);
  try {
    return RE2JS.compile(pattern, bits);
  } catch (error) {
    if (error instanceof RE2JSException) return null;
    throw error;
  }
}

/** Resolves when patterns can be compiled. Here that is so from the start; a browser loads the engine when it needs it. */
export const loadPatternEngine = (): Promise<void> => Promise.resolve();
