/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
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

function Host({
  field,
  world,
  onEntered,
}: {
  readonly field: Field;
  readonly world: Partial<FormWorld>;
  readonly onEntered: (value: Json) => void;
}) {
  const [value, setValue] = useState<Json>(null);
  const enter = (next: Json): void => {
    onEntered(next);
    setValue(next);
  };
  return (
    <FormWorldProvider value={{ ...WORLD, ...world }}>
      <FieldInput id="f" field={field} path="f" value={value} stored={null} hasError={false} label="F" onEnter={enter} />
    </FormWorldProvider>
  );
}

/** Shows an input and gathers what it yields. */
function show(written: Readonly<Record<string, Json>>, world: Partial<FormWorld> = {}): readonly Json[] {
  const entered: Json[] = [];
  renderPart(<Host field={fieldOf(written)} world={world} onEntered={(value) => entered.push(value)} />);
  return entered;
}

describe('what an input yields is what is sent', () => {
  test('text; nothing is null, never an empty text', async () => {
    const entered = show({ type: 'text' });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), 'ab');
    await userEvent.clear(screen.getByRole('textbox', { name: 'F' }));
    expect(entered).toEqual(['a', 'ab', null]);
  });

  test('a number is a text of its digits', async () => {
    const entered = show({ type: 'number', scale: 2 });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '-12.35');
    expect(entered.at(-1)).toBe('-12.35');
  });

  test('a number that can mean a thousand times itself is asked about once it is left', async () => {
    const entered = show({ type: 'number', scale: 2 });
    const input = screen.getByRole('textbox', { name: 'F' });
    await userEvent.type(input, '12.345');
    expect(screen.queryByRole('alert')).toBeNull();
    await userEvent.tab();
    expect(entered.at(-1)).toEqual({ typed: '12.345' });
    expect(screen.getByRole('alert').textContent).toContain('can be read in two ways');
    await userEvent.click(screen.getByRole('button', { name: '12,345.00' }));
    expect(entered.at(-1)).toBe('12345');
    expect(input).toHaveProperty('value', '12,345.00');
    expect(document.activeElement).toBe(input);
  });

  test('tabbing through an amount enters nothing', async () => {
    const entered = show({ type: 'money', currency: 'EUR' });
    await userEvent.tab();
    await userEvent.tab();
    expect(entered).toEqual([]);
  });

  test('no arrow key changes an amount', async () => {
    const entered = show({ type: 'money', currency: 'EUR' });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '5{ArrowUp}{ArrowDown}{ArrowUp}');
    expect(entered).toEqual(['5']);
  });

  test('a number of more digits than a double holds keeps them all', async () => {
    const entered = show({ type: 'number', scale: 0 });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '12345678901234567890');
    expect(entered.at(-1)).toBe('12345678901234567890');
  });

  test('yes, no, and open again; pressing what is chosen changes nothing', async () => {
    const entered = show({ type: 'yes-no' });
    for (const name of ['Yes', 'No', 'No']) await userEvent.click(screen.getByRole('radio', { name }));
    await userEvent.click(screen.getByRole('button', { name: 'Clear' }));
    expect(entered).toEqual([true, false, false, null]);
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

  test('a label typed in part chooses the only option it fits; one that fits several or none stays with the reason', async () => {
    const options = ['Paper', 'Parchment', 'Glass'].map((label) => ({ code: label.toLowerCase(), label }));
    const entered = show({ type: 'choice', options });
    const input = screen.getByRole('combobox', { name: 'F' });
    await userEvent.type(input, 'gla');
    await userEvent.tab();
    expect(entered.at(-1)).toBe('glass');
    expect(input).toHaveProperty('value', 'Glass');
    await userEvent.clear(input);
    await userEvent.type(input, 'pa');
    await userEvent.tab();
    expect(entered.at(-1)).toEqual({ typed: 'pa' });
    expect(input).toHaveProperty('value', 'pa');
    expect(screen.getByText('Several options fit: choose one.')).toBeTruthy();
    await userEvent.type(input, 'x');
    await userEvent.tab();
    expect(screen.getByText('None of the options is called so.')).toBeTruthy();
  });

  test('a few options as buttons: one stop of the Tab key, arrows choose, Delete leaves it open', async () => {
    const options = ['a', 'b', 'c'].map((code) => ({ code, label: `Option ${code}` }));
    const entered = show({ type: 'choice', options, layout: 'column' });
    await userEvent.tab();
    await userEvent.keyboard('{ArrowDown}{ArrowDown}{ArrowUp}{ArrowUp}{Delete}');
    expect(entered).toEqual(['a', 'b', 'a', 'c', null]);
    await userEvent.tab();
    expect(document.body).toHaveFocus();
  });

  test('a name typed in full is taken when the input is left; one that nobody has stays with the reason', async () => {
    const people = [
      { id: 'm1', name: 'Carla Wendt', note: '' },
      { id: 'm2', name: 'Carl Wendtner', note: '' },
    ];
    const find = async (_: string, search: string) =>
      people.filter(({ name }) => name.toLowerCase().includes(search.trim().toLowerCase()));
    const entered = show({ type: 'member' }, { findChoices: find });
    const input = screen.getByRole('combobox', { name: 'F' });
    await userEvent.type(input, 'carla wendt');
    await userEvent.tab();
    await waitFor(() => expect(entered.at(-1)).toBe('m1'));
    expect(input).toHaveProperty('value', 'Carla Wendt');
    await userEvent.clear(input);
    await userEvent.type(input, 'wendt');
    await userEvent.tab();
    expect(await screen.findByText('Several fit: choose one from the list.')).toBeTruthy();
    expect(entered.at(-1)).toEqual({ typed: 'wendt' });
    await userEvent.clear(input);
    await userEvent.type(input, 'Nobody');
    await userEvent.tab();
    expect(await screen.findByText('Nobody is called so. Choose from the list.')).toBeTruthy();
    expect(input).toHaveProperty('value', 'Nobody');
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

  test('a number is shown in groups with its places once it is left, and yields its digits alone', async () => {
    const entered = show({ type: 'money', currency: 'EUR' });
    await userEvent.type(screen.getByRole('textbox', { name: 'F' }), '1234567.5');
    expect(entered.at(-1)).toBe('1234567.5');
    await userEvent.tab();
    expect(screen.getByRole('textbox', { name: 'F' })).toHaveProperty('value', '1,234,567.50');
  });

  test('a day as people write it yields ISO 8601; what is no day yet is kept as it is typed', async () => {
    const entered = show({ type: 'date' });
    const input = screen.getByRole('textbox', { name: 'F' });
    await userEvent.type(input, '12/03/2027');
    expect(entered.at(-1)).toBe('2027-03-12');
    expect(entered).toContainEqual({ typed: '12/0' });
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
    await userEvent.click(screen.getByRole('button', { name: 'Choose a day: F' }));
    await userEvent.click(await screen.findByRole('button', { name: /^15 March 2027/i }, { timeout: 5000 }));
    expect(entered.at(-1)).toBe('2027-03-15');
  });
});
