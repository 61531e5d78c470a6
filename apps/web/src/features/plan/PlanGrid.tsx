import { defaultRangeExtractor, type Range, useVirtualizer } from '@tanstack/react-virtual';
import { type Edit, type Path, plannedTreatment, type Treatment, type Workflow } from '@ypomet/core';
import {
  type KeyboardEvent,
  type RefObject,
  startTransition,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { useRowDrag } from '../../shared/use-row-drag.ts';
import { type ColumnWindow, columnsInView, isDrawnFor, type PlanLayout } from './layout.ts';
import classes from './PlanGrid.module.css';
import { PlanRowView } from './PlanRowView.tsx';
import { dropRows, moveSection, moveWithin, type PlanRow, submitterSees } from './rows.ts';
import type { Selection } from './selection.ts';
import { TREATMENT_KEYS } from './TreatmentMark.tsx';

type Props = {
  readonly workflow: Workflow;
  readonly rows: readonly PlanRow[];
  /** Sections whose fields are put away. */
  readonly closed: ReadonlySet<string>;
  readonly onToggle: (section: string) => void;
  readonly layout: PlanLayout;
  readonly lit: ReadonlySet<string>;
  /** Where fields are read: by field and stage, the parts that read it. */
  readonly reads: ReadonlyMap<string, ReadonlyMap<string, readonly Path[]>>;
  readonly selection: Selection;
  readonly onSelect: (selection: Selection) => void;
  readonly onEdit: (edit: Edit) => void;
  /** What scrolls the grid, and how much of its top stays covered. */
  readonly scroller: RefObject<HTMLDivElement | null>;
  readonly headHeight: number;
};

const ROW_HEIGHT = 26;
const SECTION_HEIGHT = 26;
const OVERSCAN = 8;

type At = { readonly row: number; readonly column: number };

const keyOf = (row: PlanRow | undefined): string => (row?.kind === 'section' ? `section ${row.key}` : (row?.path ?? ''));

/** Brings a column into view beside the names of the fields, which stay. */
function scrollAcross(element: HTMLElement | null, { labelWidth, columnWidth }: PlanLayout, column: number): void {
  if (!element) return;
  const [left, right] = [column * columnWidth, (column + 1) * columnWidth + labelWidth - element.clientWidth];
  if (element.scrollLeft > left) element.scrollLeft = left;
  else if (element.scrollLeft < right) element.scrollLeft = right;
}

/** The stage whose cell of a row is selected; `*` for the column *Submitter*. */
function selectedIn(selection: Selection, path: string): string | null {
  if (selection.kind === 'submitter' && selection.field === path) return '*';
  return selection.kind === 'cell' && selection.field === path ? selection.stage : null;
}

const clamp = (value: number, max: number): number => Math.max(0, Math.min(max, value));

/** The columns in view, as the grid is scrolled. */
function useColumnWindow(scroller: RefObject<HTMLDivElement | null>, layout: PlanLayout): ColumnWindow {
  const [seen, setSeen] = useState<ColumnWindow>({ from: 0, to: layout.columns });
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    let drawn: ColumnWindow = { from: 0, to: 0 };
    const read = (): void => {
      const { scrollLeft, clientWidth } = element;
      const next = columnsInView(layout, scrollLeft, clientWidth);
      if (drawn.from === next.from && drawn.to === next.to) return;
      // What is in view is mostly drawn already: then what comes next is drawn when there is time.
      const isThere = isDrawnFor(layout, drawn, scrollLeft, clientWidth);
      drawn = next;
      if (isThere) startTransition(() => setSeen(next));
      else setSeen(next);
    };
    read();
    element.addEventListener('scroll', read, { passive: true });
    const observer = new ResizeObserver(read);
    observer.observe(element);
    return () => {
      element.removeEventListener('scroll', read);
      observer.disconnect();
    };
  }, [scroller, layout]);
  return seen;
}

/** The rows in view, and the one the cursor stands in: focus never leaves the page. */
const keeping =
  (index: number) =>
  (range: Range): number[] => {
    const found = defaultRangeExtractor(range);
    return index < 0 || found.includes(index) ? found : [...found, index].sort((a, b) => a - b);
  };

/**
 * The field plan: a grid moved through with the arrow keys, set with one key, ranges with shift. Only rows in view are drawn,
 * so that hundreds of fields cost no more than a screenful.
 */
export function PlanGrid(props: Props) {
  const { workflow, rows, closed, onToggle, layout, lit, reads, selection, onSelect, onEdit, scroller, headHeight } = props;
  const fields = useMemo(() => rows.filter((row) => row.kind === 'field'), [rows]);
  /** Where each field stands among the rows. */
  const places = useMemo(() => rows.flatMap((row, index) => (row.kind === 'field' ? [index] : [])), [rows]);
  const positions = useMemo(() => new Map(places.map((place, position) => [place, position])), [places]);
  const [cursor, setCursor] = useState<At>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<At>(cursor);
  const [copied, setCopied] = useState<readonly (readonly Treatment[])[]>([]);
  const columns = useColumnWindow(scroller, layout);
  const grid = useRef<HTMLDivElement>(null);
  const hasFocus = useRef(false);
  const getItemKey = useCallback((index: number) => keyOf(rows[index]), [rows]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (rows[index]?.kind === 'section' ? SECTION_HEIGHT : ROW_HEIGHT),
    getItemKey,
    scrollMargin: headHeight,
    scrollPaddingStart: headHeight,
    overscan: OVERSCAN,
    useFlushSync: false,
    rangeExtractor: keeping(places[cursor.row] ?? -1),
  });
  useLayoutEffect(() => {
    if (!hasFocus.current) return;
    grid.current?.querySelector<HTMLElement>(`[data-at="${cursor.row}/${cursor.column}"]`)?.focus({ preventScroll: true });
    virtual.scrollToIndex(places[cursor.row] ?? 0, { align: 'auto' });
    scrollAcross(scroller.current, layout, cursor.column);
  }, [cursor, virtual, places, scroller, layout]);
  // What is selected elsewhere, by a search or in a list, comes into view.
  const own = selection.kind === 'field' ? selection.field : null;
  useEffect(() => {
    const index = own === null || hasFocus.current ? -1 : rows.findIndex((row) => row.kind === 'field' && row.path === own);
    if (index >= 0) virtual.scrollToIndex(index, { align: 'auto' });
  }, [own, rows, virtual]);
  const range = {
    top: Math.min(cursor.row, anchor.row),
    bottom: Math.max(cursor.row, anchor.row),
    left: Math.min(cursor.column, anchor.column),
    right: Math.max(cursor.column, anchor.column),
  };
  const move = (to: At, extends_: boolean): void => {
    hasFocus.current = true;
    setCursor(to);
    if (!extends_) setAnchor(to);
    const field = fields[to.row];
    const stage = workflow.stages[to.column];
    if (!field) return;
    const several = extends_ ? cellsBetween(anchor, to) : null;
    const one: Selection = stage
      ? { kind: 'cell', field: field.path, stage: stage.key }
      : { kind: 'submitter', field: field.path };
    // The cursor is moved at once; the inspector and what lights up follow.
    startTransition(() => onSelect(several ?? one));
  };
  /** The cells from one to another, those of the submitter left out; null where it is but one. */
  const cellsBetween = (from: At, to: At): Selection | null => {
    const between = <T,>(list: readonly T[], a: number, b: number): readonly T[] =>
      list.slice(Math.min(a, b), Math.max(a, b) + 1);
    const own = between(fields, from.row, to.row).map(({ path }) => path);
    const stages = between(workflow.stages, from.column, to.column).map(({ key }) => key);
    return own.length * stages.length > 1 ? { kind: 'cells', fields: own, stages } : null;
  };
  const isRange = range.top !== range.bottom || range.left !== range.right;
  const latestMove = useRef(move);
  latestMove.current = move;
  const press = useCallback((row: number, column: number, extendsRange: boolean): void => {
    latestMove.current({ row, column }, extendsRange);
  }, []);
  const latestSelect = useRef(onSelect);
  latestSelect.current = onSelect;
  const selectField = useCallback((field: string): void => latestSelect.current({ kind: 'field', field }), []);
  const cells = function* () {
    for (let row = range.top; row <= range.bottom; row++)
      for (let column = range.left; column <= range.right; column++) yield { row, column };
  };
  const set = (treatment: Treatment | null): void => {
    const changed = [...cells()].flatMap(({ row, column }) => {
      const [field, stage] = [fields[row]?.path, workflow.stages[column]?.key];
      return field && stage ? [{ field, stage, treatment }] : [];
    });
    const seen = [...cells()].flatMap(({ row, column }) => submitterCell(row, column, treatment));
    if (changed.length > 0) onEdit({ type: 'set-treatments', cells: changed });
    if (seen.length > 0) onEdit({ type: 'set-submitter-sees', cells: seen });
  };
  /** A cell of the last column: hidden, or shown for every other treatment. */
  const submitterCell = (row: number, column: number, treatment: Treatment | null) => {
    const path = fields[row]?.path;
    if (!path || column !== workflow.stages.length) return [];
    const sees = treatment === null ? null : treatment === 'hidden' ? ('hidden' as const) : ('shown' as const);
    return [{ field: path, sees }];
  };
  const copy = (): void => {
    const lines: Treatment[][] = [];
    for (let row = range.top; row <= range.bottom; row++) {
      lines.push(
        workflow.stages
          .slice(range.left, range.right + 1)
          .map((stage) => plannedTreatment(workflow, fields[row]?.path ?? '', stage.key))
          .concat(
            range.right === workflow.stages.length
              ? [submitterSees(workflow, fields[row]?.path ?? '') ? 'read-only' : 'hidden']
              : [],
          ),
      );
    }
    setCopied(lines);
  };
  const paste = (): void => {
    const changed = copied.flatMap((line, down) =>
      line.flatMap((treatment, right) => {
        const [field, stage] = [fields[range.top + down]?.path, workflow.stages[range.left + right]?.key];
        return field && stage ? [{ field, stage, treatment }] : [];
      }),
    );
    const seen = copied.flatMap((line, down) =>
      line.flatMap((treatment, right) => submitterCell(range.top + down, range.left + right, treatment)),
    );
    if (changed.length > 0) onEdit({ type: 'set-treatments', cells: changed });
    if (seen.length > 0) onEdit({ type: 'set-submitter-sees', cells: seen });
  };
  /** The rows of the range, as they stand among all rows. */
  const rangedPlaces = (): readonly number[] => (isRange ? places.slice(range.top, range.bottom + 1) : []);
  /** Moves the field of the cursor one place within its section, or its table; the cursor goes along. */
  const moveField = (by: -1 | 1): void => {
    const path = fields[cursor.row]?.path ?? '';
    const moved = moveWithin(workflow, path, by);
    if (!moved) return;
    onEdit(moved);
    setCursor({ ...cursor, row: clamp(cursor.row + by, fields.length - 1) });
    setAnchor({ ...cursor, row: clamp(cursor.row + by, fields.length - 1) });
  };
  const { target, handlers } = useRowDrag((from, to) => {
    // A row of the range takes the others of it along.
    const ranged = rangedPlaces();
    const moved = dropRows(workflow, rows, ranged.includes(from) ? ranged : [from], to);
    if (moved) onEdit(moved);
  });
  const onSectionKey = (event: KeyboardEvent, section: string): void => {
    const by = event.altKey ? { ArrowUp: -1 as const, ArrowDown: 1 as const }[event.key] : undefined;
    if (by === undefined) return;
    const moved = moveSection(workflow, section, by);
    if (moved) onEdit(moved);
    event.preventDefault();
    event.stopPropagation();
  };
  const onKey = (event: KeyboardEvent): void => {
    if ((event.target as HTMLElement).closest('[data-drag]')) return;
    const steps: Record<string, readonly [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      Home: [0, -999],
      End: [0, 999],
      PageUp: [-10, 0],
      PageDown: [10, 0],
    };
    const step = steps[event.key];
    const isCommand = event.ctrlKey || event.metaKey;
    const treatment = TREATMENT_KEYS[event.key.toLowerCase()];
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) moveField(event.key === 'ArrowUp' ? -1 : 1);
    else if (step)
      move(
        {
          row: clamp(cursor.row + step[0], fields.length - 1),
          column: clamp(cursor.column + step[1], workflow.stages.length),
        },
        event.shiftKey,
      );
    else if (isCommand && event.key.toLowerCase() === 'c') copy();
    else if (isCommand && event.key.toLowerCase() === 'v') paste();
    else if (!isCommand && !event.altKey && treatment) set(treatment);
    else if (event.key === 'Delete' || event.key === 'Backspace') set(null);
    else if (event.key === 'Enter') selectField(fields[cursor.row]?.path ?? '');
    else return;
    event.preventDefault();
  };
  const template = `${layout.labelWidth}px repeat(${workflow.stages.length + 1}, ${layout.columnWidth}px)`;
  return (
    <div
      className={classes.grid}
      role="grid"
      id="field-plan"
      aria-label="Field plan"
      aria-multiselectable="true"
      aria-rowcount={fields.length + 1}
      aria-colcount={workflow.stages.length + 2}
      ref={grid}
      onKeyDown={onKey}
      {...handlers}
      onFocus={() => {
        hasFocus.current = true;
      }}
      onBlur={() => {
        hasFocus.current = false;
      }}
      style={{ width: layout.width, height: virtual.getTotalSize() }}
    >
      {virtual.getVirtualItems().map((item) => {
        const row = rows[item.index];
        const top = item.start - headHeight;
        if (!row) return null;
        if (row.kind === 'section') {
          return (
            <div key={item.key} className={classes.section} role="row" tabIndex={-1} data-row={item.index} style={{ top }}>
              <span role="rowheader" tabIndex={-1} className={classes.sectionName}>
                <button
                  type="button"
                  className={classes.fold}
                  data-drag=""
                  onKeyDown={(event) => onSectionKey(event, row.key)}
                  aria-expanded={!closed.has(row.key)}
                  onClick={() => onToggle(row.key)}
                >
                  {row.name}
                  {closed.has(row.key) && <span className={classes.count}>{row.fields}</span>}
                </button>
                <button
                  type="button"
                  className={classes.addFields}
                  aria-label={`Add fields to ${row.name}`}
                  onClick={() => onSelect({ kind: 'add-fields', to: { kind: 'section', section: row.key } })}
                >
                  + Field
                </button>
              </span>
            </div>
          );
        }
        const position = positions.get(item.index) ?? 0;
        const isRanged = isRange && position >= range.top && position <= range.bottom;
        return (
          <PlanRowView
            key={item.key}
            top={top}
            workflow={workflow}
            row={row}
            at={position}
            index={item.index}
            template={template}
            columns={columns}
            isNarrow={layout.isNarrow}
            isLit={lit.has(row.path)}
            isOwn={own === row.path}
            reads={reads.get(row.path)}
            cursor={position === cursor.row ? cursor.column : -1}
            from={isRanged ? range.left : -1}
            to={isRanged ? range.right : -1}
            selected={selectedIn(selection, row.path)}
            onPress={press}
            onField={selectField}
          />
        );
      })}
      {target && <div className={classes.drop} style={{ top: target.top - 1 }} />}
    </div>
  );
}
