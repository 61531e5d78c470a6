import { type DecisionTable, parseExpression, pathOf, TYPES, type Type, typingsOfInputs } from '@ypomet/core';
import { useMemo } from 'react';
import { useConditionPlace } from '../conditions/use-place.ts';
import type { ColumnType } from './cell-text.ts';
import { type CellAt, columnsOf } from './table-edits.ts';

/** A column of a decision table, with how its cells are read and written. */
export type TableColumn = {
  readonly at: CellAt;
  readonly name: string;
  /** Of an input, its expression. */
  readonly expression: string;
  readonly column: ColumnType;
};

const OUTPUTS: Readonly<Record<DecisionTable['outputs'][number]['type'], Type>> = {
  text: TYPES.text,
  number: TYPES.number,
  'yes-no': TYPES.boolean,
  date: TYPES.date,
  time: TYPES.time,
  'date-time': TYPES.dateTime,
};

/** The columns of a table, typed by the draft's scope. Members and codes go by their names. */
export function useTableColumns(table: DecisionTable): readonly TableColumn[] {
  const { scope, style, wording, members } = useConditionPlace();
  const { inputs, outputs } = table;
  return useMemo(() => {
    const typings = typingsOfInputs({ inputs }, scope);
    const made = (
      at: CellAt,
      name: string,
      expression: string,
      type: Type | null,
      labels: ReadonlyMap<string, string>,
    ): TableColumn => ({
      at,
      name,
      expression,
      column: { type, labels, locale: style.locale, zone: style.zone, scope },
    });
    return columnsOf({ ...table, inputs, outputs }).map((at): TableColumn => {
      const index = inputs.findIndex(({ key }) => key === at.key);
      const input = at.side === 'when' ? inputs[index] : undefined;
      if (input) {
        const type = typings[index]?.type ?? null;
        const item = type?.kind === 'list' ? type.of.type : type;
        const parsed = parseExpression(input.expression);
        const path = parsed.ok ? pathOf(parsed.value) : null;
        const isMember = path !== null && wording.fieldAt(path)?.type === 'member';
        const labels = new Map(
          item?.kind === 'choice'
            ? item.options.map(({ code, label }) => [code, label])
            : isMember
              ? members.map(({ id, name }) => [id, name])
              : [],
        );
        return made(at, input.name, input.expression, item, labels);
      }
      const output = at.side === 'then' ? outputs.find(({ key }) => key === at.key) : undefined;
      if (output) {
        const isChosen = output.type === 'text' && output.values.length > 0;
        const type: Type = isChosen
          ? { kind: 'choice', options: output.values.map((code) => ({ code, label: code })) }
          : OUTPUTS[output.type];
        return made(at, output.name, '', type, new Map(isChosen ? output.values.map((code) => [code, code]) : []));
      }
      return made(at, 'Notes', '', null, new Map());
    });
  }, [table, inputs, outputs, scope, style, wording, members]);
}
