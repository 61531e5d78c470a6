import type { PdfJob } from './pdf-worker.ts';
import { makeThreads } from './threads.ts';

const SECONDS = 30;
const LIMITS = { threads: 1, waiting: 100, memoryMb: 512 };

/** Makes PDFs in a thread beside the request loop, each bounded in time and memory. */
export class PdfPool {
  private readonly threads = makeThreads<PdfJob, Uint8Array>('pdf-worker', LIMITS);

  async write(job: PdfJob): Promise<Buffer> {
    return Buffer.from(await this.threads.run(job, { signal: AbortSignal.timeout(SECONDS * 1000) }));
  }

  close(): Promise<void> {
    return this.threads.destroy();
  }
}
