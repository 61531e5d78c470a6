import { CloseButton, Combobox, Loader, TextInput, useCombobox } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { type Told, useFormWorld } from './form-world.tsx';

type Props = {
  readonly id: string;
  /** `field`, or `table.subField`. */
  readonly path: string;
  readonly what: 'member' | 'record';
  readonly value: string | null;
  readonly error: boolean;
  readonly onEnter: (value: string | null) => void;
  readonly attributes?: { readonly input: Told };
  readonly 'aria-label'?: string;
};

/** A member or a record, found by typing part of the name or number. What is typed and not chosen changes nothing. */
export function ChoiceInput({ id, path, what, value, error, onEnter, ...aria }: Props) {
  const world = useFormWorld();
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  const [typed, setTyped] = useState<string | null>(null);
  const [search] = useDebouncedValue(typed ?? '', 200);
  const box = useCombobox({ onDropdownClose: () => setTyped(null) });
  const found = useQuery({
    queryKey: ['choices', path, search],
    queryFn: () => world.findChoices(path, search),
    enabled: box.dropdownOpened,
    staleTime: 10_000,
  });
  const { selectFirstOption } = box;
  const isTyped = typed !== null && typed !== '';
  // Once what was typed is found, the key that chooses chooses the first of it; until then it chooses nothing.
  useEffect(() => {
    if (isTyped && found.data && found.data.length > 0) selectFirstOption();
  }, [isTyped, found.data, selectFirstOption]);
  const shown = typed ?? (value === null ? '' : (chosen[value] ?? world.names[value] ?? value));
  return (
    <Combobox
      store={box}
      onOptionSubmit={(picked) => {
        const name = found.data?.find((one) => one.id === picked)?.name;
        if (name) setChosen((before) => ({ ...before, [picked]: name }));
        onEnter(picked);
        setTyped(null);
        box.closeDropdown();
      }}
    >
      <Combobox.Target withExpandedAttribute>
        <TextInput
          {...aria}
          id={id}
          error={error}
          role="combobox"
          placeholder={what === 'member' ? 'Type a name' : 'Type a number'}
          value={shown}
          autoComplete="off"
          rightSection={
            found.isFetching ? (
              <Loader size={14} />
            ) : value === null ? (
              <Combobox.Chevron />
            ) : (
              <CloseButton size="sm" aria-label="Clear" onClick={() => onEnter(null)} />
            )
          }
          onChange={(event) => {
            const text = event.currentTarget.value;
            setTyped(text);
            box.resetSelectedOption();
            box.openDropdown();
            if (text === '') onEnter(null);
          }}
          onFocus={() => box.openDropdown()}
          onClick={() => box.openDropdown()}
          onBlur={() => box.closeDropdown()}
        />
      </Combobox.Target>
      <Combobox.Dropdown>
        <Combobox.Options aria-label={what === 'member' ? 'Members' : 'Records'}>
          {found.data?.map((one) => (
            <Combobox.Option key={one.id} value={one.id} active={one.id === value}>
              {one.name}
              {one.note && <span style={{ color: 'var(--ink-soft)' }}> · {one.note}</span>}
            </Combobox.Option>
          ))}
          {found.data?.length === 0 && <Combobox.Empty>Nothing found</Combobox.Empty>}
          {found.isError && <Combobox.Empty>{found.error.message}</Combobox.Empty>}
          {found.isPending && <Combobox.Empty>Looking …</Combobox.Empty>}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}
