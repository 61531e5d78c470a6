import { ActionIcon, Popover, TextInput } from '@mantine/core';
import { IconCalendar } from '@tabler/icons-react';
import type { Json } from '@ypomet/core';
import { lazy, Suspense, useState } from 'react';
import { readLocalClock, readLocalDay, readLocalTime, writeLocalClock, writeLocalDay } from '../../shared/local-dates.ts';

import type { Told } from './form-world.tsx';

/** Loaded when somebody opens it: many type the day. */
const Calendar = lazy(() => import('./Calendar.tsx').then((module) => ({ default: module.Calendar })));

type Kind = 'date' | 'time' | 'date-time';

const read = (kind: Kind, text: string, locale: string): string | null => {
  if (kind === 'time') return readLocalTime(text);
  return kind === 'date' ? readLocalDay(text, locale) : readLocalClock(text, locale);
};
const write = (kind: Kind, value: string, locale: string): string => {
  if (kind === 'time') return value;
  return kind === 'date' ? writeLocalDay(value, locale) : writeLocalClock(value, locale);
};
const EXAMPLE = '2027-03-12';

/**
 * A day or a time, written as the workspace's people write it, or chosen in a calendar. What can't be read yet is yielded as it is
 * typed, so that nothing is lost.
 */
export function DateField({
  kind,
  value,
  locale,
  placeholder,
  onEnter,
  ...common
}: {
  readonly kind: Kind;
  readonly id?: string;
  readonly size?: 'xs';
  readonly 'aria-label'?: string;
  readonly attributes?: { readonly input: Told };
  readonly value: string;
  readonly error: boolean;
  /** How the workspace's people write days. */
  readonly locale: string;
  /** What is said while it is empty; an example where nothing is. */
  readonly placeholder?: string;
  readonly onEnter: (value: Json) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const [isOpen, setOpen] = useState(false);
  const shown = typed ?? write(kind, value, locale);
  const day = value.slice(0, 10);
  const choose = (chosen: string): void => {
    setTyped(null);
    setOpen(false);
    onEnter(kind === 'date' ? chosen : `${chosen}T${/T(\d{2}:\d{2})/.exec(value)?.[1] ?? '09:00'}`);
  };
  return (
    <TextInput
      {...common}
      value={shown}
      placeholder={
        placeholder ??
        `such as ${kind === 'time' ? '09:30' : write(kind, kind === 'date' ? EXAMPLE : `${EXAMPLE}T09:30`, locale)}`
      }
      onChange={(event) => {
        const text = event.currentTarget.value;
        setTyped(text);
        onEnter(text.trim() === '' ? null : (read(kind, text, locale) ?? text));
      }}
      onBlur={() => setTyped(null)}
      rightSection={
        kind === 'time' ? null : (
          <Popover opened={isOpen} onChange={setOpen} position="bottom-end" shadow="md" trapFocus returnFocus>
            <Popover.Target>
              <ActionIcon variant="subtle" color="gray" aria-label="Choose a day" onClick={() => setOpen(!isOpen)}>
                <IconCalendar size={16} />
              </ActionIcon>
            </Popover.Target>
            <Popover.Dropdown>
              <Suspense>
                <Calendar day={readLocalDay(day, locale)} locale={locale} onChoose={choose} />
              </Suspense>
            </Popover.Dropdown>
          </Popover>
        )
      }
    />
  );
}
