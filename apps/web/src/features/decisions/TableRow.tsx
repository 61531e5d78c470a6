import type { DecisionRule, TriedDecision } from '@ypomet/core';
import { memo, type ReactNode } from 'react';
import { Mark } from '../conditions/Mark.tsx';
import { faultsOfCell, showOutput, showTests } from './cell-text.ts';
import classes from './TableGrid.module.css';
import { textOfCell } from './table-edits.ts';
import type { TableColumn } from './use-columns.ts';

type Props = {
  readonly rule: DecisionRule;
  readonly columns: readonly TableColumn[];
  readonly index: number;
  /** Pixels from the top of the rules. */
  readonly top: number;
  readonly template: string;
  /** The column the cursor stands in, if in this row; -1 if not. */
  readonly cursor: number;
  /** The first and last column of the range that goes through this row; -1 and -1 if none does. */
  readonly from: number;
  readonly to: number;
  readonly tried: TriedDecision['rules'][number] | null;
  readonly onPress: (row: number, column: number, extendsRange: boolean) => void;
  readonly onOpen: (row: number, column: number) => void;
  /** What stands in the place of the cell under the cursor while it is edited. */
  readonly editor: ReactNode;
};

/** A rule: its tests, its outputs, its notes. Drawn again only when something of its own changes. */
export const TableRow = memo(function TableRow(props: Props) {
  const { rule, columns, index, top, template, cursor, from, to, tried, onPress, onOpen, editor } = props;
  let input = -1;
  return (
    <div
      className={classes.row}
      role="row"
      aria-rowindex={index + 2}
      tabIndex={-1}
      style={{ gridTemplateColumns: template, top }}
      data-fires={tried?.fires || undefined}
    >
      <span role="rowheader" tabIndex={-1} className={classes.number}>
        {index + 1} {tried && <Mark truth={tried.fires} />}
      </span>
      {columns.map((own, column) => {
        const { side } = own.at;
        if (side === 'when') input += 1;
        const truth = side === 'when' ? tried?.cells[input] : undefined;
        const text = textOfCell(rule, own.at);
        const shown =
          side === 'notes' ? (text ?? '') : side === 'when' ? showTests(text, own.column) : showOutput(text, own.column);
        const isFaulty =
          side !== 'notes' && text !== undefined && faultsOfCell(text, side, own.expression, own.column).length > 0;
        const isHere = column === cursor;
        return (
          // The grid around it has the keys.
          // biome-ignore lint/a11y/useKeyWithClickEvents: see above
          <div
            key={`${side}/${own.at.key}`}
            role="gridcell"
            className={classes.cell}
            aria-colindex={column + 2}
            aria-label={`${own.name}: ${shown || (side === 'when' ? 'any' : side === 'then' ? 'as the default' : 'none')}`}
            aria-selected={column >= from && column <= to}
            tabIndex={isHere ? 0 : -1}
            data-at={`${index}/${column}`}
            data-side={side}
            data-truth={truth === undefined ? undefined : String(truth)}
            data-faulty={isFaulty || undefined}
            title={shown}
            onClick={(event) =>
              isHere && !event.shiftKey && !editor
                ? onOpen(index, column)
                : editor && isHere
                  ? undefined
                  : onPress(index, column, event.shiftKey)
            }
          >
            {isHere && editor ? editor : shown || <span className={classes.nothing}>{side === 'when' ? '–' : ''}</span>}
          </div>
        );
      })}
    </div>
  );
});
