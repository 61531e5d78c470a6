import { useCallback, useEffect, useRef, useState } from 'react';
import { ApiProblem, problemText } from '../../shared/problems.ts';
import type { FileJson } from './file-json.ts';
import type { SendOptions } from './send-file.ts';

/** A file on its way: how much of it was sent, or why it isn't taken. */
export type Sending = {
  readonly id: number;
  readonly file: File;
  readonly sentBytes: number;
  readonly status: 'waiting' | 'sending' | 'failed';
  readonly why: string;
  /** Whether it was refused for good: trying again would come to the same. */
  readonly isFinal: boolean;
};

const isRefusal = (error: Error): boolean =>
  error instanceof ApiProblem && error.problem.status < 500 && error.problem.status !== 429;

/** Files that are sent at the same time. */
const AT_ONCE = 2;

type HandOver = (file: File, options: SendOptions) => Promise<FileJson>;

/** Sends files a few at a time; each that was taken is told, and what fails stays until it is tried again or let go. */
export function useUploads(handOver: HandOver, onTaken: (entry: FileJson) => void) {
  const [list, setList] = useState<readonly Sending[]>([]);
  const latest = useRef<readonly Sending[]>(list);
  const aborts = useRef(new Map<number, AbortController>());
  const number = useRef(0);
  const taken = useRef(onTaken);
  taken.current = onTaken;
  const change = useCallback((next: (before: readonly Sending[]) => readonly Sending[]): void => {
    latest.current = next(latest.current);
    setList(latest.current);
  }, []);
  const note = useCallback(
    (id: number, part: Partial<Sending>): void =>
      change((before) => before.map((one) => (one.id === id ? { ...one, ...part } : one))),
    [change],
  );
  const drop = useCallback((id: number): void => change((before) => before.filter((one) => one.id !== id)), [change]);
  const work = useCallback((): void => {
    const free = AT_ONCE - latest.current.filter(({ status }) => status === 'sending').length;
    for (const { id, file } of latest.current.filter(({ status }) => status === 'waiting').slice(0, Math.max(0, free))) {
      const abort = new AbortController();
      aborts.current.set(id, abort);
      note(id, { status: 'sending', sentBytes: 0, why: '' });
      handOver(file, { signal: abort.signal, onProgress: (sentBytes) => note(id, { sentBytes }) })
        .then((entry) => {
          drop(id);
          taken.current(entry);
        })
        .catch((error: Error) => {
          if (!abort.signal.aborted) note(id, { status: 'failed', why: problemText(error), isFinal: isRefusal(error) });
        })
        .finally(() => {
          aborts.current.delete(id);
          work();
        });
    }
  }, [handOver, note, drop]);
  useEffect(() => {
    const { current } = aborts;
    return () => {
      for (const abort of current.values()) abort.abort(new Error('the form was left'));
    };
  }, []);
  const add = useCallback(
    (files: readonly File[]): void => {
      const fresh = files.map(
        (file): Sending => ({ id: number.current++, file, sentBytes: 0, status: 'waiting', why: '', isFinal: false }),
      );
      change((before) => [...before, ...fresh]);
      work();
    },
    [change, work],
  );
  const again = useCallback(
    (id: number): void => {
      note(id, { status: 'waiting' });
      work();
    },
    [note, work],
  );
  const letGo = useCallback(
    (id: number): void => {
      aborts.current.get(id)?.abort(new Error('let go'));
      drop(id);
      work();
    },
    [drop, work],
  );
  return { list, add, again, letGo };
}
