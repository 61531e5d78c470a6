import { UnstyledButton } from '@mantine/core';
import { type Node, parseExpression, printExpression, type Scope, type Type } from '@ypomet/core';
import { useState } from 'react';
import { OperandInput } from '../../conditions/OperandInput.tsx';
import { useConditionPlace } from '../../conditions/use-place.ts';
import { ExpressionField } from '../../expressions/ExpressionField.tsx';
import inspector from '../Inspector.module.css';
import classes from './Panel.module.css';

const LITERALS: ReadonlySet<Node['kind']> = new Set(['text', 'number', 'boolean', 'temporal']);

/** The value of an expression that is one; null for every other. */
function literalIn(text: string | null): Node | null {
  const parsed = text === null ? null : parseExpression(text);
  return parsed?.ok && LITERALS.has(parsed.value.kind) ? parsed.value : null;
}

/** What a field holds when a record shows it for the first time: a value in the input that fits the type, or an expression. */
export function DefaultProperty({
  text,
  scope,
  type,
  path,
  at,
  onKeep,
}: {
  readonly text: string | null;
  readonly scope: Scope;
  readonly type: Type;
  /** The field it is of. */
  readonly path: readonly string[];
  readonly at: { readonly workflow: string; readonly path: string };
  readonly onKeep: (expression: string | null) => boolean;
}) {
  const place = useConditionPlace();
  const literal = literalIn(text);
  const hasInput = ['text', 'number', 'boolean', 'date', 'choice'].includes(type.kind);
  const [isText, setText] = useState(!hasInput || (text !== null && literal === null));
  const keep = ([value]: readonly Node[]): boolean => onKeep(value ? printExpression(value) : null);
  return (
    <div role="group" aria-label="Default">
      <div className={classes.labelled}>
        <span>Default</span>
        {hasInput && (
          <UnstyledButton className={inspector.link} onClick={() => setText(!isText)}>
            {isText ? 'as a value' : 'as an expression'}
          </UnstyledButton>
        )}
      </div>
      {isText ? (
        <ExpressionField
          label="Default as an expression"
          note="Set when a record first shows the field, if it is empty then."
          text={text ?? ''}
          scope={scope}
          expected={type}
          at={at}
          isOptional
          isTold
          onKeep={(next) => onKeep(next)}
          onEmpty={() => onKeep(null)}
        />
      ) : (
        <div className={classes.operand}>
          <OperandInput
            comparison="is"
            type={type}
            subject={path}
            values={literal ? [literal] : []}
            place={place}
            onChange={keep}
          />
          {text !== null && (
            <UnstyledButton className={inspector.link} onClick={() => onKeep(null)}>
              none
            </UnstyledButton>
          )}
        </div>
      )}
    </div>
  );
}
