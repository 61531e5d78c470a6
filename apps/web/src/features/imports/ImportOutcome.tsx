import { Button } from '@mantine/core';
import type { ImportedRow } from '@ypomet/contract';
import Papa from 'papaparse';
import { RunOutcome } from '../../shared/RunOutcome.tsx';
import type { RunState } from '../../shared/use-in-parts.ts';
import classes from './Imports.module.css';
import type { Refused } from './rows.ts';
import type { Sheet } from './sheet.ts';

const MAX_REASONS = 40;
const MAX_LINES = 12;
const records = (count: number): string => (count === 1 ? '1 record' : `${count.toLocaleString('en')} records`);

type Props = {
  readonly sheet: Sheet;
  readonly state: RunState<ImportedRow>;
  /** Records whose cells can't be read: they were not sent. */
  readonly unread: readonly Refused[];
  readonly onCancel: () => void;
};

/** What came of an import, or would: how many begin and where, what is sent, and each record that doesn't with its reasons. */
export function ImportOutcome({ sheet, state, unread, onCancel }: Props) {
  const { told, isTrial } = state;
  const begun = told.filter(({ isBegun }) => isBegun);
  const refused = refusedOf(state, unread);
  const reasons = reasonsOf(refused);
  const numbers = begun.flatMap(({ number }) => (number === null ? [] : [number]));
  return (
    <RunOutcome
      state={state}
      fit={begun}
      said={`${isTrial ? `${records(begun.length)} would begin` : `${records(begun.length)} ${begun.length === 1 ? 'was' : 'were'} begun`}, ${refused.length} ${isTrial ? 'wouldn’t' : refused.length === 1 ? 'wasn’t' : 'weren’t'}.`}
      words={{
        done: isTrial ? 'tried out' : 'begun or refused',
        stays: 'What was begun stays begun',
        once: 'Going on begins none twice',
      }}
      onCancel={onCancel}
      facts={
        numbers.length > 0 && (
          <li>
            Numbers {numbers[0]} to {numbers.at(-1)}
          </li>
        )
      }
    >
      {refused.length > 0 && (
        <>
          <h3>Not these</h3>
          <Button size="compact-sm" variant="default" onClick={() => save(sheet, refused)}>
            Save their lines with the reasons (CSV)
          </Button>
          <ul className={classes.refused}>
            {reasons.slice(0, MAX_REASONS).map(({ why, lines }) => (
              <li key={why}>
                {why} <span className={classes.soft}>{sayLines(lines)}</span>
              </li>
            ))}
          </ul>
          {reasons.length > MAX_REASONS && (
            <p className={classes.soft}>and {reasons.length - MAX_REASONS} more reasons, all in the file</p>
          )}
        </>
      )}
    </RunOutcome>
  );
}

function refusedOf({ told }: Props['state'], unread: readonly Refused[]): readonly Refused[] {
  const refused = told.flatMap(({ line, isBegun, issues }) =>
    isBegun
      ? []
      : [{ line, why: issues.map(({ message, row }) => (row === null ? message : `Line ${row.slice(1)}: ${message}`)) }],
  );
  return [...unread.map(({ line, why }) => ({ line, why: why.map((one) => `${one}.`) })), ...refused].sort(
    (a, b) => a.line - b.line,
  );
}

/** Each reason once, with the lines that it keeps back. */
export function reasonsOf(refused: readonly Refused[]): readonly { readonly why: string; readonly lines: readonly number[] }[] {
  const lines = new Map<string, number[]>();
  for (const { line, why } of refused)
    for (const one of new Set(why)) {
      const known = lines.get(one);
      if (known) known.push(line);
      else lines.set(one, [line]);
    }
  return [...lines].map(([why, of]) => ({ why, lines: of }));
}

function sayLines(lines: readonly number[]): string {
  const more = lines.length - MAX_LINES;
  return `${lines.length === 1 ? 'line' : 'lines'} ${lines.slice(0, MAX_LINES).join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
}

/** The lines of a sheet that didn't begin, as they are, with why beside them; no cell is taken for a formula. */
function save({ head, lines }: Sheet, refused: readonly Refused[]): void {
  const table = refused.map(({ line, why }) => [...head.map((_, index) => lines[line - 2]?.[index] ?? ''), line, why.join(' ')]);
  const text = Papa.unparse([[...head, 'Line', 'Why not'], ...table], { escapeFormulae: true });
  const address = URL.createObjectURL(new Blob([`\ufeff${text}`], { type: 'text/csv' }));
  const link = window.document.createElement('a');
  link.href = address;
  link.download = 'not-begun.csv';
  link.click();
  URL.revokeObjectURL(address);
}
