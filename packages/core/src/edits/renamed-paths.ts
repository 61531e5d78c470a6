import { joinPath, type Path, splitPath, within } from '../model/path.ts';

/** A renaming: the path of a part as it was, and the key that the part has afterwards. */
export type Rename = { readonly part: Path; readonly key: string };

/** Returns the path of a part after a renaming; the same path if it doesn't lead through the renamed part. */
export function pathAfter(path: Path, { part, key }: Rename): Path {
  if (path !== part && !path.startsWith(`${part}.`)) return path;
  const steps = splitPath(part) ?? [];
  return within(joinPath(...steps.slice(0, -1)), key) + path.slice(part.length);
}

/** Returns the path of the list that a part is in. */
export const listOf = (part: Path): Path => joinPath(...(splitPath(part) ?? []).slice(0, -1));

/** Returns the key of a part of a list after a renaming. `list`: the path of the list before it. Null, for the end of the list, stays null. */
export function keyInListAfter<K extends string | null>(list: Path, key: K, rename: Rename): K | string {
  return key !== null && within(list, key) === rename.part ? rename.key : key;
}

/** Returns the field path and the stage of a cell of the plan after a renaming. */
export function cellAfter<C extends { readonly field: string; readonly stage?: string }>(cell: C, { part, key }: Rename): C {
  const [list, old = '', inner, sub] = splitPath(part) ?? [];
  if (list === 'stages' && inner === undefined && cell.stage === old) return { ...cell, stage: key };
  if (list !== 'fields') return cell;
  if (inner === 'fields') return cell.field === `${old}.${sub}` ? { ...cell, field: `${old}.${key}` } : cell;
  const isOfField = inner === undefined && (cell.field === old || cell.field.startsWith(`${old}.`));
  return isOfField ? { ...cell, field: key + cell.field.slice(old.length) } : cell;
}
