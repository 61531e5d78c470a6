import { type Path, splitPath } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import type { References } from './references.ts';

/** Which parts name each part, by path; without the plan's cells, of which there are too many to tell anything. */
export type UsedParts = readonly (readonly [target: Path, by: readonly Path[]])[];

/** The parts that use each part, each once: for lists of uses and for marks beside what is used. */
export const usedPartsOf = (references: References): UsedParts =>
  [...references]
    .flatMap(([target, uses]) => {
      const parts = [...new Set(uses.map(({ part }) => part))].filter((part) => part !== '' && part !== target);
      return parts.length > 0 ? [[target, parts] as const] : [];
    })
    // In an order of their own, so that what stays the same looks the same.
    .sort(([a], [b]) => (a < b ? -1 : 1));

type Flow = Pick<Workflow, 'handOffs' | 'adjustments' | 'checks'>;

/**
 * Tells the stages at which a part has its effect: where a hand-off is pressed, a delivery sent, an adjustment or a check holds.
 * None where it has none of its own, or holds everywhere.
 */
export function stagesByPart({ handOffs, adjustments, checks }: Flow): (path: Path) => readonly string[] {
  const from = new Map(handOffs.map((own) => [own.key, [own.from]] as const));
  const adjusted = new Map(adjustments.map((own) => [own.key, own.stages] as const));
  const checked = new Map(checks.map((own) => [own.key, own.stages] as const));
  return (path) => {
    const [list, key = ''] = splitPath(path) ?? [];
    switch (list) {
      case 'stages':
        return [key];
      case 'handOffs':
        return from.get(key) ?? [];
      case 'adjustments':
        return adjusted.get(key) ?? [];
      case 'checks':
        return checked.get(key) ?? [];
      default:
        return [];
    }
  };
}

/** The field, or `table.subField`, that a path leads to or into; null for every other path. */
export function fieldAt(path: Path): string | null {
  if (!path.startsWith('fields.')) return null;
  const [, key, inner, sub] = splitPath(path) ?? [];
  if (key === undefined) return null;
  return inner === 'fields' && sub !== undefined ? `${key}.${sub}` : key;
}

/** Where each field, or `table.subField`, is read, by stage: the parts that read it there. */
export function readAtStages(definition: Flow, used: UsedParts): ReadonlyMap<string, ReadonlyMap<string, readonly Path[]>> {
  const stagesOf = stagesByPart(definition);
  const byField = new Map<string, Map<string, Set<Path>>>();
  for (const [target, parts] of used) {
    const field = fieldAt(target);
    if (field === null || target.includes('.options.')) continue;
    for (const part of parts) {
      for (const stage of stagesOf(part)) {
        const stages = byField.get(field) ?? new Map<string, Set<Path>>();
        byField.set(field, stages);
        const own = stages.get(stage) ?? new Set<Path>();
        stages.set(stage, own);
        own.add(part);
      }
    }
  }
  return new Map(
    [...byField].map(([field, stages]) => [field, new Map([...stages].map(([stage, parts]) => [stage, [...parts]] as const))]),
  );
}

/** Whether a path is that of a part, or of something within it. */
export const isWithin = (path: Path, part: Path): boolean => path === part || (part !== '' && path.startsWith(`${part}.`));

/** The parts that use a part, or something within it; not what is within it itself. */
export function usersOf(used: UsedParts, part: Path): readonly Path[] {
  const users = used.flatMap(([target, by]) => (isWithin(target, part) ? by.filter((one) => !isWithin(one, part)) : []));
  return [...new Set(users)];
}
