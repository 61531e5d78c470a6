import { Button } from '@mantine/core';
import {
  type CompiledField,
  type ContextValue,
  effectiveValueOf,
  type Form,
  formatValue,
  isEnterable,
  isList,
  type Json,
  newRowCells,
  type Style,
  totalOf,
} from '@ypomet/core';
import { type ClipboardEvent, useMemo, useRef, useState } from 'react';
import { useByParts } from '../../shared/use-by-parts.ts';
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
  readonly style: Style;
  readonly onEnter: (value: Json) => void;
};

/** Rows whose inputs are there together: one more has as many inputs as there are columns. The others are a page away. */
const PAGE_ROWS = 30;
/** Of these so many are drawn at a time. */
const ROWS_AT_ONCE = 10;

const toRows = (value: Json): readonly RowJson[] => (Array.isArray(value) ? (value as readonly RowJson[]) : []);

/** A table field: a row for each entry, every cell treated for its own row. */
export function RowsInput({ id, of, form, value, isOpen, issues, style, onEnter }: Props) {
  const { names, locale } = useFormWorld();
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
    rows.length === 0
      ? planned.get(sub.index)?.planned !== 'hidden'
      : rows.some((row) => treatmentOf(row.id, sub.index) !== 'hidden'),
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
  const [at, turn] = useTurnedPage(pages, issues, () =>
    [...issues.keys()].map((place) => pageOf(place.split('/')[0] ?? '')).filter((page) => page >= 0),
  );
  const drawn = useByParts(PAGE_ROWS, ROWS_AT_ONCE, at);
  const named = { ...style, nameOf: (id: string) => names[id] ?? null };
  const makeRow = (): RowJson => ({ id: crypto.randomUUID().slice(0, 8), values: newRowCells(form, of) });
  const add = (): void => {
    onEnter([...rows, makeRow()]);
    turn(Math.floor(rows.length / PAGE_ROWS));
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
    const pasted = pasteRows(lines, at, rows, pasteColumns, { locale, makeRow });
    setTold(pasted.told);
    onEnter(pasted.rows as Json);
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
    <div className={classes.frame} id={id} data-layout={layout} onPaste={onPaste}>
      <table className={classes.table} aria-labelledby={`${id}-label`}>
        <thead>
          <tr>
            {columns.map(({ field }) => (
              <th key={field.key} scope="col" data-numeric={field.type === 'money' || field.type === 'number' || undefined}>
                {field.short || field.name}
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
                  const text = isText ? formatValue(values.get(row.id)?.entries[field.key] ?? null, field, named) : '';
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
          </div>
        </div>
      )}
    </div>
  );
}
