import { CloseButton, Combobox, TextInput, useCombobox } from '@mantine/core';
import { type Json, makeUnreadText } from '@ypomet/core';
import { useState } from 'react';
import type { Told } from './form-world.tsx';
import { selectWhole } from './select-whole.ts';

type Option = { readonly value: string; readonly label: string };

type Props = {
  readonly id: string;
  readonly options: readonly Option[];
  readonly value: string | null;
  /** What is typed and chooses nothing so far. */
  readonly typed: string | null;
  readonly error: boolean;
  readonly attributes?: { readonly input: Told };
  readonly 'aria-label'?: string;
  readonly onEnter: (value: Json) => void;
};

const folded = (text: string): string => text.trim().toLocaleLowerCase();

/**
 * One of several options, found by typing part of its label. Once the input is left, a text that fits one option alone has
 * chosen it; a text that fits none, or several, stays as it is typed with the reason.
 */
export function ListInput({ id, options, value, typed, error, attributes, onEnter, ...aria }: Props) {
  // What an earlier visit left unfinished is told from the beginning.
  const [isLeft, setLeft] = useState(typed !== null);
  const box = useCombobox({ onDropdownClose: () => box.resetSelectedOption() });
  const wanted = folded(typed ?? '');
  const found = wanted === '' ? options : options.filter(({ label }) => folded(label).includes(wanted));
  const chosen = options.find((option) => option.value === value);
  const take = (option: Option): void => {
    onEnter(option.value);
    setLeft(false);
    box.closeDropdown();
  };
  const finish = (): void => {
    box.closeDropdown();
    if (typed === null) return;
    const exact = options.filter(({ label }) => folded(label) === wanted);
    const [only, ...others] = exact.length > 0 ? exact : found;
    if (only && others.length === 0) take(only);
    else setLeft(true);
  };
  const isUnmatched = isLeft && typed !== null;
  return (
    <Combobox
      store={box}
      onOptionSubmit={(code) => {
        const option = options.find((own) => own.value === code);
        if (option) take(option);
      }}
    >
      <Combobox.Target withExpandedAttribute>
        <TextInput
          {...aria}
          id={id}
          role="combobox"
          autoComplete="off"
          dir="auto"
          placeholder="Choose"
          {...(attributes ? { attributes } : {})}
          value={typed ?? chosen?.label ?? (value === null ? '' : value)}
          error={
            isUnmatched ? (found.length === 0 ? 'None of the options is called so.' : 'Several options fit: choose one.') : error
          }
          rightSection={
            value === null ? (
              <Combobox.Chevron />
            ) : (
              <CloseButton size="sm" tabIndex={-1} aria-label="Clear" onClick={() => onEnter(null)} />
            )
          }
          onChange={(event) => {
            const text = event.currentTarget.value;
            setLeft(false);
            box.openDropdown();
            // While the label is incomplete, nothing is chosen: what was chosen before isn't meant any more.
            onEnter(text.trim() === '' ? null : makeUnreadText(text));
          }}
          onKeyDown={(event) => {
            if (event.key !== 'Enter' || box.getSelectedOptionIndex() >= 0 || found.length !== 1 || !found[0]) return;
            event.preventDefault();
            take(found[0]);
          }}
          onFocus={(event) => event.currentTarget.select()}
          onClick={(event) => {
            selectWhole(event.currentTarget);
            box.openDropdown();
          }}
          onBlur={finish}
        />
      </Combobox.Target>
      <Combobox.Dropdown>
        <Combobox.Options mah={260} style={{ overflowY: 'auto' }}>
          {found.map((option) => (
            <Combobox.Option key={option.value} value={option.value} active={option.value === value}>
              {option.label}
            </Combobox.Option>
          ))}
          {found.length === 0 && <Combobox.Empty>None is called so</Combobox.Empty>}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}
