import type { ImportedRow } from '@ypomet/contract';
import { useEffect, useRef, useState } from 'react';
import { runInParts } from '../../shared/in-parts.ts';
import { partsOf } from './parts.ts';
import { sendImport } from './queries.ts';
import type { ImportRow } from './rows.ts';

/** How an import stands: trying out, begun, cancelled or stopped, with what was told of its rows so far. */
export type ImportState =
  | { readonly status: 'idle' }
  | {
      readonly status: 'running' | 'done' | 'cancelled' | 'stopped';
      readonly isTrial: boolean;
      readonly of: number;
      readonly told: readonly ImportedRow[];
      /** Why it stopped. */
      readonly error: Error | null;
    };

type Place = { readonly workflow: string; readonly stage: string; readonly handOff: string };

/** Tries rows out, and begins them. What was begun stays so when the rest is cancelled; going on begins nothing twice. */
export function useImport() {
  const [state, setState] = useState<ImportState>({ status: 'idle' });
  const [run, setRun] = useState(() => crypto.randomUUID());
  const cancelled = useRef<AbortController | null>(null);
  useEffect(() => () => cancelled.current?.abort(), []);
  const start = async (rows: readonly ImportRow[], place: Place, isTrial: boolean): Promise<void> => {
    const controller = new AbortController();
    cancelled.current = controller;
    const told: ImportedRow[] = [];
    const show = (status: Exclude<ImportState['status'], 'idle'>, error: Error | null): void => {
      // Another import was begun meanwhile, or this one's rows are others now.
      if (cancelled.current === controller) setState({ status, isTrial, of: rows.length, told: [...told], error });
    };
    show('running', null);
    try {
      const onPart = (part: readonly ImportedRow[]): void => {
        told.push(...part);
        show('running', null);
      };
      const of = { ...place, run, isTrial };
      await runInParts(partsOf(rows), (part, signal) => sendImport(of, part, signal), onPart, controller.signal);
      show(controller.signal.aborted ? 'cancelled' : 'done', null);
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      show(controller.signal.aborted ? 'cancelled' : 'stopped', error);
    }
  };
  return {
    state,
    start: (rows: readonly ImportRow[], place: Place, isTrial: boolean) => void start(rows, place, isTrial),
    cancel: () => cancelled.current?.abort(),
    /** Other rows, or other columns: a new import. */
    reset: () => {
      cancelled.current?.abort();
      cancelled.current = null;
      setRun(crypto.randomUUID());
      setState({ status: 'idle' });
    },
  };
}
