/** @jest-environment jsdom */
import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { renderHook } from '@testing-library/react';
import { useChanges } from './use-changes.ts';

// A page follows what changes while it is in view.
class Source extends EventTarget {
  static all: Source[] = [];
  isOpen = true;
  constructor(readonly address: string) {
    super();
    Source.all.push(this);
  }
  close(): void {
    this.isOpen = false;
  }
}
const showPage = (isHidden: boolean): void => {
  Object.defineProperty(document, 'hidden', { value: isHidden, configurable: true });
  document.dispatchEvent(new Event('visibilitychange'));
};

beforeEach(() => {
  jest.useFakeTimers();
  Source.all = [];
  Object.assign(globalThis, { EventSource: Source });
});
afterEach(() => {
  showPage(false);
  jest.useRealTimers();
});

test('many changes at once are told once; a page out of view listens to nothing, and looks again when it is back', () => {
  const onChange = jest.fn();
  const { unmount } = renderHook(() => useChanges({ workflow: 'loans' }, onChange));
  const [first] = Source.all;
  expect(first?.address).toBe('/api/changes?workflow=loans');
  first?.dispatchEvent(new Event('open'));
  for (let time = 0; time < 3; time++) first?.dispatchEvent(new Event('message'));
  jest.runAllTimers();
  expect(onChange).toHaveBeenCalledTimes(1);

  showPage(true);
  expect(first?.isOpen).toBe(false);
  showPage(false);
  const [, second] = Source.all;
  second?.dispatchEvent(new Event('open'));
  jest.runAllTimers();
  expect(onChange).toHaveBeenCalledTimes(2);

  unmount();
  expect([second?.isOpen, Source.all.length]).toEqual([false, 2]);
});
