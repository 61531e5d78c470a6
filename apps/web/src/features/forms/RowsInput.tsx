import { ActionIcon, Button } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
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
import { type ClipboardEvent, useState } from 'react';
import { FieldInput } from './FieldInput.tsx';
import { useFormWorld } from './form-world.tsx';
import { pasteRows, type RowJson } from './pasted-rows.ts';
import classes from './RowsInput.module.css';

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
  const change = (rowId: string, key: string, entered: Json): void =>
    onEnter(rows.map((row) => (row.id === rowId ? { ...row, values: { ...row.values, [key]: entered } } : row)));
  const makeRow = (): RowJson => ({ id: crypto.randomUUID().slice(0, 8), values: newRowCells(form, of) });
  const add = (): void => onEnter([...rows, makeRow()]);
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
          {rows.map((row, position) => (
            <tr key={row.id}>
              {columns.map((sub, column) => {
                const { field } = sub;
                const treatment = treatmentOf(row.id, sub.index);
                const issue = issues.get(`${row.id}/${field.key}`);
                const canEnter = isOpen && isEnterable(treatment);
                const label = `${field.name}, row ${position + 1}${treatment === 'required' ? ', required' : ''}`;
                return (
                  <td
                    key={field.key}
                    data-row={row.id}
                    data-column={column}
                    data-label={field.name}
                    data-numeric={field.type === 'money' || field.type === 'number' || undefined}
                  >
                    {treatment === 'hidden' ? (
                      <span className={classes.hidden} title="Not asked for this row">
                        –
                      </span>
                    ) : canEnter ? (
                      <FieldInput
                        id={`${id}-${row.id}-${field.key}`}
                        field={field}
                        path={`${of.field.key}.${field.key}`}
                        stored={null}
                        label={label}
                        value={row.values[field.key] ?? null}
                        hasError={issue !== undefined}
                        isRequired={treatment === 'required'}
                        describedBy={issue === undefined ? null : `${id}-${row.id}-${field.key}-error`}
                        onEnter={(entered) => change(row.id, field.key, entered)}
                      />
                    ) : (
                      formatValue(values.get(row.id)?.entries[field.key] ?? null, field, {
                        ...style,
                        nameOf: (id) => names[id] ?? null,
                      })
                    )}
                    {issue && (
                      <p className={classes.issue} id={`${id}-${row.id}-${field.key}-error`}>
                        {issue}
                      </p>
                    )}
                  </td>
                );
              })}
              {isOpen && (
                <td className={classes.end}>
                  <ActionIcon
                    variant="subtle"
                    color="gray"
                    aria-label={`Remove row ${position + 1}`}
                    onClick={() => onEnter(rows.filter((own) => own.id !== row.id))}
                  >
                    <IconX size={15} />
                  </ActionIcon>
                </td>
              )}
            </tr>
          ))}
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
