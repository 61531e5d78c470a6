import { MultiSelect, NumberInput, Select, Switch, Textarea, TextInput } from '@mantine/core';
import type { Edit, Json, Path } from '@ypomet/core';
import { useEffect, useId, useState } from 'react';
import { useDraft } from '../../drafts/draft-context.tsx';
import classes from './Panel.module.css';

/** Sets properties of a part; whether that was possible. What isn't says why, and stays as it was typed. */
export function useChange(part: Path): (set: Readonly<Record<string, Json>>) => boolean {
  const { store } = useDraft();
  return (set) => store.edit({ type: 'change-part', part, set });
}

/** Sets a condition of a part, together with what else changes with it: a field that has its name now. */
export function useChangeCondition(part: Path, property: string): (text: string, also: readonly Edit[]) => void {
  const { store } = useDraft();
  return (text, also) => {
    const change: Edit = { type: 'change-part', part, set: { [property]: text } };
    store.edit(also.length === 0 ? change : { type: 'together', edits: [...also, change] });
  };
}

/** What is typed, until it is kept: when one leaves the input, or presses Enter. */
function useTyped(value: string, keep: (text: string) => boolean) {
  const [text, setText] = useState(value);
  const [isRefused, setRefused] = useState(false);
  useEffect(() => {
    setText(value);
    setRefused(false);
  }, [value]);
  const finish = (): void => {
    if (text === value) setRefused(false);
    else setRefused(!keep(text));
  };
  const undo = (): void => {
    setText(value);
    setRefused(false);
  };
  return { text, setText, isRefused, finish, undo };
}

type TextProps = {
  readonly label: string;
  readonly value: string;
  readonly onKeep: (text: string) => boolean;
  readonly note?: string | undefined;
  readonly lines?: number;
  readonly isCode?: boolean;
  readonly placeholder?: string;
};

/** A text of a part. Enter keeps it, Escape takes back what was typed. */
export function TextProperty({ label, value, onKeep, note, lines = 1, isCode = false, placeholder }: TextProps) {
  const { text, setText, isRefused, finish, undo } = useTyped(value, onKeep);
  const common = {
    label,
    value: text,
    size: 'xs' as const,
    error: isRefused ? 'Not kept as it is.' : undefined,
    ...(note === undefined ? {} : { description: note }),
    ...(placeholder === undefined ? {} : { placeholder }),
    ...(isCode ? { classNames: { input: 'mono' } } : {}),
    onBlur: finish,
  };
  if (lines > 1)
    return (
      <Textarea
        {...common}
        autosize
        minRows={lines}
        maxRows={12}
        onChange={(event) => setText(event.currentTarget.value)}
        onKeyDown={(event) => event.key === 'Escape' && undo()}
      />
    );
  return (
    <TextInput
      {...common}
      onChange={(event) => setText(event.currentTarget.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') finish();
        if (event.key === 'Escape') undo();
      }}
    />
  );
}

/** A number of a part, or none; whole, unless it may have decimal places. */
export function CountProperty({
  label,
  value,
  onKeep,
  placeholder = 'none',
  places = 0,
}: {
  readonly label: string;
  readonly value: number | null;
  readonly onKeep: (value: number | null) => boolean;
  readonly placeholder?: string;
  readonly places?: number;
}) {
  const keep = (text: string): boolean => onKeep(text === '' ? null : Number(text));
  const { text, setText, isRefused, finish } = useTyped(value === null ? '' : String(value), keep);
  return (
    <NumberInput
      label={label}
      size="xs"
      hideControls
      allowDecimal={places > 0}
      decimalScale={places}
      allowNegative={false}
      placeholder={placeholder}
      value={text}
      error={isRefused ? 'Not kept as it is.' : undefined}
      onChange={(next) => setText(String(next))}
      onBlur={finish}
      onKeyDown={(event) => event.key === 'Enter' && finish()}
    />
  );
}

export type Choice = { readonly value: string; readonly label: string };

export function ChoiceProperty({
  label,
  value,
  choices,
  onKeep,
  none,
}: {
  readonly label: string;
  readonly value: string | null;
  readonly choices: readonly Choice[];
  readonly onKeep: (value: string | null) => void;
  /** What it says where nothing is chosen; without it something always is. */
  readonly none?: string;
}) {
  return (
    <Select
      label={label}
      size="xs"
      data={[...choices]}
      value={value}
      clearable={none !== undefined}
      allowDeselect={false}
      searchable={choices.length > 8}
      {...(none === undefined ? {} : { placeholder: none })}
      onChange={(next) => (next !== null || none !== undefined) && onKeep(next)}
    />
  );
}

export function ChoicesProperty({
  label,
  value,
  choices,
  onKeep,
  none,
}: {
  readonly label: string;
  readonly value: readonly string[];
  readonly choices: readonly Choice[];
  readonly onKeep: (value: readonly string[]) => void;
  readonly none: string;
}) {
  return (
    <MultiSelect
      label={label}
      size="xs"
      data={[...choices]}
      value={[...value]}
      searchable={choices.length > 8}
      placeholder={value.length === 0 ? none : ''}
      onChange={onKeep}
    />
  );
}

export function SwitchProperty({
  label,
  value,
  onKeep,
}: {
  readonly label: string;
  readonly value: boolean;
  readonly onKeep: (value: boolean) => void;
}) {
  const id = useId();
  return (
    <Switch
      id={id}
      size="xs"
      className={classes.switch}
      label={label}
      checked={value}
      onChange={(event) => onKeep(event.currentTarget.checked)}
    />
  );
}
