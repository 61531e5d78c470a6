import { createSpotlight, Spotlight } from '@mantine/spotlight';
import '@mantine/spotlight/styles.css';
import { useEffect, useState } from 'react';
import type { Command } from './commands.ts';
import classes from './Palette.module.css';

const [store, { open }] = createSpotlight();
const MAX_SHOWN = 40;

/** How well a command fits what is typed: every word must be there; names that begin with it go first. Null: not at all. */
export function fitOf({ name, group }: Command, typed: string): number | null {
  const words = typed
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  const text = `${name} ${group}`.toLowerCase();
  if (!words.every((word) => text.includes(word))) return null;
  return name.toLowerCase().startsWith(typed.trim().toLowerCase()) ? 0 : 1;
}

/** Everything that can be gone to or done, found by typing. Mounted when it is first asked for; it opens then. */
export function Palette({
  commands,
  takeTyped,
  onClose,
}: {
  readonly commands: readonly Command[];
  /** Returns the letters that were typed while the palette was loading, and an empty text from then on. */
  readonly takeTyped: () => string;
  readonly onClose: () => void;
}) {
  const [typed, setTyped] = useState('');
  useEffect(() => open(), []);
  const found = commands
    .flatMap((command) => {
      const fit = fitOf(command, typed);
      return fit === null ? [] : [{ command, fit }];
    })
    .sort((a, b) => a.fit - b.fit)
    .slice(0, MAX_SHOWN);
  return (
    <Spotlight.Root
      store={store}
      query={typed}
      onQueryChange={setTyped}
      onSpotlightClose={onClose}
      shortcut={null}
      scrollable
      maxHeight={420}
      aria-label="Find anything"
      overlayProps={{ blur: 0, backgroundOpacity: 0.35 }}
    >
      <Spotlight.Search
        role="combobox"
        aria-expanded
        aria-controls="palette-list"
        aria-label="Find anything"
        onFocus={() => setTyped((now) => now + takeTyped())}
        placeholder="A field, a stage, a condition, a page, a command …"
      />
      <Spotlight.ActionsList id="palette-list" role="listbox" aria-label="Found">
        {found.map(({ command }) => (
          <Spotlight.Action
            key={command.id}
            role="option"
            label={command.name}
            description={command.group}
            classNames={{ actionDescription: classes.group ?? '' }}
            onClick={command.run}
          />
        ))}
        {found.length === 0 && <Spotlight.Empty>Nothing is called “{typed}”.</Spotlight.Empty>}
      </Spotlight.ActionsList>
    </Spotlight.Root>
  );
}
