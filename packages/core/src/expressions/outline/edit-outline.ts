import type { Comparison, OutlineClause, OutlineGroup, OutlineItem } from './outline.ts';

/**
 * Where an item stands in an outline: the index in the group, then in the group within, and so on. Within "any row where", and
 * within the rows that are counted, the condition stands at 0. The empty path is the whole.
 */
export type OutlinePath = readonly number[];

/** What stands within an item, in order. */
export function itemsOf(item: OutlineItem): readonly OutlineItem[] {
  if (item.kind === 'group') return item.of;
  if (item.kind === 'rows') return [item.where];
  return item.kind === 'clause' && item.subject.kind === 'count' && item.subject.where ? [item.subject.where] : [];
}

/** The item at a path; null where none is. */
export function itemAt(root: OutlineItem, path: OutlinePath): OutlineItem | null {
  let found: OutlineItem | undefined = root;
  for (const index of path) found = found && itemsOf(found)[index];
  return found ?? null;
}

/** A group without clauses: an unfinished condition. Nothing is kept of it until a clause is in it. */
const EMPTY: OutlineGroup = { kind: 'group', which: 'all', of: [] };

function withItems(item: OutlineItem, items: readonly OutlineItem[]): OutlineItem {
  if (item.kind === 'group') return { ...item, of: items };
  if (item.kind === 'rows') return { ...item, where: items[0] ?? EMPTY };
  if (item.kind === 'clause' && item.subject.kind === 'count')
    return { ...item, subject: { ...item.subject, where: items[0] ?? null } };
  return item;
}

/**
 * Returns the outline with another item at a path, or without the item there (null). Without the condition of "any row where", an
 * empty group stands there, which is unfinished; a count without its condition counts all rows.
 */
export function replaceItem(root: OutlineItem, path: OutlinePath, item: OutlineItem | null): OutlineItem {
  const [index, ...rest] = path;
  if (index === undefined) return item ?? EMPTY;
  const items = itemsOf(root);
  const own = items[index];
  if (!own) return root;
  const next = rest.length === 0 ? (item ? [item] : []) : [replaceItem(own, rest, item)];
  return withItems(root, [...items.slice(0, index), ...next, ...items.slice(index + 1)]);
}

/**
 * Returns the outline with an item put in before the one at a path, or behind the last. What rows are asked for, or counted by, is put
 * into a group of "all of" together with the new item when it isn't in one yet.
 */
export function insertItem(root: OutlineItem, path: OutlinePath, item: OutlineItem): OutlineItem {
  const [index, ...rest] = path;
  if (index === undefined) return root;
  if (rest.length > 0) {
    const own = itemsOf(root)[index];
    return own ? replaceItem(root, [index], insertItem(own, rest, item)) : root;
  }
  if (root.kind === 'group') return { ...root, of: [...root.of.slice(0, index), item, ...root.of.slice(index)] };
  const [where] = itemsOf(root);
  return where ? withItems(root, [joined(where, index, item)]) : root;
}

const joined = (where: OutlineItem, index: number, item: OutlineItem): OutlineGroup => ({
  kind: 'group',
  which: 'all',
  of: index === 0 ? [item, where] : [where, item],
});

/**
 * Adds an item where the cursor stands: at the end of a group or of the condition that rows are asked for or counted by, and behind
 * anything else. Returns the outline and the path of the new item, which always leads to it.
 */
export function addItem(root: OutlineItem, path: OutlinePath, item: OutlineItem): MovedItem {
  const own = itemAt(root, path);
  if (own?.kind === 'group') {
    const at = [...path, own.of.length];
    return { root: insertItem(root, at, item), path: at };
  }
  const [where] = own ? itemsOf(own) : [];
  if (where?.kind === 'group') return addItem(root, [...path, 0], item);
  if (where) return { root: insertItem(root, [...path, 1], item), path: [...path, 0, 1] };
  const parent = path.slice(0, -1);
  const index = path.at(-1);
  if (index === undefined || !own) return { root: joined(root, 1, item), path: [1] };
  const behind = [...parent, index + 1];
  const isInGroup = itemAt(root, parent)?.kind === 'group';
  return { root: insertItem(root, behind, item), path: isInGroup ? behind : [...parent, 0, 1] };
}

const startsWith = (path: OutlinePath, start: OutlinePath): boolean => start.every((index, at) => path[at] === index);

/** Where a path leads once the item at another is gone. */
function without(path: OutlinePath, gone: OutlinePath): OutlinePath {
  const at = gone.length - 1;
  const index = path[at];
  if (index === undefined || !startsWith(path, gone.slice(0, at)) || index <= (gone[at] ?? 0)) return path;
  return [...path.slice(0, at), index - 1, ...path.slice(at + 1)];
}

export type MovedItem = { readonly root: OutlineItem; readonly path: OutlinePath };

/** Moves an item before the one at `to` (both as they stand now); null where it would go into itself or nowhere. */
export function moveItem(root: OutlineItem, from: OutlinePath, to: OutlinePath): MovedItem | null {
  const item = itemAt(root, from);
  if (!item || from.length === 0 || to.length === 0 || startsWith(to, from)) return null;
  if (itemAt(root, to.slice(0, -1))?.kind !== 'group') return null;
  const path = without(to, from);
  return { root: insertItem(replaceItem(root, from, null), path, item), path };
}

/** One place up or down: within its group, or out of it at its ends. Null at the ends of the whole. */
export function moveBy(root: OutlineItem, path: OutlinePath, by: -1 | 1): MovedItem | null {
  const at = path.length - 1;
  const index = path[at];
  if (index === undefined) return null;
  const parent = path.slice(0, at);
  const count = itemsOf(itemAt(root, parent) ?? EMPTY).length;
  if (by < 0 && index > 0) return moveItem(root, path, [...parent, index - 1]);
  if (by > 0 && index < count - 1) return moveItem(root, path, [...parent, index + 2]);
  return moveOut(root, path, by);
}

/** Out of its group, before or behind it. */
export function moveOut(root: OutlineItem, path: OutlinePath, by: -1 | 1 = 1): MovedItem | null {
  const parent = path.slice(0, -1);
  const index = parent.at(-1);
  if (index === undefined) return null;
  return moveItem(root, path, [...parent.slice(0, -1), by < 0 ? index : index + 1]);
}

/** Into the group above it, at its end; else together with the item above it into a new group, of the other kind. */
export function moveIn(root: OutlineItem, path: OutlinePath): MovedItem | null {
  const index = path.at(-1);
  const parent = itemAt(root, path.slice(0, -1));
  if (index === undefined || index === 0 || parent?.kind !== 'group') return null;
  const above = [...path.slice(0, -1), index - 1];
  const own = itemAt(root, above);
  const item = itemAt(root, path);
  if (!own || !item) return null;
  if (own.kind === 'group') return moveItem(root, path, [...above, own.of.length]);
  const group: OutlineGroup = { kind: 'group', which: parent.which === 'any' ? 'all' : 'any', of: [own, item] };
  return { root: replaceItem(replaceItem(root, path, null), above, group), path: [...above, 1] };
}

/** The item at a path in a group of its own. */
export function wrapItem(root: OutlineItem, path: OutlinePath, which: OutlineGroup['which']): OutlineItem {
  const item = itemAt(root, path);
  return item ? replaceItem(root, path, { kind: 'group', which, of: [item] }) : root;
}

/** The items of a group in the place of the group. "None of" can't be taken away: it says the opposite. */
export function unwrapItem(root: OutlineItem, path: OutlinePath): OutlineItem | null {
  const item = itemAt(root, path);
  const index = path.at(-1);
  const parent = itemAt(root, path.slice(0, -1));
  if (item?.kind !== 'group' || item.which === 'none' || index === undefined || parent?.kind !== 'group') return null;
  return replaceItem(root, path.slice(0, -1), {
    ...parent,
    of: [...parent.of.slice(0, index), ...item.of, ...parent.of.slice(index + 1)],
  });
}

const OPPOSITES: Partial<Record<Comparison, Comparison>> = {
  is: 'is-not',
  'is-not': 'is',
  'is-empty': 'is-filled',
  'is-filled': 'is-empty',
  above: 'at-most',
  'at-most': 'above',
  below: 'at-least',
  'at-least': 'below',
  'one-of': 'not-one-of',
  'not-one-of': 'one-of',
  'has-rows': 'has-no-rows',
  'has-no-rows': 'has-rows',
};

const opposite = (comparison: Comparison): Comparison | null => OPPOSITES[comparison] ?? null;

/** The item that is true where the item is false, false where it is true, and unknown where it is unknown. */
export function negateItem(item: OutlineItem): OutlineItem {
  switch (item.kind) {
    case 'group':
      if (item.which === 'none') {
        const [only] = item.of;
        return item.of.length === 1 && only ? only : { ...item, which: 'any' };
      }
      return item.which === 'any' ? { ...item, which: 'none' } : { kind: 'group', which: 'none', of: [item] };
    case 'rows':
      return { ...item, which: item.which === 'some' ? 'every' : 'some', where: negateItem(item.where) };
    case 'clause': {
      const comparison = opposite(item.comparison);
      return comparison ? ({ ...item, comparison } satisfies OutlineClause) : { kind: 'group', which: 'none', of: [item] };
    }
    case 'text':
      return { kind: 'group', which: 'none', of: [item] };
    default:
      return item satisfies never;
  }
}
