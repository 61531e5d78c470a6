import { inTurns } from '../turns-of-the-loop.ts';
import type { SheetCell, SheetJob } from './sheet-worker.ts';
import { makeThreads, runWithin } from './threads.ts';

const SECONDS = 60;
const LIMITS = { threads: 1, waiting: 10, memoryMb: 1024 };

/** Writes workbooks in a thread beside the request loop. */
export class SheetPool {
  private readonly threads = makeThreads<SheetJob, Uint8Array>('sheet-worker', LIMITS);

  /** Code `server/busy` where it takes over a minute, or ten others wait. */
  async write(name: string, rows: readonly (readonly SheetCell[])[]): Promise<Buffer> {
    // As text it goes to the thread at once; written row by row, a large sheet keeps nobody waiting meanwhile.
    const written: string[] = [];
    for await (const row of inTurns(rows)) written.push(JSON.stringify(row));
    return Buffer.from(await runWithin(this.threads, { name, rows: `[${written.join(',')}]` }, SECONDS));
  }

  close(): Promise<void> {
    return this.threads.destroy();
  }
}
