import { UnstyledButton } from '@mantine/core';
import {
  addItem,
  itemAt,
  itemsOf,
  moveItem,
  type OutlineGroup,
  type OutlineItem,
  type OutlinePath,
  parseExpression,
  printExpression,
  type Remark,
  readOutline,
  replaceItem,
  writeOutline,
} from '@ypomet/core';
import { type ClipboardEvent, type KeyboardEvent, useLayoutEffect, useRef, useState } from 'react';
import { useRowDrag } from '../../shared/use-row-drag.ts';
import { ACTIONS, type Acted, GROUP_KEYS, joinedAt } from './actions.ts';
import { isComplete } from './editing.ts';
import { linesOf } from './lines.ts';
import classes from './Outline.module.css';
import { OutlineRow } from './OutlineRow.tsx';
import type { ConditionPlace } from './place.ts';

const same = (a: OutlinePath, b: OutlinePath): boolean => a.length === b.length && a.every((index, at) => index === b[at]);
const keyOf = (path: OutlinePath): string => `root/${path.join('/')}`;

/** The path, or what is left of it: the nearest item around a place that isn't there any more. */
function nearestOf(root: OutlineItem, path: OutlinePath): OutlinePath {
  let own = path;
  while (itemAt(root, own) === null) own = own.slice(0, -1);
  return own;
}

/** How a new clause of a group is joined to those that are there. */
const JOINERS: Readonly<Record<OutlineGroup['which'], string>> = { all: 'and', any: 'or', none: 'nor' };

type Props = {
  readonly root: OutlineGroup;
  readonly place: ConditionPlace;
  readonly remarks: readonly Remark[];
  readonly label: string;
  readonly onChange: (root: OutlineGroup, acted: Acted) => void;
  /** Text that was pasted and is no condition. */
  readonly onUnfit: (text: string) => void;
};

/**
 * A condition as an outline: a line for each group and clause, in words; the one that is opened has its inputs. Moved through with
 * the arrow keys, changed with the keys in the menu of each line, dragged by its handle, copied and pasted as text.
 */
export function OutlineTree({ root, place, remarks, label, onChange, onUnfit }: Props) {
  const [cursor, setCursor] = useState<OutlinePath>([]);
  const [open, setOpen] = useState<OutlinePath | null>(null);
  const tree = useRef<HTMLDivElement>(null);
  const wantsFocus = useRef(false);
  const lines = linesOf(root, place);
  const at = nearestOf(root, cursor);
  const index = lines.findIndex(({ path }) => same(path, at));
  useLayoutEffect(() => {
    if (!wantsFocus.current) return;
    wantsFocus.current = false;
    const line = tree.current?.querySelector<HTMLElement>(`[data-path="${keyOf(cursor)}"]`);
    const input = open ? line?.querySelector<HTMLElement>('input[data-first], input') : null;
    (input ?? line)?.focus();
  });
  const stand = (path: OutlinePath, isOpened = false): void => {
    wantsFocus.current = true;
    setCursor(path);
    setOpen(isOpened ? path : null);
  };
  const done = (acted: Acted): void => {
    const next = acted.root;
    const isGroup = next.kind === 'group';
    onChange(isGroup ? next : { kind: 'group', which: 'all', of: [next] }, acted);
    stand(isGroup ? acted.path : [0], acted.opens);
  };
  const act = (id: string, path: OutlinePath): void => {
    const acted = ACTIONS.find((action) => action.id === id)?.act({ root, path }, place);
    if (acted) done(acted);
  };
  const replace = (path: OutlinePath, item: OutlineItem, opens?: OutlinePath): void => {
    const next = replaceItem(root, path, item);
    onChange(next.kind === 'group' ? next : { kind: 'group', which: 'all', of: [next] }, { root: next, path });
    if (opens) stand([...path, ...opens], true);
  };
  const { target, handlers } = useRowDrag((from, _, { over, isAfter }) => {
    const [source, line] = [lines[from], lines[over]];
    if (!source || !line) return;
    const { path, item } = line;
    // Behind the head of a group is at its beginning.
    const into = item.kind === 'group' && (isAfter || path.length === 0);
    const to = into ? [...path, 0] : [...path.slice(0, -1), (path.at(-1) ?? 0) + (isAfter ? 1 : 0)];
    const moved = moveItem(root, source.path, to);
    if (moved) done(moved);
  });
  const onKey = (event: KeyboardEvent): void => {
    const element = event.target as HTMLElement;
    if (event.key === 'Escape' && open) {
      event.preventDefault();
      event.stopPropagation();
      stand(open);
      return;
    }
    if (element.getAttribute('role') !== 'treeitem') return;
    // The line with the focus ring is the one that keys change, wherever the cursor was.
    const line = lines[Number(element.dataset.row)];
    if (!line) return;
    const at = line.path;
    const which = event.ctrlKey || event.metaKey || event.altKey ? undefined : GROUP_KEYS[event.key];
    const row = lines.indexOf(line);
    const goTo = { ArrowDown: row + 1, ArrowUp: row - 1, Home: 0, End: lines.length - 1 }[event.key];
    const action = ACTIONS.find((own) => own.isPressed(event));
    if (action) act(action.id, at);
    else if (line.item.kind === 'group' && which) replace(at, { ...line.item, which });
    else if (goTo !== undefined) stand(lines[Math.max(0, Math.min(lines.length - 1, goTo))]?.path ?? []);
    else if (event.key === 'ArrowLeft' && at.length > 0) stand(at.slice(0, -1));
    else if (event.key === 'ArrowRight' && itemsOf(line.item).length > 0) stand([...at, 0]);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const group = lines[index]?.item.kind === 'group' ? at : at.slice(0, -1);
  const joiner = JOINERS[joinedAt(root, group)];
  const isInLine = (event: ClipboardEvent): boolean => (event.target as HTMLElement).closest('input, textarea') === null;
  const onCopy = (event: ClipboardEvent): void => {
    const item = itemAt(root, at);
    // What is unfinished has no text that could be pasted: it stays where it is.
    if (!item || !isInLine(event) || !isComplete(item)) return;
    event.clipboardData.setData('text/plain', printExpression(writeOutline(item)));
    event.preventDefault();
    if (event.type === 'cut') act('remove', at);
  };
  const onPaste = (event: ClipboardEvent): void => {
    if (!isInLine(event)) return;
    event.preventDefault();
    const text = event.clipboardData.getData('text/plain').trim();
    const parsed = parseExpression(text);
    if (parsed.ok) done(addItem(root, at, readOutline(parsed.value)));
    else onUnfit(text);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys and pasted text of the tree within, whose lines have the focus
    <div ref={tree} className={classes.tree} onKeyDown={onKey} onCopy={onCopy} onCut={onCopy} onPaste={onPaste} {...handlers}>
      <div role="tree" aria-label={label}>
        {lines.map((line, own) => (
          <OutlineRow
            // An outline has no keys of its own: what stands at a place is the same line until something is moved.
            key={keyOf(line.path)}
            id={keyOf(line.path)}
            index={own}
            line={line}
            standing={{ root, path: line.path }}
            remark={remarks.find(({ path }) => same(path, line.path))}
            remarkWith={
              remarks.flatMap(({ path, with: other }) => (same(path, line.path) && other ? [itemAt(root, other)] : []))[0] ?? null
            }
            isCurrent={own === index}
            isOpen={open !== null && same(open, line.path)}
            onStand={() => {
              setCursor(line.path);
              if (open && !same(open, line.path)) setOpen(null);
            }}
            onOpen={() => stand(line.path, line.item.kind !== 'group')}
            onClose={() => stand(line.path)}
            onChange={(item, opens) => replace(line.path, item, opens)}
            onAct={(id) => act(id, line.path)}
          />
        ))}
      </div>
      {target && <div className={classes.drop} style={{ top: target.top - 1 }} />}
      <div className={classes.add}>
        <UnstyledButton className={classes.addButton} onClick={() => act('clause', group)}>
          + clause <span className={classes.joinedBy}>({joiner})</span>
        </UnstyledButton>
        <UnstyledButton className={classes.addButton} onClick={() => act('group', group)}>
          + group <span className={classes.joinedBy}>({joiner})</span>
        </UnstyledButton>
      </div>
    </div>
  );
}
