import { notSent } from '../outlets/outlet.ts';
import type { PdfJob, PdfResult } from './pdf-worker.ts';
import { makeThreads } from './threads.ts';

const SECONDS = 30;
/** Letters that one message names. */
const MOST_NAMED = 20;
const LIMITS = { threads: 1, waiting: 100, memoryMb: 512 };

/** Makes PDFs in a thread beside the request loop, each bounded in time and memory. */
export class PdfPool {
  private readonly threads = makeThreads<PdfJob, PdfResult>('pdf-worker', LIMITS);

  /** Rejects with the fault `no-letters` where no font has a letter of the text: a document with gaps is never sent. */
  async write(job: PdfJob): Promise<Buffer> {
    const result = await this.threads.run(job, { signal: AbortSignal.timeout(SECONDS * 1000) });
    if ('bytes' in result) return Buffer.from(result.bytes);
    throw notSent('no-letters', { letters: result.missing.slice(0, MOST_NAMED) }, { isFinal: true });
  }

  close(): Promise<void> {
    return this.threads.destroy();
  }
}
