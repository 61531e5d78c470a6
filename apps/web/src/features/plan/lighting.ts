import { joinPath, type Path, splitPath, stagesOfPart, type UsedParts, usersOf, type Workflow } from '@ypomet/core';
import { partOf, type Selection } from './selection.ts';

/** What lights up with what is selected: what it reads and what reads it. */
export type Lit = {
  /** Fields, and sub-fields by their path. */
  readonly fields: ReadonlySet<string>;
  readonly stages: ReadonlySet<string>;
};
const NOTHING: Lit = { fields: new Set(), stages: new Set() };

/** The field, or `table.subField`, that a path leads to or into; null for every other path. */
function fieldAt(path: Path): string | null {
  const [list, key, inner, sub] = splitPath(path) ?? [];
  if (list !== 'fields' || key === undefined) return null;
  return inner === 'fields' && sub !== undefined ? `${key}.${sub}` : key;
}

/**
 * What depends on what is selected, and what it depends on; computed fields are followed a step further. Of a cell it is what its
 * field is used by.
 */
export function lightUp(definition: Workflow, used: UsedParts, selection: Selection): Lit {
  const part = partOf(selection);
  if (part === null) return NOTHING;
  const users = usersOf(used, part);
  const isOwn = (by: Path): boolean => by === part || by.startsWith(`${part}.`);
  const readBy = (test: (by: Path) => boolean): readonly string[] =>
    used.flatMap(([target, by]) => (by.some(test) ? (fieldAt(target) ?? []) : []));
  const read = readBy(isOwn);
  const further = readBy((by) => read.some((field) => by === joinPath('fields', ...pathSteps(field))));
  const fields = new Set([...read, ...further, ...users.flatMap((by) => fieldAt(by) ?? [])]);
  const own = selection.kind === 'field' || selection.kind === 'cell' ? users : [];
  const stages = new Set(own.flatMap((by) => stagesOfPart(definition, by)));
  return { fields, stages };
}

const pathSteps = (field: string): readonly string[] => {
  const [key = '', sub] = field.split('.');
  return sub === undefined ? [key] : [key, 'fields', sub];
};
