import { UnstyledButton } from '@mantine/core';
import {
  expressionOf,
  type Field,
  findField,
  namesReadBy,
  type Path,
  type Scope,
  type SubField,
  type Type,
  within,
} from '@ypomet/core';
import { ConditionEditor } from '../../conditions/ConditionEditor.tsx';
import { useConditionPlace } from '../../conditions/use-place.ts';
import { useDraft } from '../../drafts/draft-context.tsx';
import { ExpressionField } from '../../expressions/ExpressionField.tsx';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import { useChange, useChangeCondition } from './properties.tsx';

type Props = {
  readonly part: Path;
  /** The table whose column it is. */
  readonly table: string | null;
  readonly field: Field | SubField;
  readonly scope: Scope;
  readonly expected: Type;
  readonly onSelect: (selection: Selection) => void;
};

/** What a field is computed by: a condition for yes or no, an expression for the rest; and what it is made from, step by step. */
export function ComputedBy({ part, table, field, scope, expected, onSelect }: Props) {
  const { definition } = useDraft();
  const place = useConditionPlace(table);
  const change = useChange(part);
  const changeExpression = useChangeCondition(part, 'expression');
  const text = expressionOf(field);
  const path = within(part, 'expression');
  const note = text === null ? 'Nothing: it is entered.' : 'It is read-only, and computed again whenever what it reads changes.';
  if (field.type === 'yes-no' && text !== null)
    return (
      <div role="group" aria-label="Computed by">
        <p className={inspector.lead}>
          Yes while{' '}
          <UnstyledButton className={inspector.link} onClick={() => change({ expression: null })}>
            let it be entered
          </UnstyledButton>
        </p>
        <ConditionEditor
          key={part}
          text={text}
          label={`When ${field.name} is yes`}
          path={path}
          place={place}
          onChange={changeExpression}
        />
        <MadeFrom field={field} table={table} onSelect={onSelect} />
      </div>
    );
  return (
    <>
      <ExpressionField
        label="Computed by"
        note={note}
        text={text ?? ''}
        scope={scope}
        expected={expected}
        at={{ workflow: definition.key, path }}
        wording={place.wording}
        isOptional
        isTold
        onKeep={(expression) => change({ expression })}
        onEmpty={() => change({ expression: null })}
      />
      {text !== null && <MadeFrom field={field} table={table} onSelect={onSelect} />}
    </>
  );
}

/** What a computed value comes from, in the order in which it is worked out; a circle is said as one. */
function MadeFrom({ field, table, onSelect }: Pick<Props, 'field' | 'table' | 'onSelect'>) {
  const { definition, compiled } = useDraft();
  if (table !== null) return null;
  const { fieldByKey } = compiled.forms;
  const readsOf = (key: string): readonly string[] => {
    const checked = fieldByKey.get(key)?.computes?.checked;
    return checked ? namesReadBy(checked).filter((name) => fieldByKey.has(name)) : [];
  };
  const order: string[] = [];
  const circle: string[] = [];
  const visit = (key: string, way: readonly string[]): void => {
    if (way.includes(key)) {
      if (circle.length === 0) circle.push(...way.slice(way.indexOf(key)), key);
      return;
    }
    if (order.includes(key)) return;
    for (const read of readsOf(key)) visit(read, [...way, key]);
    if (key !== field.key) order.push(key);
  };
  visit(field.key, []);
  const nameOf = (key: string): string => findField(definition, key)?.name ?? key;
  if (circle.length > 0)
    return (
      <p className={inspector.fault}>
        It goes in a circle: {circle.map(nameOf).join(' → ')}. One of these must be made from something else.
      </p>
    );
  if (order.length === 0) return null;
  return (
    <p className={inspector.soft}>
      Worked out from{' '}
      {order.map((key, index) => (
        <span key={key}>
          {index > 0 && ', then '}
          <UnstyledButton className={inspector.link} onClick={() => onSelect({ kind: 'field', field: key })}>
            {nameOf(key)}
          </UnstyledButton>
        </span>
      ))}
    </p>
  );
}
