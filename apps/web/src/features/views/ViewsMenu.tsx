import { ActionIcon, Button, Checkbox, Popover, TextInput, UnstyledButton } from '@mantine/core';
import { IconChevronDown } from '@tabler/icons-react';
import type { UseQueryResult } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { Loaded } from '../../shared/Loaded.tsx';
import classes from './ViewsMenu.module.css';

/** A way to look at a list that was kept under a name. */
export type View<S> = {
  readonly id: string;
  readonly name: string;
  readonly isShared: boolean;
  readonly isOwn: boolean;
  readonly owner: string;
  readonly settings: S;
};

/** What is kept: under a name, in the place of one of the same name that is one's own. */
export type ViewRequest<S> = {
  readonly id: string | null;
  readonly name: string;
  readonly isShared: boolean;
  readonly settings: S;
};

type Props<S> = {
  readonly query: UseQueryResult<View<S>[]>;
  /** What is shown now; null where that can't be kept. */
  readonly settings: S | null;
  /** With whom a shared one is. */
  readonly sharedWith: string;
  readonly isKeeping: boolean;
  readonly fault: string | null;
  readonly onTake: (settings: S) => void;
  readonly onKeep: (request: ViewRequest<S>, onDone: () => void) => void;
  readonly onDrop: (id: string) => void;
};

/** Ways to look at a list: one's own, and those that others share. */
export function ViewsMenu<S>({ query, settings, sharedWith, isKeeping, fault, onTake, onKeep, onDrop }: Props<S>) {
  const [name, setName] = useState('');
  const [isShared, setShared] = useState(false);
  const own = (query.data ?? []).find((view) => view.isOwn && view.name === name.trim());
  const save = (event: FormEvent): void => {
    event.preventDefault();
    if (name.trim() === '' || settings === null) return;
    onKeep({ id: own?.id ?? null, name: name.trim(), isShared, settings }, () => setName(''));
  };
  return (
    <Popover position="bottom-end" withinPortal trapFocus returnFocus width={300}>
      <Popover.Target>
        <Button size="xs" variant="default" rightSection={<IconChevronDown size={13} aria-hidden="true" />}>
          Views
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Loaded query={query} rows={2}>
          {(list) => <ViewList views={list} onTake={(view) => onTake(view.settings)} onDrop={onDrop} />}
        </Loaded>
        <form className={classes.keep} onSubmit={save}>
          <TextInput
            size="xs"
            label="Keep what is shown now as"
            value={name}
            maxLength={80}
            onChange={({ currentTarget: { value } }) => setName(value)}
            error={fault}
          />
          <Checkbox
            size="xs"
            label={sharedWith}
            checked={isShared}
            onChange={({ currentTarget: { checked } }) => setShared(checked)}
          />
          <Button size="xs" type="submit" loading={isKeeping} disabled={name.trim() === '' || settings === null}>
            {own ? 'Replace' : 'Keep'}
          </Button>
        </form>
      </Popover.Dropdown>
    </Popover>
  );
}

function ViewList<S>({
  views,
  onTake,
  onDrop,
}: {
  readonly views: readonly View<S>[];
  readonly onTake: (view: View<S>) => void;
  readonly onDrop: (id: string) => void;
}) {
  if (views.length === 0) return <p className={classes.soft}>No view is kept yet.</p>;
  return (
    <ul className={classes.views} aria-label="Views">
      {views.map((view) => (
        <li key={view.id}>
          <UnstyledButton onClick={() => onTake(view)}>
            {view.name}
            <span className={classes.soft}>
              {view.isOwn ? (view.isShared ? ' yours, shared' : ' yours') : ` shared by ${view.owner}`}
            </span>
          </UnstyledButton>
          {view.isOwn && (
            <ActionIcon size={24} variant="subtle" aria-label={`Delete the view ${view.name}`} onClick={() => onDrop(view.id)}>
              ×
            </ActionIcon>
          )}
        </li>
      ))}
    </ul>
  );
}
