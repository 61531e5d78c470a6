/** @jest-environment jsdom */
import { describe, expect, jest, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { type Node, parseExpression, printExpression } from '@ypomet/core';
import { renderPart } from '../../../testing/render.tsx';
import { TypedOperand } from './TypedOperand.tsx';

const read = (text: string): Node | null => {
  const parsed = parseExpression(text);
  return parsed.ok ? parsed.value : null;
};

function typing() {
  const onChange = jest.fn<(node: Node | null) => void>();
  renderPart(<TypedOperand size="xs" aria-label="Value" shown="1 + 1" read={read} onChange={onChange} />);
  const input = screen.getByRole<HTMLInputElement>('textbox', { name: 'Value' });
  return { input, user: userEvent.setup(), kept: () => onChange.mock.calls.map(([node]) => node && printExpression(node)) };
}

describe('an operand that is typed as text', () => {
  test.each([
    ['Tab', '{Tab}'],
    ['Enter', '{Enter}'],
  ])('is kept once, with %s, not with each key', async (_, key) => {
    const { input, user, kept } = typing();
    await user.clear(input);
    await user.type(input, '2 * 10');
    expect(kept()).toEqual([]);
    await user.keyboard(key);
    expect(kept()).toEqual(['2 * 10']);
  });

  test('that can’t be read stays as typed and marked, and nothing counts as entered', async () => {
    const { input, user, kept } = typing();
    await user.clear(input);
    await user.type(input, '2 *');
    await user.tab();
    expect(input.value).toBe('2 *');
    expect(input.getAttribute('aria-invalid')).toBe('true');
    expect(kept()).toEqual([null]);
    await user.type(input, ' 3');
    await user.tab();
    expect(kept()).toEqual([null, '2 * 3']);
  });

  test('is taken back with Escape, and is left unchanged where nothing was typed', async () => {
    const { input, user, kept } = typing();
    await user.type(input, '0');
    await user.keyboard('{Escape}');
    expect(input.value).toBe('1 + 1');
    await user.tab();
    expect(kept()).toEqual([]);
  });
});
