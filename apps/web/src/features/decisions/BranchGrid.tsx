import { Popover, Select, TextInput, UnstyledButton } from '@mantine/core';
import {
  checkExpression,
  describeOutline,
  type Edit,
  explainExpression,
  type HandOff,
  itemAt,
  joinPath,
  makeFrame,
  type OutlineContext,
  type OutlineGroup,
  type OutlineItem,
  type OutlinePath,
  parseExpression,
  phrasesOf,
  type Reach,
  reachOf,
  readOutlineGroup,
  replaceItem,
  type Way,
  wayOf,
} from '@ypomet/core';
import { type KeyboardEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { useRowDrag } from '../../shared/use-row-drag.ts';
import { ClauseForm } from '../conditions/ClauseForm.tsx';
import { clauseFor, textOf } from '../conditions/editing.ts';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { newBranch } from '../plan/panels/new-parts.ts';
import { useRehearsalBasis, useRehearsalForm } from '../rehearsal/rehearsal-context.tsx';
import classes from './BranchGrid.module.css';
import { type Cell, type Column, layOutBranches } from './branch-cells.ts';

type Props = {
  readonly handOff: HandOff;
  readonly selected: string | null;
  readonly onSelect: (branch: string) => void;
};

const NEVER: OutlineGroup = { kind: 'group', which: 'any', of: [] };
const readGroup = (text: string): OutlineGroup => {
  const parsed = parseExpression(text);
  return parsed.ok ? readOutlineGroup(parsed.value) : NEVER;
};

type At = { readonly row: number; readonly column: number };

/**
 * All branches of a hand-off as one picture: a row each, a column for each thing that any of them asks for. Moved through with the
 * arrow keys; Enter edits a cell in its place, Delete empties it, Alt with an arrow moves the branch.
 */
export function BranchGrid({ handOff, selected, onSelect }: Props) {
  const { store, definition, compiled } = useDraft();
  const place = useConditionPlace();
  const basis = useRehearsalBasis();
  const { branches, otherwise } = handOff;
  const outlines = useMemo(() => branches.map(({ when }) => readGroup(when)), [branches]);
  const { columns, rows } = useMemo(() => layOutBranches(outlines, place.wording), [outlines, place.wording]);
  const reach = useReach(outlines, handOff.policy === 'first', place);
  const own = compiled.handOffs.get(handOff.key);
  const way = useMemo(() => (own ? wayOf(basis, own, new Map()) : null), [basis, own]);
  const [at, setAt] = useState<At>({ row: 0, column: 1 });
  const [isEditing, setEditing] = useState(false);
  const table = useRef<HTMLTableElement>(null);
  const wantsFocus = useRef(false);
  const last = columns.length + 2;
  useLayoutEffect(() => {
    if (!wantsFocus.current) return;
    wantsFocus.current = false;
    table.current?.querySelector<HTMLElement>(`[data-at="${at.row}/${at.column}"]`)?.focus();
  });
  const stand = (row: number, column: number): void => {
    const next = { row: Math.max(0, Math.min(branches.length, row)), column: Math.max(1, Math.min(last, column)) };
    const cell = rows[next.row]?.[next.column - 2];
    // A covered cell is part of the one to its left.
    if (cell?.kind === 'covered')
      next.column +=
        column > at.column ? spanFrom(rows[next.row] ?? [], next.column - 2) : -back(rows[next.row] ?? [], next.column - 2);
    wantsFocus.current = true;
    setEditing(false);
    setAt({ row: next.row, column: Math.max(1, Math.min(last, next.column)) });
    const branch = branches[next.row];
    if (branch) onSelect(branch.key);
  };
  const change = (branch: string, set: Extract<Edit, { type: 'change-part' }>['set']): boolean =>
    store.edit({ type: 'change-part', part: joinPath('handOffs', handOff.key, 'branches', branch), set });
  const move = (row: number, by: -1 | 1): void => {
    const branch = branches[row];
    if (!branch || !branches[row + by]) return;
    const before = branches[by < 0 ? row - 1 : row + 2]?.key ?? null;
    if (store.edit({ type: 'move-part', part: joinPath('handOffs', handOff.key, 'branches', branch.key), before }))
      stand(row + by, at.column);
  };
  const write = (row: number, outline: OutlineItem): boolean => {
    const branch = branches[row];
    const found = textOf(outline, place.scope);
    return branch !== undefined && 'text' in found && change(branch.key, { when: found.text });
  };
  const { target, handlers } = useRowDrag((from, to) => {
    const branch = branches[from];
    if (!branch || to === from || to === from + 1) return;
    store.edit({
      type: 'move-part',
      part: joinPath('handOffs', handOff.key, 'branches', branch.key),
      before: branches[to]?.key ?? null,
    });
  });
  const onKey = (event: KeyboardEvent): void => {
    if ((event.target as HTMLElement).getAttribute('data-at') === null) return;
    const cell = rows[at.row]?.[at.column - 2];
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) move(at.row, event.key === 'ArrowUp' ? -1 : 1);
    else if (event.key === 'ArrowDown') stand(at.row + 1, at.column);
    else if (event.key === 'ArrowUp') stand(at.row - 1, at.column);
    else if (event.key === 'ArrowLeft') stand(at.row, at.column - 1);
    else if (event.key === 'ArrowRight') stand(at.row, at.column + 1);
    else if (event.key === 'Home') stand(at.row, 1);
    else if (event.key === 'End') stand(at.row, last);
    else if (event.key === 'Enter' || event.key === 'F2') setEditing(true);
    else if ((event.key === 'Delete' || event.key === 'Backspace') && cell?.kind === 'items') {
      // From the last on, so that those before it stay where they are.
      const left = [...cell.paths]
        .reverse()
        .reduce<OutlineItem>((root, path) => replaceItem(root, path, null), outlines[at.row] ?? NEVER);
      write(at.row, left);
    } else return;
    event.preventDefault();
  };
  const add = (): void => {
    const made = newBranch(definition, handOff);
    if (store.edit(made.edit)) onSelect(made.key);
  };
  const stages = definition.stages.map((stage) => ({ value: stage.key, label: stage.name }));
  const numbers = new Map(branches.map((branch, index) => [branch.key, index + 1]));
  const common = (row: number, column: number) => ({
    'data-at': `${row}/${column}`,
    tabIndex: at.row === row && at.column === column ? 0 : -1,
    onFocus: () => {
      if (at.row !== row || at.column !== column) setAt({ row, column });
    },
    onClick: () => {
      const isHere = at.row === row && at.column === column;
      stand(row, column);
      if (isHere) setEditing(true);
    },
    onDoubleClick: () => setEditing(true),
  });
  return (
    <div className={classes.scroll}>
      <table
        ref={table}
        className={classes.grid}
        // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a table whose cells are moved through is a grid (ARIA 1.2)
        role="grid"
        aria-label={`Branches of ${handOff.name}`}
        onKeyDown={onKey}
        {...handlers}
      >
        <thead>
          <tr>
            <th className={classes.number} aria-label="Order" />
            <th scope="col">Branch</th>
            {columns.map((column) => (
              <th key={column.key} scope="col">
                {column.name}
              </th>
            ))}
            <th scope="col">Leads to</th>
          </tr>
        </thead>
        <tbody>
          {branches.map((branch, row) => (
            <tr
              key={branch.key}
              data-row={row}
              data-selected={branch.key === selected || undefined}
              data-taken={(way?.kind === 'branch' && way.branch === branch.key) || undefined}
            >
              <td className={classes.number} data-drag="" title="Drag to try it earlier or later">
                {row + 1}
              </td>
              <th scope="row" {...common(row, 1)} className={classes.name}>
                {isEditing && at.row === row && at.column === 1 ? (
                  <NameInput
                    value={branch.name}
                    onDone={(name) => {
                      setEditing(false);
                      wantsFocus.current = true;
                      if (name !== null && name.trim() !== '' && name !== branch.name) change(branch.key, { name: name.trim() });
                    }}
                  />
                ) : (
                  branch.name
                )}
                <ReachNote reach={reach[row]} />
              </th>
              {columns.map((column, index) => {
                const cell = rows[row]?.[index] ?? { kind: 'any' as const };
                if (cell.kind === 'covered') return null;
                const isHere = isEditing && at.row === row && at.column === index + 2;
                return (
                  <td
                    key={column.key}
                    {...common(row, index + 2)}
                    colSpan={cell.kind === 'items' ? cell.span : 1}
                    data-joined={(cell.kind === 'items' && cell.span > 1) || undefined}
                  >
                    <CellEditor
                      isOpen={isHere}
                      cell={cell}
                      column={column}
                      outline={outlines[row] ?? NEVER}
                      onClose={() => {
                        setEditing(false);
                        wantsFocus.current = true;
                        setAt({ row, column: index + 2 });
                      }}
                      onChange={(outline) => write(row, outline)}
                    />
                  </td>
                );
              })}
              <td {...common(row, last)}>
                <Select
                  size="xs"
                  variant="unstyled"
                  aria-label={`Where ${branch.name} leads`}
                  data={stages}
                  value={branch.to}
                  allowDeselect={false}
                  onChange={(to) => to && change(branch.key, { to })}
                />
              </td>
            </tr>
          ))}
          <tr className={classes.otherwise} data-taken={way?.kind === 'otherwise' || undefined}>
            <td className={classes.number} />
            <th scope="row">otherwise</th>
            {columns.length > 0 && <td colSpan={columns.length}>everything else, and whatever is unknown</td>}
            <td>
              <Select
                size="xs"
                variant="unstyled"
                aria-label="Where everything else leads"
                placeholder="nowhere: refused"
                clearable
                data={stages}
                value={otherwise?.to ?? null}
                onChange={(to) =>
                  store.edit({
                    type: 'change-part',
                    part: joinPath('handOffs', handOff.key),
                    set: { otherwise: to === null ? null : { to, track: otherwise?.track ?? null } },
                  })
                }
              />
            </td>
          </tr>
          <tr className={classes.rehearsal}>
            <td className={classes.number} />
            <th scope="row">Rehearsal record</th>
            {columns.map((column) => (
              <td key={column.key}>
                <Value column={column} />
              </td>
            ))}
            <td>
              <strong>{way && wayWords(way, numbers)}</strong>
            </td>
          </tr>
        </tbody>
      </table>
      {target && <div className={classes.drop} style={{ top: target.top - 1 }} />}
      <div className={classes.actions}>
        <UnstyledButton className={classes.action} onClick={add}>
          + branch
        </UnstyledButton>
      </div>
    </div>
  );
}

const spanFrom = (cells: readonly Cell[], index: number): number => {
  let steps = 0;
  while (cells[index + steps]?.kind === 'covered') steps++;
  return steps;
};
const back = (cells: readonly Cell[], index: number): number => {
  let steps = 0;
  while (cells[index - steps]?.kind === 'covered') steps++;
  return steps;
};

/** How long one has to pause before it is looked which branches can be taken. */
const PAUSE_MS = 200;

/** Which branches can be taken, once one pauses; nothing is said where just one may hold. */
function useReach(
  outlines: readonly OutlineGroup[],
  isFirst: boolean,
  { scope, wording, environment }: ReturnType<typeof useConditionPlace>,
): readonly (Reach | undefined)[] {
  const [reach, setReach] = useState<readonly Reach[]>([]);
  useEffect(() => {
    const context: OutlineContext = { scope, fieldAt: wording.fieldAt, environment };
    const timer = setTimeout(() => setReach(isFirst ? reachOf(outlines, context) : []), PAUSE_MS);
    return () => clearTimeout(timer);
  }, [outlines, isFirst, scope, wording, environment]);
  return reach.length === outlines.length ? reach : [];
}

function ReachNote({ reach }: { readonly reach: Reach | undefined }) {
  if (!reach || reach.kind === 'reached' || reach.kind === 'undecided') return null;
  const numbers = reach.kind === 'after' ? reach.after.map((index) => index + 1) : [];
  return (
    <div className={classes.never}>
      {reach.kind === 'never' ? 'holds for no values' : `never taken: ${numbers.join(' or ')} holds before`}
    </div>
  );
}

function wayWords(way: Way, numbers: ReadonlyMap<string, number>): string {
  switch (way.kind) {
    case 'branch':
      return `takes ${numbers.get(way.branch) ?? way.branch}`;
    case 'otherwise':
      return 'otherwise';
    case 'none':
      return 'refused';
    case 'clash':
      return `refused: ${way.branches.map((branch) => numbers.get(branch)).join(' and ')} both hold`;
    default:
      return way satisfies never;
  }
}

const rowsWords = (count: number): string => (count === 0 ? 'no rows' : count === 1 ? '1 row' : `${count} rows`);

/** What the rehearsal's record has for a column. */
function Value({ column }: { readonly column: Column }) {
  const { scope, wording } = useConditionPlace();
  const { frame } = useRehearsalForm();
  const value = useMemo(() => {
    const parsed = parseExpression(column.key);
    const checked = parsed.ok ? checkExpression(parsed.value, scope) : null;
    if (!checked || checked.diagnostics.length > 0) return null;
    return explainExpression(checked, makeFrame(frame.slots, frame.environment)).value;
  }, [column.key, scope, frame]);
  const { subject } = column;
  const path = subject.kind === 'field' ? subject.path : subject.kind === 'total' ? [...subject.table, subject.column] : null;
  if (value === null) return <span className={classes.any}>empty</span>;
  if (Array.isArray(value) && value.every((item) => typeof item === 'object')) return rowsWords(value.length);
  return wording.format(value, path);
}

function NameInput({ value, onDone }: { readonly value: string; readonly onDone: (name: string | null) => void }) {
  const [name, setName] = useState(value);
  return (
    <TextInput
      size="xs"
      aria-label="Name of the branch"
      value={name}
      autoFocus
      onChange={(event) => setName(event.currentTarget.value)}
      onBlur={() => onDone(name)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onDone(name);
        if (event.key === 'Escape') onDone(null);
        event.stopPropagation();
      }}
    />
  );
}

/** A cell in words; opened, with the inputs of its clause. What is more than one clause is edited as the branch's condition, beside. */
function CellEditor({
  isOpen,
  cell,
  column,
  outline,
  onClose,
  onChange,
}: {
  readonly isOpen: boolean;
  readonly cell: Cell;
  readonly column: Column;
  readonly outline: OutlineGroup;
  readonly onClose: () => void;
  readonly onChange: (outline: OutlineItem) => void;
}) {
  const place = useConditionPlace();
  const only = cell.kind === 'items' && cell.paths.length === 1 ? (cell.paths[0] ?? null) : null;
  const found = only ? itemAt(outline, only) : null;
  const isEditable = cell.kind === 'any' || found?.kind === 'clause';
  const [made, setMade] = useState<{ readonly path: OutlinePath; readonly item: OutlineItem } | null>(null);
  if (!isOpen && made) setMade(null);
  const item = made?.item ?? found ?? clauseFor(column.subject, place.scope);
  const path = made?.path ?? only ?? [outline.which === 'all' ? outline.of.length : 0];
  const put = (next: OutlineItem): void => {
    setMade({ path, item: next });
    // Beside nothing asked for yet, or a condition that is no "all of", the clause becomes one of two.
    const base: OutlineGroup =
      outline.which === 'all'
        ? outline
        : outline.of.length === 0
          ? { kind: 'group', which: 'all', of: [] }
          : { kind: 'group', which: 'all', of: [outline] };
    const isThere = only !== null || (made !== null && itemAt(base, path) !== null);
    onChange(isThere ? replaceItem(base, path, next) : { ...base, of: [...base.of, next] });
  };
  return (
    <Popover
      opened={isOpen && isEditable}
      onClose={onClose}
      position="bottom-start"
      width={330}
      shadow="md"
      trapFocus
      withRoles={false}
      returnFocus={false}
      withinPortal
    >
      <Popover.Target>
        <div className={classes.cell}>
          {cell.kind === 'any' && <span className={classes.any}>any</span>}
          {cell.kind === 'items' && cell.paths.map((own) => <CellWords key={own.join('.')} item={itemAt(outline, own)} />)}
          {isOpen && !isEditable && <div className={classes.hint}>Edit it as the branch’s condition, at the right.</div>}
        </div>
      </Popover.Target>
      <Popover.Dropdown
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Escape') onClose();
        }}
        onClick={(event) => event.stopPropagation()}
      >
        <ClauseForm item={item} place={place} onChange={put} onClose={onClose} />
      </Popover.Dropdown>
    </Popover>
  );
}

/** A clause without its subject, which the column says; anything else as a sentence. */
function CellWords({ item }: { readonly item: OutlineItem | null }) {
  const { wording } = useConditionPlace();
  if (!item) return null;
  if (item.kind !== 'clause') return <div>{describeOutline(item, wording)}</div>;
  if (item.subject.kind === 'count' && item.subject.where) return <div>{describeOutline(item, wording)}</div>;
  const phrases = phrasesOf(item, wording).filter(({ kind }) => kind !== 'subject');
  const isPlain = item.comparison === 'is' || item.comparison === 'one-of' || item.comparison === 'holds';
  return (
    <div>
      {item.comparison === 'holds' && <span className={classes.value}>yes</span>}
      {phrases
        .filter(({ kind }) => kind !== 'comparison' || !isPlain)
        .map(({ kind, text }, index) => (
          <span key={`${kind}/${String(index)}`} className={kind === 'value' ? classes.value : undefined}>
            {kind === 'comparison' ? text.replace(/^is (?!empty|filled)/, '') : text}{' '}
          </span>
        ))}
    </div>
  );
}
