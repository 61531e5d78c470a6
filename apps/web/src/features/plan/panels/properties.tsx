import { MultiSelect, Select, Switch, Textarea, TextInput } from '@mantine/core';
import {
  type Edit,
  type Exact,
  type Json,
  type Path,
  readExact,
  readLocalDay,
  readLocalNumber,
  writeExact,
  writeLocalDay,
  writeLocalNumber,
} from '@ypomet/core';
import { useEffect, useId, useState } from 'react';
import { CountInput } from '../../../shared/reading/CountInput.tsx';
import { ReadInput } from '../../../shared/reading/ReadInput.tsx';
import { todayIn } from '../../../shared/reading/today.ts';
import { useDraft } from '../../drafts/draft-context.tsx';
import { useSession } from '../../session/queries.ts';
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
    error: isRefused ? NOT_KEPT : undefined,
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

/** A whole number of a part, or none. */
export function CountProperty({
  label,
  value,
  onKeep,
  placeholder = 'none',
  min = 0,
}: {
  readonly label: string;
  readonly value: number | null;
  readonly onKeep: (value: number | null) => boolean;
  readonly placeholder?: string;
  readonly min?: number;
}) {
  const { locale } = useSession().workspace;
  return (
    <CountInput
      label={label}
      size="xs"
      locale={locale}
      min={min}
      placeholder={placeholder}
      value={value}
      onKeep={(count) => (onKeep(count) ? null : NOT_KEPT)}
    />
  );
}

/** A number of a part with decimal places, or none; as the definition has it, which is decimal text. */
export function NumberProperty({
  label,
  value,
  onKeep,
  placeholder = 'none',
  currency,
}: {
  readonly label: string;
  readonly value: string | null;
  readonly onKeep: (value: string | null) => boolean;
  readonly placeholder?: string;
  readonly currency?: string;
}) {
  const { locale } = useSession().workspace;
  const shown = value === null ? null : readExact(value);
  return (
    <ReadInput
      label={label}
      size="xs"
      when="left"
      placeholder={placeholder}
      inputMode="decimal"
      shown={shown === null ? (value ?? '') : writeLocalNumber(shown, locale)}
      read={(text) => readLocalNumber(text, { locale, currency })}
      write={(number) => writeLocalNumber(number, locale)}
      example={writeLocalNumber(readExact('1250.5') as Exact, locale)}
      onKeep={(number) => (onKeep(number === null ? null : writeExact(number)) ? null : NOT_KEPT)}
    />
  );
}

/** A day of a part, or none, as ISO 8601. */
export function DayProperty({
  label,
  value,
  onKeep,
  placeholder = 'none',
}: {
  readonly label: string;
  readonly value: string | null;
  readonly onKeep: (value: string | null) => boolean;
  readonly placeholder?: string;
}) {
  const { locale, zone } = useSession().workspace;
  const write = (day: string): string => writeLocalDay(day, locale);
  return (
    <ReadInput<string>
      label={label}
      size="xs"
      when="left"
      placeholder={placeholder}
      shown={value === null ? '' : write(value)}
      read={(text) => readLocalDay(text, { locale, today: todayIn(zone) })}
      write={write}
      example={write('2027-03-12')}
      onKeep={(day) => (onKeep(day) ? null : NOT_KEPT)}
    />
  );
}

const NOT_KEPT = 'Not kept as it is.';

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
