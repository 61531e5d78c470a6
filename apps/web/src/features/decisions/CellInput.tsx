import { Combobox, useCombobox } from '@mantine/core';
import { describeDiagnostic } from '@ypomet/core';
import { type KeyboardEvent, useEffect, useRef } from 'react';
import { faultsOfCell, readOutput, readTests } from './cell-text.ts';
import classes from './TableGrid.module.css';
import type { TableColumn } from './use-columns.ts';

type Props = {
  readonly column: TableColumn;
  readonly typed: string;
  /** Whether all of the text is selected as the cell opens. */
  readonly isSelected: boolean;
  readonly onType: (typed: string) => void;
  /** Keeps what was typed and moves on by rows and columns. */
  readonly onDone: (typed: string, move: readonly [number, number]) => void;
  readonly onCancel: () => void;
  /** What was typed isn't sound, and the cell was left. */
  readonly onLeft: (typed: string) => void;
};

/** What can be chosen for what is typed last: labels that hold it. */
function suggestionsFor(typed: string, { column, at }: TableColumn): readonly string[] {
  const labels = column.type?.kind === 'boolean' ? ['yes', 'no'] : [...column.labels.values()];
  if (labels.length === 0) return [];
  const last = (at.side === 'when' ? (typed.split(/[,;]/).at(-1) ?? '') : typed).trim().toLowerCase();
  const found = labels.filter((label) => label.toLowerCase().includes(last));
  return found.length === 1 && found[0]?.toLowerCase() === last ? [] : found.slice(0, 60);
}

/** A cell while it is edited: text with what can be chosen below it. Enter and Tab keep it, Escape takes it back. */
export function CellInput({ column, typed, isSelected, onType, onDone, onCancel, onLeft }: Props) {
  const combobox = useCombobox();
  const input = useRef<HTMLInputElement>(null);
  const { side } = column.at;
  const suggestions = side === 'notes' ? [] : suggestionsFor(typed, column);
  useEffect(() => {
    input.current?.focus();
    combobox.openDropdown();
  }, [combobox.openDropdown]);
  // Only as the cell opens: `isSelected` doesn't change while it is open.
  useEffect(() => {
    if (isSelected) input.current?.select();
  }, [isSelected]);
  const stored = side === 'notes' ? null : side === 'when' ? readTests(typed, column.column) : readOutput(typed, column.column);
  const [fault] = side === 'notes' ? [] : faultsOfCell(stored, side, column.expression, column.column);
  const take = (label: string): void => {
    const before = side === 'when' ? typed.replace(/[^,;]*$/, '') : '';
    onType(before === '' ? label : `${before.trimEnd()} ${label}`);
    combobox.resetSelectedOption();
  };
  const isDone = useRef(false);
  const finish = (move: readonly [number, number]): void => {
    if (fault) return;
    isDone.current = true;
    onDone(typed, move);
  };
  const onKey = (event: KeyboardEvent): void => {
    // Keys of an input method choose among its suggestions.
    if (event.nativeEvent.isComposing) return;
    const isChosen = combobox.dropdownOpened && combobox.getSelectedOptionIndex() >= 0;
    if (event.key === 'Enter' && !isChosen) {
      event.preventDefault();
      finish([event.shiftKey ? -1 : 1, 0]);
    } else if (event.key === 'Tab') {
      event.preventDefault();
      finish([0, event.shiftKey ? -1 : 1]);
    } else if (event.key === 'Escape') {
      event.preventDefault();
      isDone.current = true;
      onCancel();
    }
    event.stopPropagation();
  };
  return (
    <Combobox store={combobox} onOptionSubmit={take} withinPortal position="bottom-start" width={220}>
      <Combobox.EventsTarget>
        <Combobox.DropdownTarget>
          <input
            ref={input}
            className={classes.input}
            aria-label={column.name}
            aria-invalid={fault ? true : undefined}
            title={fault ? describeDiagnostic(fault) : undefined}
            value={typed}
            onChange={(event) => {
              onType(event.currentTarget.value);
              combobox.openDropdown();
              combobox.resetSelectedOption();
            }}
            onKeyDown={onKey}
            onBlur={() => {
              if (isDone.current) return;
              if (fault) onLeft(typed);
              else finish([0, 0]);
            }}
          />
        </Combobox.DropdownTarget>
      </Combobox.EventsTarget>
      <Combobox.Dropdown hidden={suggestions.length === 0} onMouseDown={(event) => event.preventDefault()}>
        <Combobox.Options mah={200} style={{ overflowY: 'auto' }}>
          {suggestions.map((label) => (
            <Combobox.Option key={label} value={label}>
              {label}
            </Combobox.Option>
          ))}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}
