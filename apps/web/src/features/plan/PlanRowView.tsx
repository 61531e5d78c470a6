import { describeTerm, type Path, plannedTreatment, splitFieldPath, termOfPart, type Workflow } from '@ypomet/core';
import { memo } from 'react';
import type { ColumnWindow } from './layout.ts';
import classes from './PlanGrid.module.css';
import { adjustmentsAt, type PlanRow, submitterSees } from './rows.ts';
import { TREATMENT_MARK } from './TreatmentMark.tsx';

type Props = {
  readonly workflow: Workflow;
  readonly row: Extract<PlanRow, { kind: 'field' }>;
  /** Its place among the fields. */
  readonly at: number;
  /** Its place among all rows. */
  readonly index: number;
  /** Pixels from the top of the grid. */
  readonly top: number;
  readonly template: string;
  /** The columns that are drawn. */
  readonly columns: ColumnWindow;
  readonly isNarrow: boolean;
  readonly isLit: boolean;
  /** Whether it is the field that is selected. */
  readonly isOwn: boolean;
  /** The parts that read it, by stage. */
  readonly reads: ReadonlyMap<string, readonly Path[]> | undefined;
  /** The column the cursor stands in, if in this row; -1 if not. */
  readonly cursor: number;
  /** The first and last column of the range that goes through this row; -1 and -1 if none does. */
  readonly from: number;
  readonly to: number;
  /** The stage whose cell of this row is selected; `*` for the column *Submitter*. */
  readonly selected: string | null;
  readonly onPress: (row: number, column: number, extendsRange: boolean) => void;
  readonly onField: (path: string) => void;
};

/** One field of the plan: a cell for each stage. Drawn again only when something of its own changes. */
export const PlanRowView = memo(function PlanRowView(props: Props) {
  const {
    workflow,
    row,
    at,
    index,
    top,
    template,
    columns,
    isNarrow,
    isLit,
    isOwn,
    reads,
    cursor,
    from,
    to,
    selected,
    onPress,
    onField,
  } = props;
  const last = workflow.stages.length;
  const isDrawn = (column: number): boolean => (column >= columns.from && column < columns.to) || column === cursor;
  return (
    <div
      className={classes.row}
      role="row"
      aria-rowindex={at + 2}
      data-row={index}
      tabIndex={-1}
      data-lit={isLit || undefined}
      data-own={isOwn || undefined}
      data-narrow={isNarrow || undefined}
      style={{ gridTemplateColumns: template, top }}
    >
      <span role="rowheader" tabIndex={-1} className={classes.label} data-sub={row.isSub || undefined}>
        <button type="button" className={classes.name} data-drag="" tabIndex={-1} onClick={() => onField(row.path)}>
          {row.name}
        </button>
        <span className={`${classes.type} mono`}>{row.type}</span>
      </span>
      {workflow.stages.map((stage, column) => {
        if (!isDrawn(column)) return null;
        const treatment = plannedTreatment(workflow, row.path, stage.key);
        const adjusting = adjustmentsAt(workflow, row.path, stage.key);
        const isInRange = column >= from && column <= to;
        const readers = reads?.get(stage.key);
        const words = [
          `${row.name} at ${stage.name}: ${treatment}`,
          ...(adjusting.length > 0 ? [`adjusted by ${adjusting.map((one) => one.name).join(', ')}`] : []),
          ...(readers ? [`read by ${readers.map((part) => describeTerm(termOfPart(workflow, part))).join(', ')}`] : []),
        ].join(', ');
        return (
          <button
            key={stage.key}
            type="button"
            role="gridcell"
            className={`${classes.cell} ${TREATMENT_MARK}`}
            aria-label={words}
            aria-colindex={column + 2}
            style={{ gridColumn: column + 2 }}
            aria-selected={isInRange || selected === stage.key}
            tabIndex={column === cursor ? 0 : -1}
            title={words}
            data-at={`${at}/${column}`}
            data-range={isInRange || undefined}
            data-selected={selected === stage.key || undefined}
            data-treatment={treatment}
            data-read={readers !== undefined || undefined}
            onClick={(event) => onPress(at, column, event.shiftKey)}
          >
            {adjusting.length > 0 && (
              <span className={classes.adjusted} aria-hidden="true">
                ◣{isNarrow ? '' : adjusting.length}
              </span>
            )}
          </button>
        );
      })}
      {isDrawn(last) && <SubmitterCell {...props} column={last} />}
    </div>
  );
}, isSameRow);

/** What the submitter sees when looking in; faint where nothing is said and the intake decides. */
function SubmitterCell({ workflow, row, at, cursor, from, to, selected, onPress, column }: Props & { readonly column: number }) {
  const isShown = submitterSees(workflow, row.path);
  const isSaid = Object.hasOwn(workflow.submitterSees, row.path);
  const words = `${row.name} for the submitter looking in: ${isShown ? 'shown' : 'hidden'}${isSaid ? '' : ', as the intake has it'}`;
  const isInRange = column >= from && column <= to;
  return (
    <button
      type="button"
      role="gridcell"
      className={`${classes.cell} ${TREATMENT_MARK}`}
      data-treatment={isShown ? 'read-only' : 'hidden'}
      aria-label={words}
      aria-colindex={column + 2}
      style={{ gridColumn: column + 2 }}
      aria-selected={isInRange || selected === '*'}
      tabIndex={column === cursor ? 0 : -1}
      title={words}
      data-at={`${at}/${column}`}
      data-range={isInRange || undefined}
      data-selected={selected === '*' || undefined}
      data-submitter={isSaid ? 'said' : 'intake'}
      onClick={(event) => onPress(at, column, event.shiftKey)}
    />
  );
}

/** Edits leave what they don't change the same object, so that identity tells whether a row must be drawn again. */
function isSameRow(before: Props, after: Props): boolean {
  const { workflow: a, ...own } = before;
  const { workflow: b, ...next } = after;
  const { path } = before.row;
  const table = splitFieldPath(path).field;
  return (
    (Object.keys(own) as (keyof typeof own)[]).every((key) => own[key] === next[key]) &&
    a.stages === b.stages &&
    a.fields === b.fields &&
    a.adjustments === b.adjustments &&
    a.submitterSees[path] === b.submitterSees[path] &&
    a.plan[path] === b.plan[path] &&
    a.plan[table] === b.plan[table]
  );
}
