import { joinPath, type Path, splitPath } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import type { References } from './references.ts';

/** Which parts name each part, by path; without the plan's cells, of which there are too many to tell anything. */
export type UsedParts = readonly (readonly [target: Path, by: readonly Path[]])[];

/** The parts that use each part, each once: for lists of uses and for marks beside what is used. */
export const usedPartsOf = (references: References): UsedParts =>
  [...references].flatMap(([target, uses]) => {
    const parts = [...new Set(uses.map(({ part }) => part))].filter((part) => part !== '' && part !== target);
    return parts.length > 0 ? [[target, parts] as const] : [];
  });

/**
 * The stages at which a part has its effect: where a hand-off is pressed, a delivery sent, an adjustment or a check holds. Empty
 * where it has none of its own, or holds everywhere.
 */
export function stagesOfPart(definition: Workflow, path: Path): readonly string[] {
  const [list, key = ''] = splitPath(path) ?? [];
  switch (list) {
    case 'stages':
      return [key];
    case 'handOffs':
      return definition.handOffs.flatMap((handOff) => (handOff.key === key ? [handOff.from] : []));
    case 'adjustments':
      return definition.adjustments.find((own) => own.key === key)?.stages ?? [];
    case 'checks':
      return definition.checks.find((own) => own.key === key)?.stages ?? [];
    default:
      return [];
  }
}

/** Where each field, or `table.subField`, is read, by stage: the parts that read it there. */
export function readAtStages(definition: Workflow, used: UsedParts): ReadonlyMap<string, ReadonlyMap<string, readonly Path[]>> {
  const byField = new Map<string, Map<string, Path[]>>();
  for (const [target, parts] of used) {
    const [list, key = '', inner, sub] = splitPath(target) ?? [];
    if (list !== 'fields' || (inner !== undefined && inner !== 'fields')) continue;
    const field = sub === undefined ? key : `${key}.${sub}`;
    for (const part of parts) {
      for (const stage of stagesOfPart(definition, part)) {
        const stages = byField.get(field) ?? new Map<string, Path[]>();
        byField.set(field, stages);
        const own = stages.get(stage) ?? [];
        stages.set(stage, own);
        if (!own.includes(part)) own.push(part);
      }
    }
  }
  return byField;
}

/** The parts that use a part, or something within it; not what is within it itself. */
export function usersOf(used: UsedParts, part: Path): readonly Path[] {
  const steps = splitPath(part) ?? [];
  const isWithin = (path: Path): boolean => {
    const own = splitPath(path) ?? [];
    return own.length >= steps.length && joinPath(...own.slice(0, steps.length)) === part;
  };
  const users = used.flatMap(([target, by]) => (isWithin(target) ? by.filter((one) => !isWithin(one)) : []));
  return [...new Set(users)];
}
