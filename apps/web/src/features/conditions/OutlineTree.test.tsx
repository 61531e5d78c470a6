/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { act, fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { type OutlineGroup, parseExpression, printExpression, readOutlineGroup, remarksOn, writeOutline } from '@ypomet/core';
import { useState } from 'react';
import { place } from '../../../testing/condition-place.ts';
import { renderPart } from '../../../testing/render.tsx';
import { OutlineTree } from './OutlineTree.tsx';
import { remarkSentence } from './remark-words.ts';

const { scope, wording } = place;
const groupOf = (text: string): OutlineGroup => {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(text);
  return readOutlineGroup(parsed.value);
};

function Tried({ text }: { readonly text: string }) {
  const [root, setRoot] = useState(() => groupOf(text));
  const [unfit, setUnfit] = useState('');
  const remarks = remarksOn(root, { scope, fieldAt: wording.fieldAt, environment: place.environment });
  return (
    <>
      <OutlineTree root={root} place={place} remarks={remarks} label="Tried" onChange={setRoot} onUnfit={setUnfit} />
      <output aria-label="text">{printExpression(writeOutline(root))}</output>
      <output aria-label="unfit">{unfit}</output>
    </>
  );
}
const text = (): string => screen.getByLabelText('text').textContent ?? '';
const lines = (): readonly (string | null)[] => screen.getAllByRole('treeitem').map((line) => line.getAttribute('aria-label'));
const focusOn = (name: RegExp): void => act(() => screen.getByRole('treeitem', { name }).focus());

describe('a condition at rest', () => {
  test('is a line of words for each group and clause, with what holds for the rehearsal', () => {
    renderPart(<Tried text='(price > 999.99 or delivery = null) and kind = "service"' />);
    expect(lines()).toEqual([
      'all of, does not hold',
      'any of, holds',
      'Price is above €999.99, holds',
      'Delivery is empty, holds',
      'Kind is Service, does not hold',
    ]);
    const [first] = screen.getAllByRole('treeitem', { name: /^Price/ });
    expect(first && within(first).getByTitle('In the rehearsal: €1,000.00')).toBeTruthy();
  });

  test('exactly the threshold is told as it is; what is empty is unknown', () => {
    renderPart(<Tried text="price > 1000 and price >= 1000 and limit < 5" />);
    expect(lines().slice(1)).toEqual([
      'Price is above €1,000.00, does not hold',
      'Price is at least €1,000.00, holds',
      'Limit is below 5, unknown',
    ]);
  });

  test('rows and counts hold their condition below them', () => {
    renderPart(<Tried text='(some p in parts satisfies p.amount > 1) and count(parts[serial = "x"]) = 2' />);
    expect(lines()).toEqual([
      'all of, does not hold',
      expect.stringMatching(/^any row of Parts where/),
      'Amount is above 1.0',
      expect.stringMatching(/^the number of rows of Parts where Serial is “x” is 2/),
      'Serial is “x”',
    ]);
  });
});

describe('a condition is changed with the keyboard', () => {
  test('arrows go from line to line, to the group around and into it', async () => {
    renderPart(<Tried text='(price > 1 or price = null) and kind = "goods"' />);
    const user = userEvent.setup();
    focusOn(/^all of/);
    await user.keyboard('{ArrowDown}{ArrowDown}');
    expect(screen.getByRole('treeitem', { name: /^Price is above/ })).toBe(document.activeElement);
    await user.keyboard('{ArrowLeft}');
    expect(screen.getByRole('treeitem', { name: /^any of/ })).toBe(document.activeElement);
    await user.keyboard('{ArrowRight}{End}');
    expect(screen.getByRole('treeitem', { name: /^Kind/ })).toBe(document.activeElement);
    await user.keyboard('{Home}');
    expect(screen.getByRole('treeitem', { name: /^all of/ })).toBe(document.activeElement);
  });

  test.each<[string, RegExp, string, string]>([
    ['put into a group', /^Price/, '(', 'price > 1 and kind = "goods"'],
    ['turned round', /^Price/, '!', 'price <= 1 and kind = "goods"'],
    ['removed', /^Price/, '{Delete}', 'kind = "goods"'],
    ['moved down', /^Price/, '{Alt>}{ArrowDown}{/Alt}', 'kind = "goods" and price > 1'],
    ['grouped with the one above', /^Kind/, '{Alt>}{ArrowRight}{/Alt}', 'price > 1 or kind = "goods"'],
    ['made “any of”', /^all of/, 'o', 'price > 1 or kind = "goods"'],
    ['made “none of”', /^all of/, 'n', 'not(price > 1 or kind = "goods")'],
  ])('%s', async (_, line, keys, expected) => {
    renderPart(<Tried text='price > 1 and kind = "goods"' />);
    focusOn(line);
    await userEvent.setup().keyboard(keys);
    expect(text()).toBe(expected);
  });

  test('a group is taken away, but not “none of”, which would say the opposite', async () => {
    renderPart(<Tried text='(price > 1 or price = null) and not(kind = "goods")' />);
    const user = userEvent.setup();
    focusOn(/^none of/);
    await user.keyboard(')');
    expect(text()).toBe('(price > 1 or price = null) and not(kind = "goods")');
    focusOn(/^any of/);
    await user.keyboard(')');
    expect(text()).toBe('price > 1 and price = null and not(kind = "goods")');
  });
});

describe('clauses are copied and pasted as text', () => {
  test('what is pasted comes behind the line; what is no condition is said', async () => {
    renderPart(<Tried text='kind = "goods"' />);
    const user = userEvent.setup();
    focusOn(/^Kind/);
    await user.paste('price between 1 and 2 or thing = "x"');
    expect(text()).toBe('kind = "goods" and (price between 1 and 2 or thing = "x")');
    focusOn(/^Kind/);
    await user.paste('oops (');
    expect(screen.getByLabelText('unfit').textContent).toBe('oops (');
    expect(text()).toBe('kind = "goods" and (price between 1 and 2 or thing = "x")');
  });

  test('a group is cut out, and is on the clipboard as its text', () => {
    renderPart(<Tried text='(price > 1 or price = null) and kind = "goods"' />);
    const kept = new Map<string, string>();
    focusOn(/^any of/);
    const clipboardData = { setData: (type: string, value: string) => kept.set(type, value) };
    fireEvent.cut(screen.getByRole('treeitem', { name: /^any of/ }), { clipboardData });
    expect(kept.get('text/plain')).toBe('price > 1 or price = null');
    expect(text()).toBe('kind = "goods"');
  });
});

describe('what may not be meant is pointed out', () => {
  test('“is not” over what may be empty is mended with one click', async () => {
    renderPart(<Tried text='kind != "goods" and price > 5 and price < 3 and price > 5' />);
    expect(screen.getByText(/Also true while Kind is empty/)).toBeTruthy();
    expect(screen.getByText('Never true together with “Price is above €5.00”.')).toBeTruthy();
    expect(screen.getByText('Stands here twice.')).toBeTruthy();
    await userEvent.setup().click(screen.getByRole('button', { name: 'is not, and is filled' }));
    expect(text()).toBe('(kind != "goods" and kind != null) and price > 5 and price < 3 and price > 5');
    expect(screen.queryByText(/Also true while/)).toBeNull();
  });

  test('each remark in a sentence', () => {
    const [clause] = groupOf('price > 1').of;
    if (!clause) throw new Error();
    const said = (code: 'twice' | 'never' | 'always' | 'holds-while-empty', other = true) =>
      remarkSentence({ code, path: [0], with: null }, clause, other ? clause : null, wording);
    expect(said('twice')).toBe('Stands here twice.');
    expect(said('never', false)).toBe('Never true together with the others.');
    expect(said('always')).toBe('One of this and “Price is above €1.00” is always true.');
    expect(said('holds-while-empty')).toBe('Also true while Price is empty.');
  });
});
