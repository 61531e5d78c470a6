import { TextInput } from '@mantine/core';
import type { Node } from '@ypomet/core';
import { useState } from 'react';

type Props = {
  readonly size: 'xs';
  readonly 'aria-label': string;
  readonly shown: string;
  readonly isCode?: boolean;
  readonly read: (entered: string) => Node | null;
  readonly onChange: (node: Node | null) => void;
};

/**
 * A text or an expression, kept when its input is left or Enter is pressed: one change of the draft, however many keys. What
 * can't be read stays as typed, marked, and the operand is empty meanwhile. Escape takes back what was typed.
 */
export function TypedOperand({ shown, isCode = false, read, onChange, ...common }: Props) {
  const [draft, setDraft] = useState<{ readonly text: string; readonly isWrong: boolean } | null>(null);
  const finish = (): void => {
    if (draft === null || draft.isWrong) return;
    const node = draft.text === '' ? null : read(draft.text);
    const isWrong = draft.text !== '' && node === null;
    setDraft(isWrong ? { ...draft, isWrong } : null);
    if (draft.text !== shown) onChange(node);
  };
  return (
    <TextInput
      {...common}
      placeholder="value"
      value={draft?.text ?? shown}
      error={draft?.isWrong === true}
      {...(isCode ? { classNames: { input: 'mono' } } : {})}
      onBlur={finish}
      onKeyDown={(event) => {
        if (event.nativeEvent.isComposing) return;
        if (event.key === 'Enter') finish();
        if (event.key === 'Escape' && draft !== null) {
          event.stopPropagation();
          setDraft(null);
        }
      }}
      onChange={(event) => setDraft({ text: event.currentTarget.value, isWrong: false })}
    />
  );
}
