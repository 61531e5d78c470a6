import {
  addItem,
  type Edit,
  findField,
  itemAt,
  itemsOf,
  moveBy,
  moveIn,
  moveOut,
  negateItem,
  type OutlineGroup,
  type OutlineItem,
  type OutlinePath,
  parseExpression,
  readOutline,
  replaceItem,
  unwrapItem,
  wrapItem,
} from '@ypomet/core';
import type { KeyboardEvent } from 'react';
import { clauseFor, itemFor } from './editing.ts';
import { type ConditionPlace, placeWithin } from './place.ts';
import { subjectOptions } from './subjects.ts';

/** An outline, and the item in it that the cursor stands at. */
export type Standing = { readonly root: OutlineItem; readonly path: OutlinePath };
/** What an action comes to: `opens` the item for editing. `also`: what else changes in the draft. */
export type Acted = Standing & { readonly opens?: boolean; readonly also?: readonly Edit[] };

export type Action = {
  readonly id: string;
  readonly label: string;
  readonly keys: string;
  readonly isPressed: (event: KeyboardEvent) => boolean;
  /** Null where it isn't possible: it isn't offered then. */
  readonly act: (standing: Standing, place: ConditionPlace) => Acted | null;
};

const plain = (key: string) => (event: KeyboardEvent) => event.key === key && !event.ctrlKey && !event.metaKey && !event.altKey;
const alt = (key: string) => (event: KeyboardEvent) => event.key === key && event.altKey;

/** The place in which the items of the one at a path stand. */
export function placeAt(place: ConditionPlace, root: OutlineItem, path: OutlinePath): ConditionPlace {
  let [found, item] = [place, root];
  for (const index of path) {
    found = placeWithin(found, item);
    item = itemsOf(item)[index] ?? item;
  }
  return found;
}

/** A clause about the likeliest subject: a field, or a column of the row. */
export function newClause(place: ConditionPlace): OutlineItem {
  const first = subjectOptions(place.workflow, place.findWorkflow, place.scope, place.rows)[0]?.items[0]?.value;
  return first ? itemFor(first, place.scope) : clauseFor({ kind: 'field', path: ['record', 'track'] }, place.scope);
}

/** Which group a new item would join that is added at a path. */
export function joinedAt(root: OutlineItem, path: OutlinePath): OutlineGroup['which'] {
  const added = addItem(root, path, emptyGroup('all'));
  const around = itemAt(added.root, added.path.slice(0, -1));
  return around?.kind === 'group' ? around.which : 'all';
}

/** Adds a clause where the cursor stands, about what can be read where it comes to stand. */
function addClause({ root, path }: Standing, place: ConditionPlace): Acted {
  const added = addItem(root, path, emptyGroup('all'));
  const clause = newClause(placeAt(place, added.root, added.path));
  return { root: replaceItem(added.root, added.path, clause), path: added.path, opens: true };
}

const emptyGroup = (which: OutlineGroup['which']): OutlineGroup => ({ kind: 'group', which, of: [] });

function wrapped(which: OutlineGroup['which']): Action['act'] {
  return ({ root, path }) => {
    if (path.length === 0 && itemAt(root, path)?.kind === 'group')
      return { root: { kind: 'group', which, of: [root] }, path: [0] };
    return { root: wrapItem(root, path, which), path };
  };
}

const moved =
  (move: (root: OutlineItem, path: OutlinePath) => Standing | null): Action['act'] =>
  ({ root, path }) =>
    move(root, path);

/** What can be done with an item: the menu beside it, and its keys. */
export const ACTIONS: readonly Action[] = [
  {
    id: 'edit',
    label: 'Edit',
    keys: 'Enter',
    isPressed: (event) => plain('Enter')(event) || plain('F2')(event),
    act: ({ root, path }) => (itemAt(root, path)?.kind === 'group' ? null : { root, path, opens: true }),
  },
  {
    id: 'clause',
    label: 'Add a clause',
    keys: '+',
    isPressed: (event) => plain('+')(event) || plain('Insert')(event),
    act: addClause,
  },
  {
    id: 'group',
    label: 'Add a group',
    keys: '*',
    isPressed: plain('*'),
    act: (standing) => {
      const item = itemAt(standing.root, standing.path);
      const around = item?.kind === 'group' ? item : itemAt(standing.root, standing.path.slice(0, -1));
      const which = around?.kind === 'group' && around.which === 'any' ? 'all' : 'any';
      return addItem(standing.root, standing.path, emptyGroup(which));
    },
  },
  { id: 'any', label: 'Put into “any of”', keys: '(', isPressed: plain('('), act: wrapped('any') },
  { id: 'all', label: 'Put into “all of”', keys: '[', isPressed: plain('['), act: wrapped('all') },
  {
    id: 'unwrap',
    label: 'Take the group away',
    keys: ')',
    isPressed: (event) => plain(')')(event) || plain(']')(event),
    act: ({ root, path }) => {
      const next = unwrapItem(root, path);
      return next && { root: next, path };
    },
  },
  {
    id: 'negate',
    label: 'Turn into its opposite',
    keys: '!',
    isPressed: plain('!'),
    act: ({ root, path }) => {
      const item = itemAt(root, path);
      return item && { root: replaceItem(root, path, negateItem(item)), path };
    },
  },
  {
    id: 'where',
    label: 'Count only rows where …',
    keys: '',
    isPressed: () => false,
    act: ({ root, path }) => {
      const item = itemAt(root, path);
      if (item?.kind !== 'clause' || item.subject.kind !== 'count' || item.subject.where) return null;
      const next: OutlineItem = { ...item, subject: { ...item.subject, where: emptyGroup('all') } };
      return { root: replaceItem(root, path, next), path: [...path, 0] };
    },
  },
  {
    id: 'up',
    label: 'Move up',
    keys: 'Alt ↑',
    isPressed: alt('ArrowUp'),
    act: moved((root, path) => moveBy(root, path, -1)),
  },
  {
    id: 'down',
    label: 'Move down',
    keys: 'Alt ↓',
    isPressed: alt('ArrowDown'),
    act: moved((root, path) => moveBy(root, path, 1)),
  },
  { id: 'in', label: 'Group with the one above', keys: 'Alt →', isPressed: alt('ArrowRight'), act: moved(moveIn) },
  {
    id: 'out',
    label: 'Move out of the group',
    keys: 'Alt ←',
    isPressed: alt('ArrowLeft'),
    act: moved((root, path) => moveOut(root, path)),
  },
  {
    id: 'inline',
    label: 'Put its condition here',
    keys: '',
    isPressed: () => false,
    act: ({ root, path }, { workflow }) => {
      const item = itemAt(root, path);
      const named = item && namedBy(item);
      const field = named ? findField(workflow, named) : null;
      const text = field?.type === 'yes-no' ? field.expression : null;
      const parsed = text === null ? null : parseExpression(text);
      return parsed?.ok ? { root: replaceItem(root, path, readOutline(parsed.value)), path } : null;
    },
  },
  {
    id: 'remove',
    label: 'Remove',
    keys: 'Del',
    isPressed: (event) => plain('Delete')(event) || plain('Backspace')(event),
    act: ({ root, path }) => {
      if (path.length === 0) return itemsOf(root).length > 0 ? { root: emptyGroup('all'), path } : null;
      const [parent, index] = [path.slice(0, -1), path.at(-1) ?? 0];
      const next = replaceItem(root, path, null);
      const left = itemsOf(itemAt(next, parent) ?? next).length;
      return { root: next, path: left === 0 ? parent : [...parent, Math.min(index, left - 1)] };
    },
  },
];

/** The yes/no field that a clause asks to be yes, whatever way it says so. */
function namedBy(item: OutlineItem): string | null {
  if (item.kind !== 'clause' || item.subject.kind !== 'field' || item.subject.path.length !== 1) return null;
  const [value] = item.values;
  const isYes = item.comparison === 'holds' || (item.comparison === 'is' && value?.kind === 'boolean' && value.value);
  return isYes ? (item.subject.path[0] ?? null) : null;
}

/** What the keys of a group's own set it to. */
export const GROUP_KEYS: Readonly<Record<string, OutlineGroup['which']>> = { a: 'all', o: 'any', n: 'none' };
