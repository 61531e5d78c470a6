import { TextInput } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import { useEffect, useState } from 'react';

/** How long one has typed nothing before it is looked for. */
const REST_MS = 250;

/** Looks for a text a moment after one has typed; Escape takes it away. */
export function FindInput({
  label,
  find,
  onFind,
  className,
}: {
  readonly label: string;
  readonly find: string;
  readonly onFind: (find: string) => void;
  readonly className?: string;
}) {
  const [typed, setTyped] = useState(find);
  useEffect(() => setTyped(find), [find]);
  const rested = useDebouncedCallback(onFind, REST_MS);
  const put = (text: string): void => {
    setTyped(text);
    rested(text);
  };
  return (
    <TextInput
      size="xs"
      {...(className ? { className } : {})}
      aria-label={label}
      placeholder={label}
      value={typed}
      maxLength={100}
      onChange={({ currentTarget: { value } }) => put(value)}
      onKeyDown={(event) => event.key === 'Escape' && put('')}
    />
  );
}
