import type { BodyInput } from '@ypomet/contract';
import { callApi, problemText } from '../../shared/api.ts';
import type { Send } from './run-import.ts';

/** How often a part is sent when its answer is lost: a row sent twice begins one record. */
const TRIES = 3;
const PAUSE_MS = 1500;

type Import = {
  readonly workflow: string;
  readonly stage: string;
  readonly handOff: string;
  readonly run: string;
  readonly isTrial: boolean;
};

/** Sends parts of an import; one whose answer is lost is sent again. */
export const sendImport =
  ({ workflow, stage, handOff, run, isTrial }: Import): Send =>
  async (rows, signal) => {
    const body = { handOff, run, isTrial, rows } as unknown as BodyInput<'importRows'>;
    for (let tried = 1; ; tried++) {
      try {
        return (await callApi('importRows', { params: { key: workflow, stage }, body, signal })).rows;
      } catch (error) {
        if (tried >= TRIES || signal.aborted || !isPassing(error)) throw error;
        await new Promise((resolve) => setTimeout(resolve, PAUSE_MS * tried));
      }
    }
  };

/** Whether it may go well another time: the connection was lost, too much was asked, or the server had a fault. */
const isPassing = (error: unknown): boolean => {
  const status = (error as { problem?: { status?: number } }).problem?.status;
  return status === undefined || status === 429 || status >= 500;
};

/** Why an import stopped, in a sentence. */
export const problemOfImport = problemText;
