/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { Field, Json } from '@ypomet/core';
import { useState } from 'react';
import { askWorkflow } from '../../../testing/ask-workflow.ts';
import { renderPart } from '../../../testing/render.tsx';
import { FieldInput } from './FieldInput.tsx';
import { type FormWorld, FormWorldProvider } from './form-world.tsx';

/** A field as a definition gives it, with all that a file may leave out. */
const fieldOf = (written: Readonly<Record<string, Json>>): Field =>
  askWorkflow([{ key: 'f', name: 'F', ...written }]).fields[0] as Field;

const WORLD: FormWorld = {
  zone: 'UTC',
  locale: 'en-GB',
  names: {},
  findChoices: async () => [],
  handOver: () => Promise.reject(new Error('no files here')),
  filesOf: null,
  signer: 'Somebody',
  brokenSignOffs: [],
};

function Host({ field, onEntered }: { readonly field: Field; readonly onEntered: (value: Json) => void }) {
  const [value, setValue] = useState<Json>(null);
  const enter = (next: Json): void => {
    onEntered(next);
    setValue(next);
  };
  return (
    <FormWorldProvider value={WORLD}>
      <FieldInput id="f" field={field} path="f" value={value} stored={null} hasError={false} label="F" onEnter={enter} />
    </FormWorldProvider>
  );
}

/** Shows an input and gathers what it yields. */
function show(written: Readonly<Record<string, Json>>): readonly Json[] {
  const entered: Json[] = [];
  renderPart(<Host field={fieldOf(written)} onEntered={(value) => entered.push(value)} />);
  return entered;
}

describe('what an input yields is what is sent', () => {
  test('text; nothing is null, never an empty text', async () => {
    const entered = show({ type: 'text' });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), 'ab');
    await userEvent.clear(screen.getByRole('textbox', { name: 'F' }));
    expect(entered).toEqual(['a', 'ab', null]);
  });

  test('a number is a text of its digits, with no place more than the field has', async () => {
    const entered = show({ type: 'number', scale: 2 });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '-12.345');
    expect(entered.at(-1)).toBe('-12.34');
  });

  test('a number of more digits than a double holds keeps them all', async () => {
    const entered = show({ type: 'number', scale: 0 });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '12345678901234567890');
    expect(entered.at(-1)).toBe('12345678901234567890');
  });

  test('yes, no, and open again', async () => {
    const entered = show({ type: 'yes-no' });
    for (const name of ['Yes', 'No', 'Open']) await userEvent.click(screen.getByRole('radio', { name }));
    expect(entered).toEqual([true, false, null]);
  });

  test('a choice shows labels and yields codes; a retired option shows only where it was chosen', async () => {
    const options = [
      { code: 'a', label: 'First' },
      { code: 'b', label: 'Second', retired: true },
      { code: 'c', label: 'Third' },
    ];
    const entered = show({ type: 'choice', options });
    await userEvent.click(screen.getByRole('combobox', { name: 'F' }));
    expect(screen.getAllByRole('option').map((option) => option.textContent)).toEqual(['First', 'Third']);
    await userEvent.click(screen.getByRole('option', { name: 'Third' }));
    expect(entered).toEqual(['c']);
  });

  test('several choices; none is null', async () => {
    const options = [
      { code: 'a', label: 'First' },
      { code: 'b', label: 'Second' },
    ];
    const entered = show({ type: 'multi-choice', options });
    for (const name of ['Second', 'First', 'Second', 'First']) await userEvent.click(screen.getByRole('checkbox', { name }));
    expect(entered).toEqual([['b'], ['b', 'a'], ['a'], null]);
  });

  test('a number is shown in groups, and yields its digits alone', async () => {
    const entered = show({ type: 'money', currency: 'EUR' });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '1234567.5');
    expect(entered.at(-1)).toBe('1234567.5');
    expect(screen.getByRole('textbox', { name: 'F' })).toHaveProperty('value', '1,234,567.5');
  });

  test('a day as people write it yields ISO 8601; what is no day yet is kept as it is typed', async () => {
    const entered = show({ type: 'date' });
    const input = screen.getByRole('textbox', { name: 'F' });
    await userEvent.type(input, '12/03/2027');
    expect(entered.at(-1)).toBe('2027-03-12');
    expect(entered).toContain('12/0');
    await userEvent.tab();
    expect(input).toHaveProperty('value', '12 Mar 2027');
    await userEvent.clear(input);
    expect(entered.at(-1)).toBeNull();
  });

  test('a time, and a day with a time', async () => {
    const times = show({ type: 'time' });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '2:30 pm');
    expect(times.at(-1)).toBe('14:30');
  });

  test('a day chosen in the calendar, with the keyboard', async () => {
    const entered = show({ type: 'date' });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '2027-03-12');
    await userEvent.click(screen.getByRole('button', { name: 'Choose a day' }));
    await userEvent.click(await screen.findByRole('button', { name: /^15 March 2027/ }, { timeout: 5000 }));
    expect(entered.at(-1)).toBe('2027-03-15');
  });
});
