import { Button } from '@mantine/core';
import {
  type CompiledField,
  type ContextValue,
  effectiveValueOf,
  type Form,
  formatValue,
  isEnterable,
  isList,
  isUnreadText,
  type Json,
  newRowCells,
  type Placement,
  type Style,
  type SubField,
  totalOf,
} from '@ypomet/core';
import { type ClipboardEvent, type KeyboardEvent, useMemo, useRef, useState } from 'react';
import { todayIn } from '../../shared/reading/today.ts';
import { useByParts } from '../../shared/use-by-parts.ts';
import { type FormPlace, focusPlace } from './form-places.ts';
import { useFormWorld } from './form-world.tsx';
import { pasteRows, type RowJson } from './pasted-rows.ts';
import { RowCells, type RowChanges } from './RowCells.tsx';
import classes from './RowsInput.module.css';
import { useTurnedPage } from './use-turned-page.ts';

type Props = {
  readonly id: string;
  readonly of: CompiledField;
  readonly form: Form;
  readonly value: Json;
  readonly isOpen: boolean;
  /** By "row/subField". */
  readonly issues: ReadonlyMap<string, string>;
  /** Where a press leads. */
  readonly aim: FormPlace | null;
  readonly style: Style;
  readonly onEnter: (value: Json) => void;
};

/** Rows whose inputs are there together: one more has as many inputs as there are columns. The others are a page away. */
const PAGE_ROWS = 30;
/** Of these so many are drawn at a time. */
const ROWS_AT_ONCE = 10;

/** How many rows a key moves by: none for a key that means something else in its input. */
function stepOf({ key, shiftKey, ctrlKey, metaKey, altKey, target }: KeyboardEvent<HTMLElement>): number {
  const input = target as HTMLElement;
  if (ctrlKey || metaKey || altKey || !(input instanceof HTMLInputElement)) return 0;
  if (input.getAttribute('aria-expanded') === 'true') return 0;
  if (key === 'Enter') return shiftKey ? -1 : 1;
  if (input.getAttribute('role') === 'combobox') return 0;
  return key === 'ArrowDown' ? 1 : key === 'ArrowUp' ? -1 : 0;
}

/** What a column's numbers are of; its cells have no room for it. */
const unitOf = (field: SubField): string => (field.type === 'money' ? field.currency : field.type === 'number' ? field.unit : '');

const toRows = (value: Json): readonly RowJson[] => (Array.isArray(value) ? (value as readonly RowJson[]) : []);

/** Whether a column is shown, or can come to be shown, in a row that somebody adds. */
const canComeUp = (placement: Placement | undefined): boolean =>
  placement !== undefined &&
  (placement.planned !== 'hidden' || placement.adjustments.some(({ adjustment }) => adjustment.treatment !== 'hidden'));

/** A table field: a row for each entry, every cell treated for its own row. */
export function RowsInput({ id, of, form, value, isOpen, issues, aim, style, onEnter }: Props) {
  const { names, locale, zone } = useFormWorld();
  const [told, setTold] = useState<readonly string[]>([]);
  const rows = toRows(value);
  const effective = effectiveValueOf(form, of);
  const values = new Map((isList(effective) ? (effective as readonly ContextValue[]) : []).map((row) => [row.id, row]));
  const treatmentOf = (row: string, index: number) => form.rows.get(of.slot)?.get(row)?.[index]?.treatment ?? 'hidden';
  const planned = new Map(
    form.stageForm.steps.flatMap((step) =>
      step.kind === 'field' && step.of === of ? step.rows.map((row) => [row.of.index, row.placement] as const) : [],
    ),
  );
  const columns = of.subFields.filter((sub) =>
    rows.length === 0 ? canComeUp(planned.get(sub.index)) : rows.some((row) => treatmentOf(row.id, sub.index) !== 'hidden'),
  );
  const now = useRef({ rows, onEnter });
  now.current = { rows, onEnter };
  const changes = useMemo<RowChanges>(
    () => ({
      enter: (id, key, entered) => {
        const { rows: before, onEnter: keep } = now.current;
        keep(before.map((row) => (row.id === id ? { ...row, values: { ...row.values, [key]: entered } } : row)));
      },
      remove: (id) => now.current.onEnter(now.current.rows.filter((row) => row.id !== id)),
    }),
    [],
  );
  const pages = isOpen ? Math.ceil(rows.length / PAGE_ROWS) : 1;
  const pageOf = (row: string): number => Math.floor(rows.findIndex(({ id: own }) => own === row) / PAGE_ROWS);
  const [at, turn] = useTurnedPage(pages, aim, ({ row }) => (row === null ? -1 : pageOf(row)));
  const drawn = useByParts(PAGE_ROWS, ROWS_AT_ONCE, at);
  const named = { ...style, nameOf: (id: string) => names[id] ?? null };
  const makeRow = (): RowJson => ({ id: crypto.randomUUID().slice(0, 8), values: newRowCells(form, of) });
  const add = (): void => {
    const row = makeRow();
    onEnter([...rows, row]);
    turn(Math.floor(rows.length / PAGE_ROWS));
    go(row.id, 0);
  };
  /** Moves the focus to a cell of a row. If the cell can't be edited, moves it to the next editable cell on the right. */
  const go = (row: string, column: number): void => {
    const open = columns.slice(column).find(({ index }) => row !== '' && isEnterable(treatmentOf(row, index))) ?? columns[column];
    if (open) focusPlace({ field: of.field.key, row, subField: open.field.key });
  };
  const [pasted, setPasted] = useState<{ readonly before: readonly RowJson[]; readonly after: Json } | null>(null);
  const takeBack = (): void => {
    if (!pasted) return;
    onEnter(pasted.before as unknown as Json);
    setPasted(null);
    setTold(['The paste was taken back.']);
  };
  const canTakeBack = pasted !== null && pasted.after === value;
  /** As in a sheet: Enter and the arrows move between rows, Ctrl+D fills from above, Ctrl+Z takes a paste back. */
  const onKey = (event: KeyboardEvent<HTMLElement>): void => {
    const cell = (event.target as HTMLElement).closest<HTMLElement>('td[data-column]');
    if (!isOpen || event.defaultPrevented || event.nativeEvent.isComposing || !cell) return;
    const isCommand = event.ctrlKey || event.metaKey;
    const row = rows.findIndex(({ id: own }) => own === cell.dataset.row);
    const column = Number(cell.dataset.column);
    const field = columns[column]?.field;
    if (isCommand && event.key.toLowerCase() === 'z' && canTakeBack) takeBack();
    else if (isCommand && event.key.toLowerCase() === 'd' && field && row > 0 && rows[row]) {
      changes.enter(rows[row].id, field.key, rows[row - 1]?.values[field.key] ?? null);
    } else {
      const step = stepOf(event);
      const to = rows[row + step];
      if (step === 0 || (!to && (step < 0 || event.key !== 'Enter'))) return;
      if (!to) add();
      else {
        turn(pageOf(to.id));
        go(to.id, column);
      }
    }
    event.preventDefault();
  };
  const paste = async (text: string, at: { readonly row: number; readonly column: number }): Promise<void> => {
    const { default: papa } = await import('papaparse');
    const lines = papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t' }).data;
    const pasteColumns = columns.map(({ field, index }) => ({
      field,
      canEnter: (row: string | null): boolean => {
        const placement = planned.get(index);
        if (row !== null) return isEnterable(treatmentOf(row, index));
        return placement !== undefined && (isEnterable(placement.planned) || placement.adjustments.length > 0);
      },
    }));
    const put = pasteRows(lines, at, rows, pasteColumns, {
      style: { locale, zone, today: todayIn(zone) },
      makeRow,
    });
    setTold(put.told);
    setPasted({ before: rows, after: put.rows as Json });
    onEnter(put.rows as Json);
  };
  const onPaste = (event: ClipboardEvent<HTMLElement>): void => {
    const text = event.clipboardData.getData('text/plain');
    // One cell is pasted as ever; so are several lines into a text that may have them.
    const isRows = text.includes('\t') || (/\n./.test(text) && !(event.target instanceof HTMLTextAreaElement));
    if (!isOpen || !isRows) return;
    event.preventDefault();
    const cell = (event.target as HTMLElement).closest<HTMLElement>('td[data-column]');
    const at = cell
      ? { row: rows.findIndex(({ id: own }) => own === cell.dataset.row), column: Number(cell.dataset.column) }
      : { row: rows.length, column: 0 };
    void paste(text, at);
  };
  const totals = columns.map((sub) => totalOf(form, of, sub));
  const layout = of.field.type === 'table' ? of.field.layout : 'table';
  return (
    <div
      className={classes.frame}
      id={id}
      role="group"
      aria-labelledby={`${id}-label`}
      data-layout={layout}
      onPaste={onPaste}
      onKeyDown={onKey}
    >
      <table className={classes.table} aria-labelledby={`${id}-label`}>
        <thead>
          <tr>
            {columns.map(({ field, index }) => (
              <th key={field.key} scope="col" data-numeric={field.type === 'money' || field.type === 'number' || undefined}>
                {field.short || field.name}
                {isOpen && unitOf(field) && <span className={classes.unit}> {unitOf(field)}</span>}
                {isOpen && rows.every((row) => treatmentOf(row.id, index) === 'required') && rows.length > 0 && (
                  <span className={classes.required}> required</span>
                )}
              </th>
            ))}
            {isOpen && <th aria-label="Remove" className={classes.end} />}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, position) => {
            const place = position - at * PAGE_ROWS;
            const isAside = isOpen && (place < 0 || place >= PAGE_ROWS);
            if (isOpen && !isAside && place >= drawn) return null;
            return (
              <RowCells
                key={row.id}
                id={id}
                table={of.field.key}
                row={row}
                position={position}
                columns={columns}
                cells={columns.map(({ field, index }) => {
                  const treatment = treatmentOf(row.id, index);
                  const isText = treatment !== 'hidden' && (isAside || !isOpen || !isEnterable(treatment));
                  const json = row.values[field.key];
                  const known = values.get(row.id)?.entries[field.key] ?? null;
                  const text = !isText ? '' : isUnreadText(json) ? json.typed : formatValue(known, field, named);
                  return { treatment, text, issue: issues.get(`${row.id}/${field.key}`) ?? null };
                })}
                isOpen={isOpen && !isAside}
                isAside={isAside}
                changes={changes}
              />
            );
          })}
          {rows.length === 0 && (
            <tr>
              <td colSpan={columns.length + 1} className={classes.none}>
                No rows yet
              </td>
            </tr>
          )}
        </tbody>
        {totals.some((total) => total !== null) && rows.length > 0 && (
          <tfoot>
            <tr>
              {columns.map((sub, position) => {
                const total = totals[position] ?? null;
                return (
                  <td key={sub.field.key} data-label={total === null ? undefined : `Sum of ${sub.field.name}`} data-numeric="">
                    {total === null ? null : formatValue(total, sub.field, style)}
                  </td>
                );
              })}
              {isOpen && <td className={classes.end} />}
            </tr>
          </tfoot>
        )}
      </table>
      {pages > 1 && (
        <nav className={classes.turning} aria-label={`Rows of ${of.field.name}`}>
          <Button variant="default" size="compact-sm" disabled={at === 0} onClick={() => turn(at - 1)}>
            Rows before
          </Button>
          <span role="status">
            Rows {at * PAGE_ROWS + 1} to {Math.min(rows.length, (at + 1) * PAGE_ROWS)} of {rows.length}
          </span>
          <Button variant="default" size="compact-sm" disabled={at === pages - 1} onClick={() => turn(at + 1)}>
            Next rows
          </Button>
        </nav>
      )}
      {isOpen && (
        <div className={classes.foot}>
          <Button variant="subtle" size="compact-sm" onClick={add}>
            Add a row
          </Button>
          <span className={classes.hint}>or paste rows from a spreadsheet here or into a cell</span>
          <div role="status">
            {told.map((sentence) => (
              <p key={sentence} className={classes.told}>
                {sentence}
              </p>
            ))}
            {canTakeBack && (
              <Button variant="subtle" size="compact-xs" onClick={takeBack}>
                Take the paste back
              </Button>
            )}
          </div>
        </div>
      )}
    </div>
  );
}
