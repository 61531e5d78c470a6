import { ActionIcon, Button, Checkbox, Popover, TextInput, UnstyledButton } from '@mantine/core';
import { IconChevronDown } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import type { RegisterDocument, RegisterView } from '@ypomet/contract';
import { type FormEvent, useState } from 'react';
import { Loaded } from '../../shared/Loaded.tsx';
import { registerViewsQuery, useViews } from './queries.ts';
import classes from './Register.module.css';
import type { Shown } from './register-state.ts';

type Props = { readonly register: RegisterDocument; readonly shown: Shown; readonly onShow: (shown: Shown) => void };

/** Ways to look at a register that were kept under a name: one's own, and those that others share. */
export function ViewsMenu({ register, shown, onShow }: Props) {
  const { key } = register.definition;
  const views = useQuery(registerViewsQuery(key));
  const { keep, drop, fault } = useViews(key);
  const [name, setName] = useState('');
  const [isShared, setShared] = useState(false);
  const own = (views.data ?? []).find((view) => view.isOwn && view.name === name.trim());
  const save = (event: FormEvent): void => {
    event.preventDefault();
    if (name.trim() === '' || shown.layout === 'watching') return;
    keep.mutate(
      { id: own?.id ?? null, name: name.trim(), isShared, settings: { ...shown, layout: shown.layout } },
      { onSuccess: () => setName('') },
    );
  };
  return (
    <Popover position="bottom-end" withinPortal trapFocus returnFocus width={300}>
      <Popover.Target>
        <Button size="xs" variant="default" rightSection={<IconChevronDown size={13} aria-hidden="true" />}>
          Views
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Loaded query={views} rows={2}>
          {(list) => <ViewList views={list} onTake={(view) => onShow(view.settings)} onDrop={(id) => drop.mutate(id)} />}
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
            label="for all who see this register"
            checked={isShared}
            onChange={({ currentTarget: { checked } }) => setShared(checked)}
          />
          <Button size="xs" type="submit" loading={keep.isPending} disabled={name.trim() === ''}>
            {own ? 'Replace' : 'Keep'}
          </Button>
        </form>
      </Popover.Dropdown>
    </Popover>
  );
}

function ViewList({
  views,
  onTake,
  onDrop,
}: {
  readonly views: readonly RegisterView[];
  readonly onTake: (view: RegisterView) => void;
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
