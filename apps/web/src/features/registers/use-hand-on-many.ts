import { useQueryClient } from '@tanstack/react-query';
import type { HandedOnRow } from '@ypomet/contract';
import { MAX_HANDED_ON } from '@ypomet/contract/limits';
import { useEffect, useRef, useState } from 'react';
import { inPartsOf, runInParts } from '../../shared/in-parts.ts';
import { sendHandOns } from './queries.ts';

/** How handing many on stands, with what was told of them so far. */
export type ManyState = {
  readonly status: 'idle' | 'running' | 'done' | 'cancelled' | 'stopped';
  readonly isTrial: boolean;
  readonly of: number;
  readonly told: readonly HandedOnRow[];
  readonly error: Error | null;
};

const IDLE: ManyState = { status: 'idle', isTrial: true, of: 0, told: [], error: null };
type One = { readonly id: string; readonly revision: number };

/** Tries out what a hand-off of many records would come to, and hands them on. What was handed on stays so when it is cancelled. */
export function useHandOnMany(workflow: string) {
  const [state, setState] = useState(IDLE);
  const [run] = useState(() => crypto.randomUUID());
  const client = useQueryClient();
  const under = useRef<AbortController | null>(null);
  useEffect(() => () => under.current?.abort(), []);
  const start = async (records: readonly One[], handOff: string, isTrial: boolean): Promise<void> => {
    under.current?.abort();
    const controller = new AbortController();
    under.current = controller;
    const told: HandedOnRow[] = [];
    const show = (status: ManyState['status'], error: Error | null): void => {
      if (under.current === controller) setState({ status, isTrial, of: records.length, told: [...told], error });
    };
    show('running', null);
    const send = (part: readonly One[], signal: AbortSignal) =>
      sendHandOns({ handOff, run, isTrial, records: [...part] }, signal);
    const onPart = (part: readonly HandedOnRow[]): void => {
      told.push(...part);
      show('running', null);
    };
    try {
      await runInParts(inPartsOf(records, MAX_HANDED_ON), send, onPart, controller.signal);
      show(controller.signal.aborted ? 'cancelled' : 'done', null);
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      show(controller.signal.aborted ? 'cancelled' : 'stopped', error);
    }
    if (!isTrial) void client.invalidateQueries({ queryKey: ['register', workflow] });
  };
  return {
    state,
    start: (records: readonly One[], handOff: string, isTrial: boolean) => void start(records, handOff, isTrial),
    cancel: () => under.current?.abort(),
  };
}
