/** @jest-environment jsdom */
import { expect, test } from '@jest/globals';
import { act, renderHook } from '@testing-library/react';
import { useInParts } from './use-in-parts.ts';

type Sent = { readonly part: readonly number[]; readonly run: string; readonly isTrial: boolean };

function made(answer: (part: readonly number[]) => Promise<readonly string[]>) {
  const sent: Sent[] = [];
  const { result, unmount } = renderHook(() =>
    useInParts(async (part: readonly number[], of) => {
      sent.push({ part, ...of });
      return answer(part);
    }),
  );
  return { sent, result, unmount };
}
const told = async (part: readonly number[]): Promise<readonly string[]> => part.map(String);

test('tries out and does, telling of what came, under one name of the run', async () => {
  const { sent, result } = made(told);
  expect(result.current.state).toMatchObject({ status: 'idle', told: [] });
  await act(() => result.current.start([[1, 2], [3]], true));
  expect(result.current.state).toMatchObject({ status: 'done', isTrial: true, of: 3, told: ['1', '2', '3'] });
  await act(() => result.current.start([[1]], false));
  expect(result.current.state).toMatchObject({ status: 'done', isTrial: false, of: 1, told: ['1'] });
  expect(sent.map(({ isTrial }) => isTrial)).toEqual([true, true, false]);
  expect(new Set(sent.map(({ run }) => run)).size).toBe(1);
});

test('is cancelled between parts, gone on with in the same run, and begun anew in another', async () => {
  const { sent, result } = made(async (part) => {
    if (sent.length === 1) result.current.cancel();
    return told(part);
  });
  await act(() => result.current.start([[1], [2]], false));
  expect(result.current.state).toMatchObject({ status: 'cancelled', told: ['1'] });
  await act(() => result.current.start([[1], [2]], false));
  expect(result.current.state).toMatchObject({ status: 'done', told: ['1', '2'] });
  act(() => result.current.reset());
  expect(result.current.state.status).toBe('idle');
  await act(() => result.current.start([[3]], false));
  const runs = sent.map(({ run }) => run);
  expect([new Set(runs.slice(0, 3)).size, runs[3] === runs[0]]).toEqual([1, false]);
});

test('stops at a refusal and keeps what came before', async () => {
  const { result } = made(async (part) => {
    if (part[0] === 2) throw Object.assign(new Error('No.'), { problem: { status: 422 } });
    return told(part);
  });
  await act(() => result.current.start([[1], [2], [3]], false));
  expect(result.current.state).toMatchObject({ status: 'stopped', of: 3, told: ['1'] });
  expect(result.current.state.error?.message).toBe('No.');
});

test('sends nothing more once the page is left', async () => {
  const { sent, result, unmount } = made(async (part) => {
    unmount();
    return told(part);
  });
  await act(() => result.current.start([[1], [2]], false));
  expect(sent).toHaveLength(1);
});
