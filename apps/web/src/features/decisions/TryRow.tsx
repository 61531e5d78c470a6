import { TextInput, UnstyledButton } from '@mantine/core';
import {
  checkExpression,
  type DecisionTable,
  explainExpression,
  formatValue,
  makeCalendar,
  makeFrame,
  makeScope,
  parseExpression,
  type TriedDecision,
  type Value,
} from '@ypomet/core';
import { useState } from 'react';
import { useStyle } from '../conditions/use-place.ts';
import { useSession } from '../session/queries.ts';
import { readOutput } from './cell-text.ts';
import classes from './TablePanel.module.css';
import type { TableColumn } from './use-columns.ts';

type Props = {
  readonly table: DecisionTable;
  readonly columns: readonly TableColumn[];
  readonly inputs: readonly Value[];
  readonly tried: TriedDecision | null;
  /** Whether an input was given here, rather than being the rehearsal's. */
  readonly isOwn: (key: string) => boolean;
  readonly onGive: (key: string, value: Value) => void;
  readonly onReset: () => void;
};

const VIOLATIONS = {
  'not-unique': 'nothing: more than one rule matches',
  'outputs-differ': 'nothing: the rules that match disagree',
} as const;

/** A row of inputs that is tried: the rehearsal's values, or others typed over them; and what the table comes to. */
export function TryRow({ table, columns, inputs, tried, isOwn, onGive, onReset }: Props) {
  const { style } = useStyle();
  const value = tried?.decision.value ?? null;
  const shown = ((): string => {
    if (tried?.decision.violation) return VIOLATIONS[tried.decision.violation];
    if (value === null) return 'nothing';
    if (typeof value === 'object' && 'kind' in value && value.kind === 'context')
      return table.outputs
        .map(({ key, name }) => `${name} ${formatValue(value.entries[key] ?? null, null, style) || 'nothing'}`)
        .join(', ');
    return formatValue(value, null, style) || 'nothing';
  })();
  return (
    <div className={classes.try} role="group" aria-label="Try a row of inputs">
      {columns
        .filter(({ at }) => at.side === 'when')
        .map((own, index) => (
          <TryInput
            key={own.at.key}
            column={own}
            value={inputs[index] ?? null}
            isOwn={isOwn(own.at.key)}
            onGive={(next) => onGive(own.at.key, next)}
          />
        ))}
      <div className={classes.result} role="status">
        <span className={classes.soft}>comes to</span> <strong>{shown}</strong>
      </div>
      <UnstyledButton className={classes.action} onClick={onReset}>
        as in the rehearsal
      </UnstyledButton>
    </div>
  );
}

function TryInput({
  column,
  value,
  isOwn,
  onGive,
}: {
  readonly column: TableColumn;
  readonly value: Value;
  readonly isOwn: boolean;
  readonly onGive: (value: Value) => void;
}) {
  const { style } = useStyle();
  const { workspace } = useSession();
  const [typed, setTyped] = useState<string | null>(null);
  const label = typeof value === 'string' ? column.column.labels.get(value) : undefined;
  const shown = label ?? formatValue(value, null, style);
  const read = (text: string): Value | undefined => {
    const stored = readOutput(text, column.column);
    if (stored === null) return null;
    const parsed = parseExpression(stored);
    const checked = parsed.ok ? checkExpression(parsed.value, makeScope({})) : null;
    return checked && checked.diagnostics.length === 0
      ? explainExpression(
          checked,
          makeFrame([], { now: Date.now(), zone: style.zone, calendar: makeCalendar(workspace.calendar) }),
        ).value
      : undefined;
  };
  return (
    <TextInput
      size="xs"
      label={column.name}
      value={typed ?? shown}
      placeholder="empty"
      error={typed !== null && read(typed) === undefined}
      {...(isOwn ? { classNames: { input: classes.own ?? '' } } : {})}
      onChange={(event) => {
        const text = event.currentTarget.value;
        setTyped(text);
        const next = read(text);
        if (next !== undefined) onGive(next);
      }}
      onBlur={() => setTyped(null)}
    />
  );
}
