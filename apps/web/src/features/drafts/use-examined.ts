import workerAddress from 'virtual:draft-worker';
import type { Diagnostic, Surroundings, UsedParts, Workflow } from '@ypomet/core';
import { useEffect, useRef, useState } from 'react';
import type { FromWorker, ToWorker } from '../../workers/draft-messages.ts';
import type { DraftStore } from './draft-store.ts';

export type Examined = {
  readonly diagnostics: readonly Diagnostic[];
  /** Whether they are of the draft as it is now. */
  readonly isCurrent: boolean;
  /** What names what, as it was found last. */
  readonly used: UsedParts;
};

const NOTHING: Examined = { diagnostics: [], isCurrent: false, used: [] };

/** A draft's worker, told of every change. */
class Examiner {
  private readonly worker = new Worker(workerAddress, { type: 'module' });
  private readonly unwatch: () => void;
  private sequence = 0;
  private neighbours: readonly Workflow[] | null = null;
  private surroundings: Surroundings | null = null;

  constructor(
    private readonly store: DraftStore,
    found: (change: (before: Examined) => Examined) => void,
  ) {
    this.unwatch = store.watch((change) => {
      this.sequence += 1;
      found((before) => ({ ...before, isCurrent: false }));
      if (change.type === 'edited') this.send({ type: 'edit', sequence: this.sequence, edit: change.edit });
      else this.open();
    });
    this.worker.addEventListener('message', ({ data }: MessageEvent<FromWorker>) => {
      if (data.type === 'lost') this.open();
      else if (data.type === 'used') found((before) => ({ ...before, used: data.used }));
      else
        found((before) => ({
          ...before,
          diagnostics: data.diagnostics ?? before.diagnostics,
          isCurrent: data.sequence === this.sequence,
        }));
    });
  }

  /** Gives it the draft beside the workflows that it refers to, and what it names of the workspace. */
  openBeside(neighbours: readonly Workflow[] | null, surroundings: Surroundings | null): void {
    this.neighbours = neighbours;
    this.surroundings = surroundings;
    this.open();
  }

  end(): void {
    this.unwatch();
    this.worker.terminate();
  }

  private open(): void {
    const { definition } = this.store.get();
    this.send({
      type: 'open',
      sequence: this.sequence,
      definition,
      neighbours: this.neighbours,
      surroundings: this.surroundings,
    });
  }

  private send(message: ToWorker): void {
    this.worker.postMessage(message);
  }
}

/** What is wrong with the draft, as a worker finds it that replays the page's edits. */
export function useExamined(
  store: DraftStore,
  neighbours: readonly Workflow[] | null,
  surroundings: Surroundings | null,
): Examined {
  const [examined, setExamined] = useState(NOTHING);
  const examiner = useRef<Examiner | null>(null);
  useEffect(() => {
    examiner.current = new Examiner(store, setExamined);
    return () => examiner.current?.end();
  }, [store]);
  // Opened again, by the same worker, when the neighbours come in.
  useEffect(() => {
    if (store.key !== '') examiner.current?.openBeside(neighbours, surroundings);
  }, [store, neighbours, surroundings]);
  return examined;
}
