import { Button, FileButton, Select, UnstyledButton } from '@mantine/core';
import {
  checkExpression,
  type DecisionTable,
  describeDiagnostic,
  explainExpression,
  HIT_POLICIES,
  type HitPolicy,
  joinPath,
  makeFrame,
  makeKey,
  parseExpression,
  type TriedDecision,
  tryDecision,
  type Value,
} from '@ypomet/core';
import { useDeferredValue, useMemo, useState } from 'react';
import { Notice } from '../../shared/Notice.tsx';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { freshName } from '../plan/panels/new-parts.ts';
import { UsedBy } from '../plan/panels/PartActions.tsx';
import { TextProperty, useChange } from '../plan/panels/properties.tsx';
import type { Selection } from '../plan/selection.ts';
import { useRehearsalForm } from '../rehearsal/rehearsal-context.tsx';
import { ColumnPanel } from './ColumnPanel.tsx';
import { TableGrid } from './TableGrid.tsx';
import classes from './TablePanel.module.css';
import { TryRow } from './TryRow.tsx';
import { type ReadTable, readTableCsv, writeTableCsv } from './table-csv.ts';
import { replaceRules } from './table-edits.ts';
import { type TableColumn, useTableColumns } from './use-columns.ts';

/** What each hit policy means, in a line (OMG DMN 1.3, 8.2.10). */
export const POLICIES: Readonly<Record<HitPolicy, string>> = {
  U: 'Unique: one rule at most may match',
  A: 'Any: rules that match agree',
  P: 'Priority: the output that comes first in its list of values',
  F: 'First: the first rule that matches',
  R: 'Rule order: all that match, in the order of the rules',
  O: 'Output order: all that match, in the order of the values',
  C: 'Collect: all that match',
  'C+': 'Collect: their sum',
  'C<': 'Collect: the least',
  'C>': 'Collect: the greatest',
  'C#': 'Collect: how many match',
};

type Props = { readonly table: DecisionTable; readonly onSelect: (selection: Selection) => void };

/** Who is here: the analyst, filling in what depends on many values, line by line, and trying whether it comes out as meant. */
export function TablePanel({ table, onSelect }: Props) {
  const { store, definition } = useDraft();
  const part = joinPath('decisionTables', table.key);
  const change = useChange(part);
  const columns = useTableColumns(table);
  const [isTrying, setTrying] = useState(false);
  const [given, setGiven] = useState<ReadonlyMap<string, Value>>(new Map());
  const [head, setHead] = useState<string | null>(null);
  const [message, setMessage] = useState<string | null>(null);
  const [read, setRead] = useState<ReadTable | null>(null);
  const { inputs, tried } = useTried(table, given, isTrying);
  const chosen = columns.find((own) => `${own.at.side}/${own.at.key}` === head) ?? null;
  const addColumn = (side: 'inputs' | 'outputs'): void => {
    const name = freshName(side === 'inputs' ? 'New input' : 'New output', table[side]);
    const key = makeKey(name, new Set(table[side].map((own) => own.key)), 'column');
    const [first] = definition.fields;
    const own = side === 'inputs' ? { key, name, expression: first?.key ?? 'today()' } : { key, name, type: 'text' };
    if (store.edit({ type: 'add-part', to: joinPath('decisionTables', table.key, side), part: own, before: null }))
      setHead(`${side === 'inputs' ? 'when' : 'then'}/${key}`);
  };
  const readFile = async (file: File): Promise<void> => {
    const found = file.size > 5_000_000 ? null : readTableCsv(await file.text(), columns);
    setRead(found);
    setMessage(
      found ? null : 'The file can’t be read: its first line must name columns of this table, as they stand above the rules.',
    );
  };
  const save = (): void => {
    const address = URL.createObjectURL(new Blob([`\uFEFF${writeTableCsv(table, columns)}`], { type: 'text/csv' }));
    const link = window.document.createElement('a');
    link.href = address;
    link.download = `${table.key}.csv`;
    link.click();
    URL.revokeObjectURL(address);
  };
  return (
    <div className={classes.panel}>
      <div className={classes.top}>
        <TextProperty label="Name" value={table.name} onKeep={(name) => change({ name })} />
        <TextProperty
          label="Key in expressions"
          value={table.key}
          isCode
          onKeep={(key) => store.edit({ type: 'rename-key', part, key })}
        />
        <Select
          size="xs"
          label="Where several rules match"
          className={classes.policy}
          data={HIT_POLICIES.map((value) => ({ value, label: POLICIES[value] }))}
          value={table.hitPolicy}
          allowDeselect={false}
          onChange={(hitPolicy) => hitPolicy && change({ hitPolicy })}
        />
      </div>
      <div className={classes.actions}>
        <UnstyledButton className={classes.action} onClick={() => addColumn('inputs')}>
          + input
        </UnstyledButton>
        <UnstyledButton className={classes.action} onClick={() => addColumn('outputs')}>
          + output
        </UnstyledButton>
        <UnstyledButton className={classes.action} aria-pressed={isTrying} onClick={() => setTrying(!isTrying)}>
          {isTrying ? 'stop trying' : 'try it'}
        </UnstyledButton>
        <FileButton accept=".csv,.txt" onChange={(file) => void (file && readFile(file))}>
          {(props) => (
            <UnstyledButton className={classes.action} {...props}>
              read CSV
            </UnstyledButton>
          )}
        </FileButton>
        <UnstyledButton className={classes.action} onClick={save}>
          save as CSV
        </UnstyledButton>
      </div>
      {message && (
        <Notice tone="caution" title="Left out">
          {message}{' '}
          <UnstyledButton className={classes.action} onClick={() => setMessage(null)}>
            understood
          </UnstyledButton>
        </Notice>
      )}
      {read && (
        <ReadNotice
          read={read}
          before={table.rules.length}
          onTake={() => {
            store.edit(replaceRules(table, read.rules));
            setRead(null);
          }}
          onLeave={() => setRead(null)}
        />
      )}
      {isTrying && (
        <TryRow
          table={table}
          columns={columns}
          inputs={inputs}
          tried={tried}
          isOwn={(key) => given.has(key)}
          onGive={(key, value) => setGiven(new Map(given).set(key, value))}
          onReset={() => setGiven(new Map())}
        />
      )}
      <TableGrid
        table={table}
        columns={columns}
        tried={tried}
        onHead={(own: TableColumn) => setHead(`${own.at.side}/${own.at.key}`)}
        onLeftOut={setMessage}
      />
      {chosen && <ColumnPanel key={head} table={table} column={chosen} onClose={() => setHead(null)} />}
      <UsedBy part={part} onSelect={onSelect} />
    </div>
  );
}

/** The inputs that are tried: those of the rehearsal's record, or what was given in their place; and how the rules stand then. */
function useTried(
  table: DecisionTable,
  given: ReadonlyMap<string, Value>,
  isTrying: boolean,
): { readonly inputs: readonly Value[]; readonly tried: TriedDecision | null } {
  const { scope } = useConditionPlace();
  const { frame } = useRehearsalForm();
  const inputs = useMemo(
    () =>
      table.inputs.map(({ key, expression }): Value => {
        if (given.has(key)) return given.get(key) ?? null;
        const parsed = parseExpression(expression);
        const checked = parsed.ok ? checkExpression(parsed.value, scope) : null;
        if (!checked || checked.diagnostics.length > 0) return null;
        return explainExpression(checked, makeFrame(frame.slots, frame.environment)).value;
      }),
    [table.inputs, given, scope, frame],
  );
  const later = useDeferredValue(table);
  const tried = useMemo(
    () => (isTrying ? tryDecision(later, inputs, scope, frame.slots, frame.environment) : null),
    [isTrying, later, inputs, scope, frame],
  );
  return { inputs, tried };
}

function ReadNotice({
  read,
  before,
  onTake,
  onLeave,
}: {
  readonly read: ReadTable;
  readonly before: number;
  readonly onTake: () => void;
  readonly onLeave: () => void;
}) {
  const { rules, unknown, missing, refused } = read;
  return (
    <Notice tone="caution" title={`${rules.length} rules were read`}>
      {missing.length > 0 && <p>The file has no column {missing.join(', ')}: left empty.</p>}
      {unknown.length > 0 && <p>Columns that this table hasn’t are left out: {unknown.slice(0, 8).join(', ')}.</p>}
      {refused.length > 0 && (
        <p>
          {refused.length} cells mean nothing in their column and are left empty:{' '}
          {refused
            .slice(0, 4)
            .map(({ line, column, text }) => `line ${line}, ${column}: “${text.slice(0, 30)}”`)
            .join('; ')}
        </p>
      )}
      <Button size="compact-sm" onClick={onTake}>
        Put them in the place of the {before} there are
      </Button>{' '}
      <Button size="compact-sm" variant="default" onClick={onLeave}>
        Leave it
      </Button>
    </Notice>
  );
}

/** What is wrong with a table as a whole, from the draft's faults. */
export function TableFaults({ table }: { readonly table: DecisionTable }) {
  const { faults } = useDraft();
  const own = faults.filter(
    ({ path }) => path.startsWith(`decisionTables.${table.key}.`) || path === `decisionTables.${table.key}`,
  );
  if (own.length === 0) return null;
  return (
    <Notice tone="fault" title={own.length === 1 ? 'A fault' : `${own.length} faults`}>
      <ul>
        {own.slice(0, 6).map((one) => (
          <li key={`${one.path}/${one.code}`}>{describeDiagnostic(one)}</li>
        ))}
      </ul>
    </Notice>
  );
}
