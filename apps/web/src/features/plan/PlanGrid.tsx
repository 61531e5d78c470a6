import type { Edit, Treatment, Workflow } from '@ypomet/core';
import { type KeyboardEvent, useCallback, useEffect, useRef, useState } from 'react';
import type { PlanLayout } from './layout.ts';
import classes from './PlanGrid.module.css';
import { PlanRowView } from './PlanRowView.tsx';
import { cellTreatment, type PlanRow, submitterSees } from './rows.ts';
import type { Selection } from './selection.ts';
import { TREATMENT_KEYS } from './TreatmentMark.tsx';

type Props = {
  readonly workflow: Workflow;
  readonly rows: readonly PlanRow[];
  readonly layout: PlanLayout;
  readonly lit: ReadonlySet<string>;
  readonly selection: Selection;
  readonly onSelect: (selection: Selection) => void;
  readonly onEdit: (edit: Edit) => void;
};

type At = { readonly row: number; readonly column: number };

/** The stage whose cell of a row is selected; `*` for the column *Submitter*. */
function selectedIn(selection: Selection, path: string): string | null {
  if (selection.kind === 'submitter' && selection.field === path) return '*';
  return selection.kind === 'cell' && selection.field === path ? selection.stage : null;
}

const clamp = (value: number, max: number): number => Math.max(0, Math.min(max, value));

/** The field plan: a grid moved through with the arrow keys, set with one key, ranges with shift. */
export function PlanGrid({ workflow, rows, layout, lit, selection, onSelect, onEdit }: Props) {
  const fields = rows.filter((row) => row.kind === 'field');
  const [cursor, setCursor] = useState<At>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<At>(cursor);
  const [copied, setCopied] = useState<readonly (readonly Treatment[])[]>([]);
  const grid = useRef<HTMLDivElement>(null);
  const hasFocus = useRef(false);
  useEffect(() => {
    const cell = grid.current?.querySelector<HTMLElement>(`[data-at="${cursor.row}/${cursor.column}"]`);
    if (hasFocus.current) cell?.focus();
  }, [cursor]);
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
    if (field) onSelect(stage ? { kind: 'cell', field: field.path, stage: stage.key } : { kind: 'submitter', field: field.path });
  };
  const isRange = range.top !== range.bottom || range.left !== range.right;
  const latestMove = useRef(move);
  latestMove.current = move;
  const press = useCallback((row: number, column: number, extendsRange: boolean): void => {
    latestMove.current({ row, column }, extendsRange);
  }, []);
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
          .map((stage) => cellTreatment(workflow, fields[row]?.path ?? '', stage.key))
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
  const onKey = (event: KeyboardEvent): void => {
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
    if (step)
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
    else return;
    event.preventDefault();
  };
  const template = `${layout.labelWidth}px repeat(${workflow.stages.length + 1}, ${layout.columnWidth}px)`;
  let position = -1;
  return (
    <div
      className={classes.grid}
      role="grid"
      aria-label="Field plan"
      aria-multiselectable="true"
      aria-rowcount={fields.length + 1}
      aria-colcount={workflow.stages.length + 2}
      ref={grid}
      onKeyDown={onKey}
      onFocus={() => {
        hasFocus.current = true;
      }}
      onBlur={() => {
        hasFocus.current = false;
      }}
      style={{ width: layout.width }}
    >
      {rows.map((row) => {
        if (row.kind === 'section') {
          return (
            <div key={`section-${row.key}`} className={classes.section} role="row" tabIndex={-1}>
              <span role="rowheader" tabIndex={-1}>
                {row.name}
              </span>
            </div>
          );
        }
        position += 1;
        const isRanged = isRange && position >= range.top && position <= range.bottom;
        return (
          <PlanRowView
            key={row.path}
            workflow={workflow}
            row={row}
            at={position}
            template={template}
            isLit={lit.has(row.path)}
            cursor={position === cursor.row ? cursor.column : -1}
            from={isRanged ? range.left : -1}
            to={isRanged ? range.right : -1}
            selected={selectedIn(selection, row.path)}
            onPress={press}
          />
        );
      })}
    </div>
  );
}
