import { useEffect, useRef, useState } from 'react';
import { runInParts } from './in-parts.ts';

/** How a long piece of work stands that is tried out first and then done, with what was told of it so far. */
export type RunState<Told> = {
  readonly status: 'idle' | 'running' | 'done' | 'cancelled' | 'stopped';
  readonly isTrial: boolean;
  /** How many there are in all. */
  readonly of: number;
  readonly told: readonly Told[];
  /** Why it stopped. */
  readonly error: Error | null;
};

const IDLE = { status: 'idle', isTrial: true, of: 0, told: [], error: null } as const;

/** A part of the work, sent under the name of its run: what is sent twice in one is done once. */
export type SendPart<One, Told> = (
  part: readonly One[],
  of: { readonly run: string; readonly isTrial: boolean },
  signal: AbortSignal,
) => Promise<readonly Told[]>;

/**
 * Does work in parts, or tries it out. What was done stays so when the rest is cancelled or stops; doing it again in the same run does
 * nothing twice. Leaving the page cancels it.
 */
export function useInParts<One, Told>(send: SendPart<One, Told>) {
  const [state, setState] = useState<RunState<Told>>(IDLE);
  const [run, setRun] = useState<string>(() => crypto.randomUUID());
  const under = useRef<AbortController | null>(null);
  useEffect(() => () => under.current?.abort(), []);
  /** Resolves when nothing more is sent. */
  const start = async (parts: readonly (readonly One[])[], isTrial: boolean): Promise<void> => {
    under.current?.abort();
    const controller = new AbortController();
    under.current = controller;
    const of = parts.reduce((sum, part) => sum + part.length, 0);
    const told: Told[] = [];
    const show = (status: RunState<Told>['status'], error: Error | null): void => {
      // Something else was begun meanwhile.
      if (under.current === controller) setState({ status, isTrial, of, told: [...told], error });
    };
    show('running', null);
    try {
      const onPart = (part: readonly Told[]): void => {
        told.push(...part);
        show('running', null);
      };
      await runInParts(parts, (part, signal) => send(part, { run, isTrial }, signal), onPart, controller.signal);
      show(controller.signal.aborted ? 'cancelled' : 'done', null);
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      show(controller.signal.aborted ? 'cancelled' : 'stopped', error);
    }
  };
  return {
    state,
    start,
    cancel: () => under.current?.abort(),
    /** Other work: a run of its own. */
    reset: () => {
      under.current?.abort();
      under.current = null;
      setRun(crypto.randomUUID());
      setState(IDLE);
    },
  };
}
