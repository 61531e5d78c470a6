import { Button } from '@mantine/core';
import { type DecisionTable, joinPath, type Path, TYPES } from '@ypomet/core';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import panel from '../plan/panels/Panel.module.css';
import { PartActions } from '../plan/panels/PartActions.tsx';
import { ChoiceProperty, TextProperty, useChange } from '../plan/panels/properties.tsx';
import classes from './TablePanel.module.css';
import type { TableColumn } from './use-columns.ts';

type Props = { readonly table: DecisionTable; readonly column: TableColumn; readonly onClose: () => void };

const OUTPUT_TYPES = [
  { value: 'text', label: 'Text' },
  { value: 'number', label: 'Number' },
  { value: 'yes-no', label: 'Yes/no' },
  { value: 'date', label: 'Date' },
  { value: 'time', label: 'Time' },
  { value: 'date-time', label: 'Date and time' },
];

/** A column of a decision table: what an input reads, what an output holds and falls back to. */
export function ColumnPanel({ table, column, onClose }: Props) {
  const { side, key } = column.at;
  const part = joinPath('decisionTables', table.key, side === 'when' ? 'inputs' : 'outputs', key);
  return (
    <section className={classes.column} aria-label={`Column ${column.name}`}>
      <div className={classes.columnHead}>
        <h3>
          {side === 'when' ? 'Input' : 'Output'} {column.name}
        </h3>
        <Button size="compact-sm" variant="default" onClick={onClose}>
          Close
        </Button>
      </div>
      {side === 'when' ? (
        <InputColumn table={table} part={part} column={column} />
      ) : (
        <OutputColumn table={table} part={part} column={column} />
      )}
      <PartActions part={part} earlier="To the left" later="To the right" onCopied={onClose} onGone={onClose} />
    </section>
  );
}

type ColumnProps = { readonly table: DecisionTable; readonly part: Path; readonly column: TableColumn };

function InputColumn({ table, part, column }: ColumnProps) {
  const { definition } = useDraft();
  const { scope } = useConditionPlace();
  const change = useChange(part);
  const input = table.inputs.find(({ key }) => key === column.at.key);
  if (!input) return null;
  return (
    <div className={panel.panel}>
      <TextProperty label="Name" value={input.name} onKeep={(name) => change({ name })} />
      <ExpressionField
        label="What is compared"
        note="The key of a field, or an expression over the record."
        text={input.expression}
        scope={scope}
        expected={undefined}
        at={{ workflow: definition.key, path: `${part}.expression` }}
        isTold
        onKeep={(expression) => change({ expression })}
      />
    </div>
  );
}

function OutputColumn({ table, part, column }: ColumnProps) {
  const { definition } = useDraft();
  const { scope } = useConditionPlace();
  const change = useChange(part);
  const output = table.outputs.find(({ key }) => key === column.at.key);
  if (!output) return null;
  return (
    <div className={panel.panel}>
      <div className={panel.pair}>
        <TextProperty label="Name" value={output.name} onKeep={(name) => change({ name })} />
        <ChoiceProperty label="Type" value={output.type} choices={OUTPUT_TYPES} onKeep={(type) => type && change({ type })} />
      </div>
      {output.type === 'text' && (
        <TextProperty
          label="Its values, the most important first"
          note="Separated by commas. Left empty, any text can be an output."
          value={output.values.join(', ')}
          onKeep={(text) =>
            change({
              values: text
                .split(',')
                .map((value) => value.trim())
                .filter((value) => value !== ''),
            })
          }
        />
      )}
      <ExpressionField
        label="Where no rule matches"
        text={output.default ?? ''}
        scope={scope}
        expected={column.column.type ?? TYPES.any}
        at={{ workflow: definition.key, path: `${part}.default` }}
        isOptional
        isTold
        onKeep={(text) => change({ default: text })}
        onEmpty={() => change({ default: null })}
      />
    </div>
  );
}
