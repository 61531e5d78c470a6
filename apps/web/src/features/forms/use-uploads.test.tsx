/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { act, renderHook, waitFor } from '@testing-library/react';
import { Unreachable } from '../../shared/problems.ts';
import type { FileJson } from './file-json.ts';
import type { SendOptions } from './send-file.ts';
import { useUploads } from './use-uploads.ts';

const file = (name: string) => new File(['x'], name);
const entryOf = (name: string): FileJson => ({ name, mediaType: 'text/plain', bytes: 1, sha256: name });

/** Files on their way that end when they are told to. */
function begin() {
  const under = new Map<string, { readonly options: SendOptions; readonly end: (error?: Error) => void }>();
  const taken: string[] = [];
  const handOver = (sent: File, options: SendOptions) =>
    new Promise<FileJson>((resolve, reject) => {
      options.signal.addEventListener('abort', () => reject(options.signal.reason as Error));
      under.set(sent.name, { options, end: (error) => (error ? reject(error) : resolve(entryOf(sent.name))) });
    });
  const hook = renderHook(() => useUploads(handOver, ({ name }) => taken.push(name)));
  const states = () => hook.result.current.list.map(({ file: { name }, status }) => `${name} ${status}`);
  return { hook, under, taken, states };
}

describe('files on their way', () => {
  test('go two at a time, in the order they were chosen, and are told as they arrive', async () => {
    const { hook, under, taken, states } = begin();
    act(() => hook.result.current.add(['a', 'b', 'c'].map(file)));
    expect(states()).toEqual(['a sending', 'b sending', 'c waiting']);
    act(() => under.get('a')?.options.onProgress(7));
    expect(hook.result.current.list[0]?.sentBytes).toBe(7);
    await act(async () => under.get('b')?.end());
    await waitFor(() => expect(states()).toEqual(['a sending', 'c sending']));
    await act(async () => {
      under.get('c')?.end();
      under.get('a')?.end();
    });
    await waitFor(() => expect(states()).toEqual([]));
    expect(taken).toEqual(['b', 'c', 'a']);
  });

  test('one that fails says why, holds nothing up, and can be tried again', async () => {
    const { hook, under, taken, states } = begin();
    act(() => hook.result.current.add(['a', 'b', 'c'].map(file)));
    await act(async () => under.get('a')?.end(new Unreachable()));
    await waitFor(() => expect(states()).toEqual(['a failed', 'b sending', 'c sending']));
    expect(hook.result.current.list[0]?.why).toMatch(/can’t be reached/);
    await act(async () => under.get('b')?.end());
    act(() => hook.result.current.again(hook.result.current.list[0]?.id ?? -1));
    await act(async () => under.get('a')?.end());
    await waitFor(() => expect(taken).toEqual(['b', 'a']));
  });

  test('one that is let go is given up at once', async () => {
    const { hook, under, states } = begin();
    act(() => hook.result.current.add([file('a')]));
    await act(async () => hook.result.current.letGo(hook.result.current.list[0]?.id ?? -1));
    expect(under.get('a')?.options.signal.aborted).toBe(true);
    expect(states()).toEqual([]);
  });

  test('are given up when the form is left', () => {
    const { hook, under } = begin();
    act(() => hook.result.current.add([file('a')]));
    hook.unmount();
    expect(under.get('a')?.options.signal.aborted).toBe(true);
  });
});
