import { Textarea } from '@mantine/core';
import { checkExpression, type Diagnostic, describeDiagnostic, parseExpression, type Scope, type Type } from '@ypomet/core';
import { useState } from 'react';

/** What is wrong with an expression of an expected type, as it is typed. */
export function faultsOf(text: string, scope: Scope, expected: Type): readonly Diagnostic[] {
  const parsed = parseExpression(text);
  return parsed.ok ? checkExpression(parsed.value, scope, expected).diagnostics : parsed.diagnostics;
}

/** An expression of a part, or none. What isn't sound yet isn't kept, and says why; Escape takes back what was typed. */
export function ExpressionProperty({
  label,
  note,
  text,
  scope,
  expected,
  onKeep,
}: {
  readonly label: string;
  readonly note?: string | undefined;
  readonly text: string | null;
  readonly scope: Scope;
  readonly expected: Type;
  readonly onKeep: (expression: string | null) => boolean;
}) {
  const [typed, setTyped] = useState(text ?? '');
  const [kept, setKept] = useState(text);
  if (kept !== text) {
    setKept(text);
    setTyped(text ?? '');
  }
  const [fault] = typed.trim() === '' ? [] : faultsOf(typed, scope, expected);
  const finish = (): void => {
    const next = typed.trim() === '' ? null : typed;
    if (!fault && next !== text) onKeep(next);
  };
  return (
    <Textarea
      size="xs"
      label={label}
      {...(note === undefined ? {} : { description: note })}
      autosize
      minRows={1}
      maxRows={8}
      classNames={{ input: 'mono' }}
      value={typed}
      error={fault ? describeDiagnostic(fault) : undefined}
      onChange={(event) => setTyped(event.currentTarget.value)}
      onBlur={finish}
      onKeyDown={(event) => event.key === 'Escape' && setTyped(text ?? '')}
    />
  );
}
