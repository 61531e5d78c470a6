import type { Frame } from '../expressions/frame.ts';
import { LIMITS } from '../expressions/tree.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result } from '../shared/result.ts';

/** Refuses to decide by expressions that were given up: they are unknown only because nobody reckoned on. */
export function refuseOverruns(frame: Frame): Result<never> | null {
  const seen = new Set<string>();
  const found = frame.overruns.flatMap(({ path, span }): readonly Diagnostic[] => {
    if (seen.has(path)) return [];
    seen.add(path);
    return [diagnostic('expression/too-much-work', path, { limit: LIMITS.steps }, span)];
  });
  return found.length > 0 ? failure(found) : null;
}
