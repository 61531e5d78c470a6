/** @jest-environment jsdom */
import { beforeEach, describe, expect, test } from '@jest/globals';
import type { Edit } from '@ypomet/core';
import { forgetTab } from '../../shared/tab-storage.ts';
import { type KeptSteps, keepSteps, type Step, takeSteps } from './kept-steps.ts';

const inverse = (stage: string): Edit => ({
  type: 'set-treatments',
  cells: [{ field: 'price', stage, treatment: 'hidden' }],
});
const step = (index: number, stage = 'done'): Step => ({ id: `id${index}`, inverse: inverse(stage) });
const steps = (count: number, stage?: string): KeptSteps => ({
  revision: 7,
  pending: ['id0'],
  undo: Array.from({ length: count }, (_, index) => step(index, stage)),
  redo: [],
});

beforeEach(() => window.sessionStorage.clear());

describe('undo that goes on after a reload', () => {
  test('is there once, for its member and workflow alone', () => {
    keepSteps('ines', 'loan', steps(2));
    expect(takeSteps('rufus', 'loan')).toBeNull();
    expect(takeSteps('ines', 'visit')).toBeNull();
    expect(takeSteps('ines', 'loan')).toEqual(steps(2));
    expect(takeSteps('ines', 'loan')).toBeNull();
  });

  test('holds the latest steps where all are too many or too large', () => {
    keepSteps('ines', 'loan', steps(250));
    expect(takeSteps('ines', 'loan')?.undo.map(({ id }) => id)).toEqual(
      Array.from({ length: 100 }, (_, index) => `id${150 + index}`),
    );
    keepSteps('ines', 'loan', steps(20, 's'.repeat(100_000)));
    expect(window.sessionStorage.length).toBeLessThanOrEqual(1);
  });

  test('goes when somebody signs out', () => {
    keepSteps('ines', 'loan', steps(1));
    forgetTab();
    expect(takeSteps('ines', 'loan')).toBeNull();
  });

  test.each([
    ['no JSON', '{'],
    ['another shape', '{"revision": 1}'],
    ['an edit that isn’t known', JSON.stringify({ ...steps(0), undo: [{ id: 'a', inverse: { type: 'of-tomorrow' } }] })],
  ])('is none where %s is kept', (_, text) => {
    keepSteps('ines', 'loan', steps(1));
    const [key = ''] = Object.keys(window.sessionStorage);
    window.sessionStorage.setItem(key, text);
    expect(takeSteps('ines', 'loan')).toBeNull();
  });
});
