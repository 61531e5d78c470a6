import type { Path } from '../model/path.ts';
import { splitPath, within } from '../model/path.ts';
import { keyPropertyOf, type PartKind, type Property, SHAPES } from '../model/shape.ts';
import type { Part } from '../model/walk.ts';
import type { Workflow } from '../model/workflow.ts';
import { equalJson } from '../shared/equal-json.ts';
import { insertPart, keyOf } from './places.ts';

/** One thing in which two definitions differ. A value that is absent on a side isn't there in the difference either. */
export type Difference =
  /** A part that only the second has; `path` is its list, `before` the part that follows it. */
  | { readonly kind: 'added'; readonly path: Path; readonly value: Part; readonly before: string | null }
  | { readonly kind: 'removed'; readonly path: Path; readonly value: Part }
  /** A part of both, elsewhere in its list. */
  | {
      readonly kind: 'moved';
      readonly path: Path;
      readonly key: string;
      readonly from: string | null;
      readonly to: string | null;
    }
  /** A property of the part at the path, or a cell: of the plan, of what the submitter sees, of a rule. */
  | { readonly kind: 'changed'; readonly path: Path; readonly property: string; readonly from?: unknown; readonly to?: unknown };

/**
 * In what the second definition differs from the first, part by part; parts are the same by their keys. What has the same
 * identity isn't looked into. {@link applyDifferences} to the first gives the second.
 */
export function differencesBetween(before: Workflow, after: Workflow): readonly Difference[] {
  const found: Difference[] = [];
  comparePart('workflow', before, after, '', found);
  return found;
}

function comparePart(kind: PartKind, before: Part, after: Part, path: Path, found: Difference[]): void {
  if (before === after) return;
  const shape = SHAPES[kind];
  for (const name of new Set([...Object.keys(before), ...Object.keys(after)])) {
    if (before[name] === after[name]) continue;
    compareProperty(Object.hasOwn(shape, name) ? shape[name] : undefined, name, before, after, path, found);
  }
}

function compareProperty(
  property: Property | undefined,
  name: string,
  before: Part,
  after: Part,
  path: Path,
  found: Difference[],
): void {
  const [a, b] = [before[name], after[name]];
  if (property?.is === 'parts' && isKeyed(property.part, a) && isKeyed(property.part, b)) {
    compareLists(property.part, a, b, within(path, name), found);
  } else if (property?.is === 'part' && isObject(a) && isObject(b)) {
    comparePart(property.part, a, b, within(path, name), found);
  } else if (property?.is === 'cells' && property.byStage && isObject(a) && isObject(b)) {
    const at = within(path, name);
    for (const row of new Set([...Object.keys(a), ...Object.keys(b)]))
      compareEntries(ownRow(a, row), ownRow(b, row), within(at, row), found);
  } else if ((property?.is === 'cells' || property?.is === 'texts') && isObject(a) && isObject(b)) {
    compareEntries(a, b, within(path, name), found);
  } else if (!equalJson(a, b)) {
    found.push(changed(path, name, before, after));
  }
}

const isObject = (value: unknown): value is Part => typeof value === 'object' && value !== null && !Array.isArray(value);
const ownRow = (rows: Part, row: string): Part => (Object.hasOwn(rows, row) ? (rows[row] as Part) : {});

/** A list whose parts can be told apart. */
function isKeyed(kind: PartKind, value: unknown): value is readonly Part[] {
  return Array.isArray(value) && new Set(value.map((part: Part) => part[keyPropertyOf(kind)])).size === value.length;
}

function changed(path: Path, property: string, before: Part, after: Part): Difference {
  const from = Object.hasOwn(before, property) ? { from: before[property] } : {};
  const to = Object.hasOwn(after, property) ? { to: after[property] } : {};
  return { kind: 'changed', path, property, ...from, ...to };
}

function compareEntries(before: Part, after: Part, path: Path, found: Difference[]): void {
  for (const name of new Set([...Object.keys(before), ...Object.keys(after)]))
    if (!equalJson(before[name], after[name])) found.push(changed(path, name, before, after));
}

function compareLists(kind: PartKind, before: readonly Part[], after: readonly Part[], path: Path, found: Difference[]): void {
  const known = new Map(before.map((part) => [keyOf(kind, part), part]));
  const wanted = new Map(after.map((part) => [keyOf(kind, part), part]));
  for (const part of before) if (!wanted.has(keyOf(kind, part))) found.push({ kind: 'removed', path, value: part });
  for (const part of after) {
    const own = known.get(keyOf(kind, part));
    if (own) comparePart(kind, own, part, within(path, keyOf(kind, part)), found);
  }
  const positions = new Map(before.map((part, index) => [keyOf(kind, part), index]));
  const resting = longestRising(after.flatMap((part) => positions.get(keyOf(kind, part)) ?? []));
  // From the end, so that the part before which each is put already stands in its place.
  for (let index = after.length - 1; index >= 0; index--) {
    const part = after[index] as Part;
    const key = keyOf(kind, part);
    const next = after[index + 1];
    const to = next ? keyOf(kind, next) : null;
    const position = positions.get(key);
    if (position === undefined) found.push({ kind: 'added', path, value: part, before: to });
    else if (!resting.has(position)) {
      const follower = before[position + 1];
      found.push({ kind: 'moved', path, key, from: follower ? keyOf(kind, follower) : null, to });
    }
  }
}

/** The numbers of a longest rising row within a list of different numbers (patience sorting, common practice). */
function longestRising(list: readonly number[]): ReadonlySet<number> {
  const piles: number[] = [];
  const below = new Map<number, number | null>();
  for (const number of list) {
    let [low, high] = [0, piles.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((piles[middle] as number) < number) low = middle + 1;
      else high = middle;
    }
    below.set(number, low > 0 ? (piles[low - 1] as number) : null);
    piles[low] = number;
  }
  const found = new Set<number>();
  for (let number = piles.at(-1) ?? null; number !== null; number = below.get(number) ?? null) found.add(number);
  return found;
}

/** The definition after differences, and those that couldn't be made because what they start from is no longer so. */
export type Applied = { readonly definition: Workflow; readonly overtaken: readonly Difference[] };

/**
 * Makes differences in order. One that starts from something else than there is now would overwrite what came since: it is
 * left out and named. One that is made already changes nothing.
 */
export function applyDifferences(definition: Workflow, differences: readonly Difference[]): Applied {
  const draft = new Draft(definition, differences);
  const overtaken = differences.filter((difference) => !draft.make(difference));
  return { definition: draft.definition as Workflow, overtaken };
}

/** A definition that is changed in place, part by part: what is changed is copied once, all else is shared. */
class Draft {
  readonly definition: Record<string, unknown>;
  private readonly owned = new WeakSet<object>();

  /** By list, the keys of the parts that come, go or move. */
  private readonly moving = new Map<Path, Set<string>>();

  constructor(definition: Workflow, differences: readonly Difference[]) {
    this.definition = this.own(definition as Part);
    for (const difference of differences) {
      if (difference.kind === 'changed') continue;
      const keys = this.moving.get(difference.path) ?? new Set();
      keys.add(difference.kind === 'moved' ? difference.key : String(difference.value.key ?? difference.value.code));
      this.moving.set(difference.path, keys);
    }
  }

  make(difference: Difference): boolean {
    switch (difference.kind) {
      case 'added':
        return this.add(difference);
      case 'removed':
        return this.remove(difference);
      case 'moved':
        return this.move(difference);
      case 'changed':
        return this.change(difference);
      default:
        return difference satisfies never;
    }
  }

  private add({ path, value, before }: Extract<Difference, { kind: 'added' }>): boolean {
    const list = this.list(path);
    if (!list) return false;
    const there = list.parts.find((part) => keyOf(list.kind, part) === keyOf(list.kind, value));
    if (there) return equalJson(there, value);
    list.put(insertPart({ kind: list.kind, list: list.parts }, value, before));
    return true;
  }

  private remove({ path, value }: Extract<Difference, { kind: 'removed' }>): boolean {
    const list = this.list(path);
    if (!list) return true;
    const there = list.parts.find((part) => keyOf(list.kind, part) === keyOf(list.kind, value));
    if (!there) return true;
    if (!equalJson(there, value)) return false;
    list.put(list.parts.filter((part) => part !== there));
    return true;
  }

  private move({ path, key, from, to }: Extract<Difference, { kind: 'moved' }>): boolean {
    const list = this.list(path);
    const part = list?.parts.find((own) => keyOf(list.kind, own) === key);
    if (!list || !part) return false;
    // It must still stand before what it stood before, apart from what comes, goes or moves along with it.
    const moving = this.moving.get(path);
    const rests = list.parts.slice(list.parts.indexOf(part) + 1).map((own) => keyOf(list.kind, own));
    const follower = rests.find((own) => !moving?.has(own)) ?? null;
    if (from !== null && moving?.has(from) !== true && follower !== from) return false;
    if (to !== null && !list.parts.some((own) => keyOf(list.kind, own) === to)) return false;
    const rest = list.parts.filter((own) => own !== part);
    list.put(insertPart({ kind: list.kind, list: rest }, part, to));
    return true;
  }

  private change(difference: Extract<Difference, { kind: 'changed' }>): boolean {
    const object = this.object(difference.path, true);
    if (!object) return false;
    const { property } = difference;
    const [hasFrom, hasTo] = [Object.hasOwn(difference, 'from'), Object.hasOwn(difference, 'to')];
    const has = Object.hasOwn(object, property);
    if (has === hasTo && equalJson(object[property], difference.to)) return true;
    if (has !== hasFrom || !equalJson(object[property], difference.from)) return false;
    if (hasTo) object[property] = difference.to;
    else delete object[property];
    this.tidy(difference.path);
    return true;
  }

  /** A row of the plan without cells is none. */
  private tidy(path: Path): void {
    const [name, row, ...rest] = splitOwn(path);
    if (name !== 'plan' || row === undefined || rest.length > 0) return;
    const plan = this.definition.plan as Record<string, Part>;
    if (Object.keys(plan[row] ?? {}).length === 0) delete plan[row];
  }

  private own(object: Part): Record<string, unknown> {
    if (this.owned.has(object)) return object as Record<string, unknown>;
    const copy = { ...object };
    this.owned.add(copy);
    return copy;
  }

  private list(path: Path): { kind: PartKind; parts: readonly Part[]; put: (parts: readonly Part[]) => void } | null {
    const steps = splitOwn(path);
    const owner = this.walk(steps.slice(0, -1), false);
    const name = steps.at(-1) ?? '';
    const property = owner?.kind && Object.hasOwn(SHAPES[owner.kind], name) ? SHAPES[owner.kind][name] : undefined;
    const parts = owner?.object[name];
    if (!owner || property?.is !== 'parts' || !Array.isArray(parts)) return null;
    return {
      kind: property.part,
      parts: parts as readonly Part[],
      put: (after) => {
        owner.object[name] = after;
      },
    };
  }

  private object(path: Path, makesRows: boolean): Record<string, unknown> | null {
    return this.walk(splitOwn(path), makesRows)?.object ?? null;
  }

  /** The object at the end of the steps, copied on the way so that it can be changed; its kind where it is a part. */
  private walk(
    steps: readonly string[],
    makesRows: boolean,
  ): { readonly kind: PartKind | null; readonly object: Record<string, unknown> } | null {
    let at: { readonly kind: PartKind | null; readonly object: Record<string, unknown> } = {
      kind: 'workflow',
      object: this.definition,
    };
    for (let index = 0; index < steps.length; index++) {
      const name = steps[index] as string;
      const property: Property | undefined = at.kind && Object.hasOwn(SHAPES[at.kind], name) ? SHAPES[at.kind][name] : undefined;
      const value = at.object[name];
      if (property?.is === 'parts') {
        const key = steps[++index];
        const list = value as readonly Part[] | undefined;
        const place = list?.findIndex((part) => keyOf(property.part, part) === key) ?? -1;
        if (!list || place < 0) return null;
        const own = this.own(list[place] as Part);
        at.object[name] = list.map((part, position) => (position === place ? own : part));
        at = { kind: property.part, object: own };
      } else if (isObject(value) || (makesRows && value === undefined && index === 1 && steps[0] === 'plan')) {
        const own = this.own((value as Part | undefined) ?? {});
        at.object[name] = own;
        at = { kind: property?.is === 'part' ? property.part : null, object: own };
      } else return null;
    }
    return at;
  }
}

function splitOwn(path: Path): readonly string[] {
  const steps = splitPath(path);
  if (!steps) throw new Error(`no path ${path}`);
  return steps;
}
