import { ActionIcon } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { type CompiledField, isEnterable, type Json, type Treatment } from '@ypomet/core';
import { memo } from 'react';
import { isSameList } from '../../shared/use-same.ts';
import { FieldInput } from './FieldInput.tsx';
import type { RowJson } from './pasted-rows.ts';
import classes from './RowsInput.module.css';

/** What a cell shows beside what was entered in it: its treatment, its value where it can't be entered, and what is wrong. */
export type CellView = { readonly treatment: Treatment; readonly text: string; readonly issue: string | null };

export type RowChanges = {
  readonly enter: (row: string, key: string, value: Json) => void;
  readonly remove: (row: string) => void;
};

type Props = {
  readonly id: string;
  readonly table: string;
  readonly row: RowJson;
  readonly position: number;
  readonly columns: CompiledField['subFields'];
  readonly cells: readonly CellView[];
  readonly isOpen: boolean;
  /** On another page of rows: only on paper. */
  readonly isAside: boolean;
  readonly changes: RowChanges;
};

/** Whether a row looks as it did: of a long table one answer changes few, and only these are drawn again. */
const isSameRow = (a: Props, b: Props): boolean =>
  a.row === b.row &&
  a.position === b.position &&
  a.isOpen === b.isOpen &&
  a.isAside === b.isAside &&
  a.id === b.id &&
  a.changes === b.changes &&
  isSameList(a.columns, b.columns) &&
  a.cells.every((cell, index) => {
    const other = b.cells[index];
    return cell.treatment === other?.treatment && cell.text === other.text && cell.issue === other.issue;
  });

/** A row of a table: every cell treated for itself. */
export const RowCells = memo(function RowCells({ id, table, row, position, columns, cells, isOpen, isAside, changes }: Props) {
  return (
    <tr data-aside={isAside || undefined}>
      {columns.map(({ field }, column) => {
        const cell = cells[column];
        return (
          cell && (
            <td
              key={field.key}
              data-row={row.id}
              data-column={column}
              data-label={field.name}
              data-kind={field.type}
              data-numeric={field.type === 'money' || field.type === 'number' || undefined}
            >
              {cell.treatment === 'hidden' ? (
                <span className={classes.hidden} title="Not asked for this row">
                  –
                </span>
              ) : isOpen && isEnterable(cell.treatment) ? (
                <FieldInput
                  id={`${id}-${row.id}-${field.key}`}
                  field={field}
                  path={`${table}.${field.key}`}
                  stored={null}
                  label={`${field.name}, row ${position + 1}${cell.treatment === 'required' ? ', required' : ''}`}
                  value={row.values[field.key] ?? null}
                  hasError={cell.issue !== null}
                  isRequired={cell.treatment === 'required'}
                  describedBy={cell.issue === null ? null : `${id}-${row.id}-${field.key}-error`}
                  onEnter={(entered) => changes.enter(row.id, field.key, entered)}
                />
              ) : (
                cell.text
              )}
              {cell.issue !== null && (
                <p className={classes.issue} id={`${id}-${row.id}-${field.key}-error`}>
                  {cell.issue}
                </p>
              )}
            </td>
          )
        );
      })}
      {isOpen && (
        <td className={classes.end}>
          <ActionIcon
            variant="subtle"
            color="gray"
            aria-label={`Remove row ${position + 1}`}
            onClick={() => changes.remove(row.id)}
          >
            <IconX size={15} />
          </ActionIcon>
        </td>
      )}
    </tr>
  );
}, isSameRow);
