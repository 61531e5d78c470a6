import { findPart, joinPath, type Path, splitPath, type Workflow } from '@ypomet/core';

/** Properties of a hand-off whose parts are edited on the page *Consequences*. */
const FOLLOWING: ReadonlySet<string> = new Set(['acknowledgements', 'deliveries', 'followUps']);

/**
 * Returns the address of the designer's page that shows a part, or the part around a property, with what it selects there. Parts of
 * no page of their own (roles, sections, the workflow) are edited beside the plan.
 */
export function addressOfPart(definition: Workflow, path: Path): string {
  const [list = '', key = '', ...more] = splitPath(path) ?? [];
  const base = `/workflows/${definition.key}`;
  const at = (page: string, part: Path): string => `${base}/${page}?at=${encodeURIComponent(part)}`;
  if (list === 'decisionTables' || list === 'checks') return at('decisions', joinPath(list, key));
  if (list === 'tests') return `${base}/rehearse`;
  if (list === 'handOffs' || list === 'stages') {
    const following = consequenceAt(list, key, more);
    if (following !== null) return at('consequences', following);
  }
  if (list === 'plan' || list === 'submitterSees') return at('plan', joinPath('fields', ...key.split('.').flatMap(besides)));
  return key !== '' && findPart(definition, joinPath(list, key)) ? at('plan', path) : `${base}/plan`;
}

const besides = (step: string, index: number): readonly string[] => (index === 0 ? [step] : ['fields', step]);

/** Returns the path of the consequence that contains a property, as the page *Consequences* lists it; null if no consequence contains it. */
function consequenceAt(list: string, key: string, steps: readonly string[]): Path | null {
  const [property = '', first, second, third] = steps;
  const within = (...of: readonly string[]): Path => joinPath(list, key, ...of);
  if (list === 'handOffs') return FOLLOWING.has(property) && first !== undefined ? within(property, first) : null;
  if (property === 'assignment' || property === 'due') return within(property);
  if (property === 'onArrival' && second !== undefined) return within(property, 'deliveries', second);
  if (property === 'reminders' && first !== undefined && third !== undefined) return within(property, first, 'deliveries', third);
  return null;
}
