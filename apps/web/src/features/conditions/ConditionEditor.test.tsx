/** @jest-environment jsdom */
import { beforeEach, describe, expect, test } from '@jest/globals';
import { act, cleanup, fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import fc from 'fast-check';
import { useState } from 'react';
import { place } from '../../../testing/condition-place.ts';
import { renderPart } from '../../../testing/render.tsx';
import { unfinished } from '../expressions/unfinished.ts';
import { ConditionEditor } from './ConditionEditor.tsx';
import { linesOf } from './lines.ts';
import { wordsOf } from './OutlineRow.tsx';
import { outlineOf } from './use-outline.ts';

const PATH = 'checks.c.condition';
const ROWS = 'some p in parts satisfies p.amount > 1';
const BOTH = `(${ROWS}) and price > 1`;

function Tried({ text: first }: { readonly text: string }) {
  const [text, setText] = useState(first);
  return (
    <>
      <ConditionEditor text={text} label="Tried" path={PATH} place={place} onChange={setText} />
      <output aria-label="kept">{text}</output>
      <button type="button" onClick={() => setText('price > 5')}>
        A colleague changes it
      </button>
    </>
  );
}
const kept = (): string => screen.getByLabelText('kept').textContent ?? '';
const lines = (): readonly string[] =>
  screen.getAllByRole('treeitem').map((line) => (line.getAttribute('aria-label') ?? '').replace(TRUTH, ''));
const TRUTH = /, (holds|does not hold|unknown)$/;
const focusOn = (name: RegExp): void => act(() => screen.getByRole('treeitem', { name }).focus());
/** A key where the focus is, and everything that follows from it. */
const press = async (key: string, more: { readonly altKey?: boolean } = {}): Promise<void> => {
  await act(async () => {
    fireEvent.keyDown(document.activeElement ?? document.body, { key, code: key === 'e' ? 'KeyE' : key, ...more });
  });
  await act(async () => {});
};

beforeEach(() => window.localStorage.clear());

describe('a condition never changes to what nobody saw', () => {
  test('a clause added within rows and removed again leaves the condition as it was', async () => {
    renderPart(<Tried text={ROWS} />);
    focusOn(/^Amount is above/);
    await press('+');
    expect(lines()).toEqual(['all of', 'any row of Parts where', 'all of', 'Amount is above 1.0', 'Name is, unfinished']);
    await press('Escape');
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Name is, unfinished');
    await press('Delete');
    expect(kept()).toBe(ROWS);
    expect(document.activeElement?.getAttribute('aria-label')).toMatch(/^Amount is above/);
  });

  test('without its last clause it is unfinished, and the one before stays', async () => {
    renderPart(<Tried text='price > 1 and kind = "goods"' />);
    focusOn(/^all of/);
    await press('Delete');
    expect(screen.getByText(/Unfinished: no clause is left/)).toBeTruthy();
    expect(screen.getByText('Kept until then: Price is above €1.00 and Kind is Goods')).toBeTruthy();
    expect(kept()).toBe('price > 1 and kind = "goods"');
    await userEvent.setup().click(screen.getByRole('button', { name: 'Back to what is kept' }));
    expect(lines()).toEqual(['all of', 'Price is above €1.00', 'Kind is Goods']);
  });

  test('rows whose last clause goes are unfinished, not “any row”', async () => {
    renderPart(<Tried text={BOTH} />);
    focusOn(/^Amount/);
    await press('Delete');
    expect(kept()).toBe(BOTH);
    expect(screen.getByText(/Unfinished: kept once every clause and group is complete/)).toBeTruthy();
  });

  test('a new one begins as “all of”, and says what holds without a clause', () => {
    renderPart(<Tried text="false" />);
    expect(lines()).toEqual(['all of, without a clause yet']);
    expect(screen.getByText('No clause yet: never so until there is one.')).toBeTruthy();
    expect(screen.getByRole('button', { name: '+ clause (and)' })).toBeTruthy();
  });

  test('each button for a clause says how it is joined where the cursor stands', () => {
    renderPart(<Tried text='(price > 1 or kind = "goods") and not(price > 5 or kind = "service")' />);
    focusOn(/^any of/);
    expect(screen.getByRole('button', { name: '+ clause (or)' })).toBeTruthy();
    focusOn(/^none of/);
    expect(screen.getByRole('button', { name: '+ group (nor)' })).toBeTruthy();
  });

  const KEYS = ['ArrowDown', 'ArrowUp', 'ArrowLeft', 'ArrowRight', 'Home', 'End', '+', '*', '(', '[', ')', '!', 'Delete'];
  const ALSO = ['Enter', 'Escape', 'a', 'o', 'n', 'Alt ArrowUp', 'Alt ArrowDown', 'Alt ArrowLeft', 'Alt ArrowRight'];
  const STARTS = [
    'false',
    'price > 1',
    ROWS,
    'price > 1 and (kind = "goods" or not(delivery = null))',
    '(every p in parts satisfies p.amount > 1 or p.serial = null) or kind = "goods"',
    'count(parts[serial = "x" and amount > 2]) >= 2 and price > 1',
  ];

  test('law: after any keys, it is what the lines say, or said to be unfinished and as it was', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...STARTS),
        fc.array(fc.constantFrom(...KEYS, ...ALSO), { minLength: 3, maxLength: 9 }),
        async (start, keys) => {
          cleanup();
          window.localStorage.clear();
          renderPart(<Tried text={start} />);
          act(() => screen.getAllByRole('treeitem')[0]?.focus());
          for (const key of keys) {
            const before = kept();
            const isAlt = key.startsWith('Alt ');
            await press(isAlt ? key.slice(4) : key, { altKey: isAlt });
            const outline = outlineOf(kept());
            const said = (outline ? linesOf(outline, place) : []).map(({ item, place: at }) => wordsOf(item, at));
            const clauses = (list: readonly string[]) => list.filter((line) => !/^(all|any|none) of/.test(line));
            const isOpen = screen.queryByText(/^(Unfinished|Not kept)/) !== null;
            if (isOpen) expect(kept()).toBe(before);
            else expect(clauses(lines())).toEqual(clauses(said));
            if (kept() !== start) expect(kept()).not.toMatch(/true|false/);
          }
        },
      ),
      { numRuns: 25 },
    );
  });
});

describe('an unfinished outline is kept', () => {
  const begin = async (): Promise<void> => {
    focusOn(/^Price/);
    await press('+');
    await press('Escape');
    expect(lines()[2]).toMatch(/unfinished$/);
  };

  test('through the view as text and back, and through leaving and coming back', async () => {
    renderPart(<Tried text="price > 1" />);
    await begin();
    const before = lines();
    await press('e', { altKey: true });
    expect(screen.getByText(/The outline of this condition is unfinished/)).toBeTruthy();
    const [switchBack] = screen.getAllByRole('button', { name: 'as outline' });
    await act(async () => switchBack?.click());
    expect(lines()).toEqual(before);
    expect(unfinished.paths(place.workflow.key)).toEqual([PATH]);
    cleanup();
    renderPart(<Tried text="price > 1" />);
    expect(lines()).toEqual(before);
  });

  test('when a colleague changes the condition meanwhile, who is told', async () => {
    renderPart(<Tried text="price > 1" />);
    await begin();
    await userEvent.setup().click(screen.getByRole('button', { name: 'A colleague changes it' }));
    expect(lines()[1]).toBe('Price is above €1.00');
    expect(screen.getByText(/The kept condition was changed meanwhile/)).toBeTruthy();
    await userEvent.setup().click(screen.getByRole('button', { name: 'Back to what is kept' }));
    expect(lines()).toEqual(['all of', 'Price is above €5.00']);
    expect(unfinished.paths(place.workflow.key)).toEqual([]);
  });

  test('until it is finished', async () => {
    renderPart(<Tried text="price > 1" />);
    await begin();
    await press('Delete');
    expect(unfinished.paths(place.workflow.key)).toEqual([]);
    expect(screen.queryByText(/Unfinished/)).toBeNull();
  });
});

test('the whole condition is turned into its opposite, and made to hold always, from its menu', async () => {
  renderPart(<Tried text="price > 1" />);
  const user = userEvent.setup();
  await user.click(screen.getByRole('button', { name: 'More about this condition' }));
  await user.click(await screen.findByRole('menuitem', { name: 'Turn into its opposite' }));
  expect(kept()).toBe('price <= 1');
  await user.click(screen.getByRole('button', { name: 'More about this condition' }));
  await user.click(await screen.findByRole('menuitem', { name: 'Make it hold always' }));
  expect(kept()).toBe('true');
  expect(screen.getByText('No clause yet: always so until there is one.')).toBeTruthy();
});
