import { UnstyledButton } from '@mantine/core';
import { type Node, parseExpression, printExpression, type Scope, type Type } from '@ypomet/core';
import { useState } from 'react';
import { OperandInput } from '../../conditions/OperandInput.tsx';
import inspector from '../Inspector.module.css';
import { ExpressionProperty } from './ExpressionProperty.tsx';
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
  onKeep,
}: {
  readonly text: string | null;
  readonly scope: Scope;
  readonly type: Type;
  readonly onKeep: (expression: string | null) => boolean;
}) {
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
        <ExpressionProperty
          label="Default as an expression"
          note="Set when a record first shows the field, if it is empty then."
          text={text}
          scope={scope}
          expected={type}
          onKeep={onKeep}
        />
      ) : (
        <div className={classes.operand}>
          <OperandInput comparison="is" type={type} values={literal ? [literal] : []} onChange={keep} />
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
