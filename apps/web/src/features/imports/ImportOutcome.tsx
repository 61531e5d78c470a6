import { Button, Progress } from '@mantine/core';
import type { ImportedRow } from '@ypomet/contract';
import Papa from 'papaparse';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
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
  const { told, isTrial, of, status, error } = state;
  const begun = told.filter(({ isBegun }) => isBegun);
  const refused = refusedOf(state, unread);
  const reasons = reasonsOf(refused);
  const stages = new Map<string, number>();
  for (const { stageName } of begun) stages.set(stageName ?? '', (stages.get(stageName ?? '') ?? 0) + 1);
  const sends = begun.reduce((sum, { wouldSend }) => sum + wouldSend, 0);
  const opens = begun.reduce((sum, { wouldOpen }) => sum + wouldOpen, 0);
  const numbers = begun.flatMap(({ number }) => (number === null ? [] : [number]));
  return (
    <section aria-label="What comes of it" className={classes.outcome}>
      {status === 'running' && (
        <div className={classes.progress}>
          <Progress value={(told.length / Math.max(1, of)) * 100} aria-label="How far it is" />
          <span>
            {told.length} of {of} {isTrial ? 'tried out' : 'begun or refused'}
          </span>
          <Button size="compact-sm" variant="default" onClick={onCancel}>
            Cancel
          </Button>
        </div>
      )}
      <p role="status" className={classes.sum}>
        {status === 'running'
          ? ''
          : `${isTrial ? `${records(begun.length)} would begin` : `${records(begun.length)} ${begun.length === 1 ? 'was' : 'were'} begun`}, ${refused.length} ${isTrial ? 'wouldn’t' : refused.length === 1 ? 'wasn’t' : 'weren’t'}.`}
      </p>
      {status === 'cancelled' && (
        <Notice tone="caution" title="It was cancelled">
          {isTrial
            ? 'The rest wasn’t tried out.'
            : `What was begun stays begun; ${of - told.length} are left. Going on begins none twice.`}
        </Notice>
      )}
      {status === 'stopped' && error && (
        <Notice tone="fault" title="It stopped">
          {problemText(error)} {told.length} of {of} are done; going on begins none twice.
        </Notice>
      )}
      {begun.length > 0 && (
        <ul className={classes.facts}>
          {[...stages].map(([stage, count]) => (
            <li key={stage}>
              <strong>{count}</strong> {isTrial ? 'would go' : 'went'} to {stage}
            </li>
          ))}
          {isTrial && sends > 0 && (
            <li>
              <strong>{sends}</strong> {sends === 1 ? 'delivery' : 'deliveries'} would be sent
            </li>
          )}
          {isTrial && opens > 0 && (
            <li>
              <strong>{opens}</strong> {opens === 1 ? 'record' : 'records'} would be opened elsewhere
            </li>
          )}
          {numbers.length > 0 && (
            <li>
              Numbers {numbers[0]} to {numbers.at(-1)}
            </li>
          )}
        </ul>
      )}
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
    </section>
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
