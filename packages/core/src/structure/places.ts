import { type Path, splitPath } from '../model/path.ts';
import { keyPropertyOf, type PartKind, SHAPES } from '../model/shape.ts';
import type { Part } from '../model/walk.ts';
import type { Workflow } from '../model/workflow.ts';

/** A part of a definition, found by its path. */
export type FoundPart = { readonly kind: PartKind; readonly part: Part };
/** A list of parts, found by its path. */
export type FoundList = { readonly kind: PartKind; readonly list: readonly Part[] };

export const keyOf = (kind: PartKind, part: Part): string => String(part[keyPropertyOf(kind)]);

/** The part at a path; null when there is none. The empty path is the definition itself. */
export function findPart(definition: Workflow, path: Path): FoundPart | null {
  const found = find(definition, path);
  return found && 'part' in found ? found : null;
}

/** The list of parts at a path, such as `handOffs.decide.branches`; null when there is none. */
export function findList(definition: Workflow, path: Path): FoundList | null {
  const found = find(definition, path);
  return found && 'list' in found ? found : null;
}

type Found = FoundPart | FoundList;

function find(definition: Workflow, path: Path): Found | null {
  const start: Found = { kind: 'workflow', part: definition };
  return (splitPath(path) ?? [null]).reduce<Found | null>((at, name) => (at && name !== null ? step(at, name) : null), start);
}

function step(at: Found, name: string): Found | null {
  if ('list' in at) {
    const part = at.list.find((one) => keyOf(at.kind, one) === name);
    return part ? { kind: at.kind, part } : null;
  }
  const shape = SHAPES[at.kind];
  const property = Object.hasOwn(shape, name) ? shape[name] : undefined;
  const value = at.part[name];
  if (property?.is === 'parts' && Array.isArray(value)) return { kind: property.part, list: value as readonly Part[] };
  return property?.is === 'part' && value ? { kind: property.part, part: value as Part } : null;
}

/** The definition with a part or list at a path replaced. Throws when the path leads nowhere: find it first. */
export function replaceAt(definition: Workflow, path: Path, put: Part | readonly Part[]): Workflow {
  const steps = splitPath(path);
  if (!steps) throw new Error(`no path ${path}`);
  return replace('workflow', definition, steps, put) as Workflow;
}

function replace(kind: PartKind, part: Part, steps: readonly string[], put: Part | readonly Part[]): Part {
  const [name, key, ...rest] = steps;
  if (name === undefined) return put as Part;
  const property = SHAPES[kind][name];
  if (property?.is === 'part') return { ...part, [name]: replace(property.part, part[name] as Part, steps.slice(1), put) };
  if (property?.is !== 'parts') throw new Error(`no part ${name} in a ${kind}`);
  const list = part[name] as readonly Part[];
  if (key === undefined) return { ...part, [name]: put };
  const after = list.map((own) => (keyOf(property.part, own) === key ? replace(property.part, own, rest, put) : own));
  return { ...part, [name]: after };
}

/** A list with a part put before another; at the end when that is null or isn't there. */
export function insertPart({ kind, list }: FoundList, part: Part, before: string | null): readonly Part[] {
  const index = before === null ? -1 : list.findIndex((own) => keyOf(kind, own) === before);
  return index < 0 ? [...list, part] : [...list.slice(0, index), part, ...list.slice(index)];
}

/** A list without a part. */
export const withoutPart = ({ kind, list }: FoundList, key: string): readonly Part[] =>
  list.filter((own) => keyOf(kind, own) !== key);

/** The key of the part after one; null for the last. */
export function keyAfter({ kind, list }: FoundList, key: string): string | null {
  const index = list.findIndex((own) => keyOf(kind, own) === key);
  const next = index < 0 ? undefined : list[index + 1];
  return next ? keyOf(kind, next) : null;
}
