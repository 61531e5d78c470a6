import { CloseButton, Combobox, Loader, TextInput, useCombobox } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import type { ChoiceEntry } from '@ypomet/contract';
import { type Json, makeUnreadText } from '@ypomet/core';
import { useEffect, useRef, useState } from 'react';
import classes from './ChoiceInput.module.css';
import { type Told, useFormWorld } from './form-world.tsx';
import { selectWhole } from './select-whole.ts';

type Props = {
  readonly id: string;
  /** `field`, or `table.subField`. */
  readonly path: string;
  readonly what: 'member' | 'record';
  readonly value: string | null;
  /** What is typed and chooses nothing so far. */
  readonly typed: string | null;
  readonly error: boolean;
  readonly onEnter: (value: Json) => void;
  readonly attributes?: { readonly input: Told };
  readonly 'aria-label'?: string;
};

const folded = (text: string): string => text.trim().toLocaleLowerCase();

/**
 * A member or a record, found by typing part of the name or number. Once the input is left, a text that fits one alone has
 * chosen it. A text that fits none, or several, stays as it is typed with the reason, and nothing is chosen.
 */
export function ChoiceInput({ id, path, what, value, typed, error, attributes, onEnter, ...aria }: Props) {
  const world = useFormWorld();
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  // What an earlier visit left unfinished is told from the beginning.
  const [isLeft, setLeft] = useState(typed !== null);
  const [search] = useDebouncedValue(typed ?? '', 200);
  const box = useCombobox();
  const found = useQuery({
    queryKey: ['choices', path, search],
    queryFn: () => world.findChoices(path, search),
    enabled: box.dropdownOpened || isLeft,
    staleTime: 10_000,
  });
  const { selectFirstOption } = box;
  const wanted = folded(typed ?? '');
  const isFound = found.data !== undefined && folded(search) === wanted;
  // Once what was typed is found, the key that chooses chooses the first of it; until then it chooses nothing.
  useEffect(() => {
    if (wanted !== '' && isFound && found.data.length > 0) selectFirstOption();
  }, [wanted, isFound, found.data, selectFirstOption]);
  const take = (one: ChoiceEntry): void => {
    setChosen((before) => ({ ...before, [one.id]: one.name }));
    setLeft(false);
    box.closeDropdown();
    onEnter(one.id);
  };
  const exact = isFound ? found.data.filter(({ name }) => folded(name) === wanted) : [];
  const fitting = exact.length > 0 ? exact : isFound ? found.data : [];
  const [only, ...others] = fitting;
  const meant = isLeft && wanted !== '' && others.length === 0 ? only : undefined;
  const latest = useRef(take);
  latest.current = take;
  // The input was left before the answer came: it is taken when it does.
  useEffect(() => {
    if (meant) latest.current(meant);
  }, [meant]);
  const shown = typed ?? (value === null ? '' : (chosen[value] ?? world.names[value] ?? UNNAMED));
  const why = !isLeft || typed === null ? null : !isFound ? LOOKING : fitting.length === 0 ? NOBODY[what] : SEVERAL;
  return (
    <Combobox
      store={box}
      onOptionSubmit={(picked) => {
        const one = found.data?.find(({ id: own }) => own === picked);
        if (one) take(one);
      }}
    >
      <Combobox.Target withExpandedAttribute>
        <TextInput
          {...aria}
          id={id}
          dir="auto"
          {...(attributes ? { attributes } : {})}
          error={why ?? error}
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
              <CloseButton size="sm" tabIndex={-1} aria-label="Clear" onClick={() => onEnter(null)} />
            )
          }
          onChange={(event) => {
            const text = event.currentTarget.value;
            setLeft(false);
            box.resetSelectedOption();
            box.openDropdown();
            // While a name is being typed nobody is chosen: who was chosen before isn't meant any more.
            onEnter(text.trim() === '' ? null : makeUnreadText(text));
          }}
          onFocus={(event) => {
            event.currentTarget.select();
            box.openDropdown();
          }}
          onClick={(event) => {
            selectWhole(event.currentTarget);
            box.openDropdown();
          }}
          onBlur={() => {
            box.closeDropdown();
            if (typed !== null) setLeft(true);
          }}
        />
      </Combobox.Target>
      <Combobox.Dropdown>
        <Combobox.Options aria-label={what === 'member' ? 'Members' : 'Records'}>
          {found.data?.map((one) => (
            <Combobox.Option key={one.id} value={one.id} active={one.id === value}>
              {one.name}
              {one.note && <span className={classes.note}> · {one.note}</span>}
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

/** A record that its reader may not look into has no number for them; its id says nothing to anybody. */
const UNNAMED = 'one that you may not see';
const LOOKING = 'Looking …';
const NOBODY = {
  member: 'Nobody is called so. Choose from the list.',
  record: 'No record has this number. Choose from the list.',
};
const SEVERAL = 'Several fit: choose one from the list.';
