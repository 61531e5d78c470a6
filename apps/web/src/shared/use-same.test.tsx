/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { renderHook } from '@testing-library/react';
import { isSameData, isSameList, isSameSet, useSame } from './use-same.ts';

describe('what says the same as before', () => {
  test('is the very object that was there before, until it says something else', () => {
    const first = ['request', 'review'];
    const { result, rerender } = renderHook(({ value }) => useSame(value, isSameList), { initialProps: { value: first } });
    rerender({ value: ['request', 'review'] });
    expect(result.current).toBe(first);
    const longer = ['request', 'review', 'loan'];
    rerender({ value: longer });
    expect(result.current).toBe(longer);
  });
  test.each([
    ['nothing and nothing', [], [], true],
    ['another order', ['a', 'b'], ['b', 'a'], false],
    ['one more', ['a'], ['a', 'b'], false],
    ['what is no number', [Number.NaN], [Number.NaN], true],
  ])('lists: %s', (_name, a, b, same) => {
    expect(isSameList(a, b)).toBe(same);
  });
  test('sets have no order', () => {
    expect(isSameSet(new Set(['a', 'b']), new Set(['b', 'a']))).toBe(true);
    expect(isSameSet(new Set(['a', 'b']), new Set(['a', 'c']))).toBe(false);
    expect(isSameSet(new Set(['a']), new Set(['a', 'b']))).toBe(false);
  });
  test('data are compared to the bottom', () => {
    expect(
      isSameData({ stage: 'request', values: { rows: [{ id: 'a' }] } }, { stage: 'request', values: { rows: [{ id: 'a' }] } }),
    ).toBe(true);
    expect(isSameData({ values: { rows: [{ id: 'a' }] } }, { values: { rows: [{ id: 'b' }] } })).toBe(false);
  });
});
