import {
  childrenOf,
  describeSubject,
  itemsOf,
  type Node,
  type OutlineGroup,
  type OutlineItem,
  type OutlinePath,
  type OutlineSubject,
  pathOf,
  subjectText,
  type Wording,
} from '@ypomet/core';

/** A column of the grid of branches: something that any of their conditions is about. */
export type Column = { readonly key: string; readonly name: string; readonly subject: OutlineSubject };

/** A cell: nothing asked, the items it asks for, or covered by the one to its left, which is about several columns. */
export type Cell =
  | { readonly kind: 'any' }
  | { readonly kind: 'items'; readonly paths: readonly OutlinePath[]; readonly span: number }
  | { readonly kind: 'covered' };

export type Laid = { readonly columns: readonly Column[]; readonly rows: readonly (readonly Cell[])[] };

const fieldSubject = (path: readonly string[]): OutlineSubject => ({ kind: 'field', path });

/** What an item is about, each once. */
function subjectsOf(item: OutlineItem): readonly OutlineSubject[] {
  switch (item.kind) {
    case 'clause':
      return item.subject.kind === 'count' && item.subject.where ? [fieldSubject(item.subject.table)] : [item.subject];
    case 'rows':
      return [fieldSubject(item.table)];
    case 'group':
      return item.of.flatMap(subjectsOf);
    case 'text':
      return pathsIn(item.node).map(fieldSubject);
    default:
      return item satisfies never;
  }
}

const pathsIn = (node: Node): readonly (readonly string[])[] => {
  const path = pathOf(node);
  return path ? [path] : childrenOf(node).flatMap(pathsIn);
};

/** What of a condition stands in cells of its own: the parts of "all of"; anything else is one thing. */
const partsOf = (outline: OutlineGroup): readonly { readonly item: OutlineItem; readonly path: OutlinePath }[] =>
  outline.which === 'all'
    ? itemsOf(outline).map((item, index) => ({ item, path: [index] }))
    : outline.of.length === 0
      ? []
      : [{ item: outline, path: [] }];

/**
 * Lays the conditions of branches out as a grid: a row each, a column for each thing that any is about, in the order in which
 * they are first named. A part that is about several columns goes over them where they stand side by side, else over all.
 */
export function layOutBranches(outlines: readonly OutlineGroup[], wording: Wording): Laid {
  const columns = new Map<string, Column>();
  for (const { item } of outlines.flatMap(partsOf))
    for (const subject of subjectsOf(item)) {
      const key = subjectText(subject);
      if (!columns.has(key)) columns.set(key, { key, name: describeSubject(subject, wording), subject });
    }
  const keys = [...columns.keys()];
  return { columns: [...columns.values()], rows: outlines.map((outline) => layOutRow(outline, keys)) };
}

function layOutRow(outline: OutlineGroup, keys: readonly string[]): readonly Cell[] {
  const cells: Cell[] = keys.map(() => ({ kind: 'any' }));
  const parts = partsOf(outline);
  const over = (paths: readonly OutlinePath[], from: number, span: number): void => {
    cells[from] = { kind: 'items', paths, span };
    for (let index = from + 1; index < from + span; index++) cells[index] = { kind: 'covered' };
  };
  for (const { item, path } of parts) {
    const at = [...new Set(subjectsOf(item).map((subject) => keys.indexOf(subjectText(subject))))].sort((a, b) => a - b);
    const [first = 0] = at;
    const own = cells[first];
    if (at.length === 1 && own?.kind === 'items' && own.span === 1) cells[first] = { ...own, paths: [...own.paths, path] };
    else if (at.length > 0 && at.length === (at.at(-1) ?? 0) - first + 1 && at.every((index) => cells[index]?.kind === 'any'))
      over([path], first, at.length);
    else {
      // It doesn't fit beside the others: the whole condition goes over the whole row.
      over(
        parts.map((part) => part.path),
        0,
        Math.max(1, keys.length),
      );
      return cells;
    }
  }
  return cells;
}
