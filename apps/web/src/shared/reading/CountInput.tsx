import { readExact, readLocalCount, writeLocalNumber } from '@ypomet/core';
import type { ReactNode } from 'react';
import { ReadInput } from './ReadInput.tsx';

type Props = {
  readonly label?: string;
  readonly 'aria-label'?: string;
  readonly size?: 'xs';
  readonly className?: string;
  readonly value: number | null;
  readonly locale: string;
  readonly min?: number;
  readonly max?: number;
  readonly placeholder?: string;
  readonly rightSection?: ReactNode;
  readonly rightSectionWidth?: number;
  /** Stores the number; null if the input is empty. Returns the error message if it can't be stored, else null. */
  readonly onKeep: (value: number | null) => string | null;
  readonly onUnread?: () => void;
};

/** The input of a whole number, kept when it is left. A number beyond its limits stays as it was typed, with the limits. */
export function CountInput({ value, locale, min = 0, max = Number.MAX_SAFE_INTEGER, onKeep, onUnread, ...look }: Props) {
  const write = (count: number): string => writeLocalNumber(readExact(String(count))!, locale);
  const limits =
    max === Number.MAX_SAFE_INTEGER
      ? `Write a whole number from ${write(min)} on.`
      : `Write a whole number from ${write(min)} to ${write(max)}.`;
  return (
    <ReadInput<number>
      {...look}
      when="left"
      shown={value === null ? '' : write(value)}
      read={(text) => readLocalCount(text, locale)}
      write={write}
      example={write(Math.min(max, Math.max(min, 12)))}
      inputMode="numeric"
      onKeep={(count) => (count !== null && (count < min || count > max) ? limits : onKeep(count))}
      {...(onUnread ? { onUnread } : {})}
    />
  );
}
