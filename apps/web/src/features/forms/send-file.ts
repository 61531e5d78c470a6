import type { FileEntry, Problem } from '@ypomet/contract';
import { guestHeaders } from '../../shared/api.ts';
import { ApiProblem, Unreachable } from '../../shared/problems.ts';

/** Bytes of one part: what is lost when the connection breaks. */
const PART_BYTES = 4_000_000;
/** Pauses between tries of a part, while the server can't be reached. */
const TRY_AGAIN_MS = [0, 1000, 3000, 5000, 10_000, 20_000];

export type SendOptions = { readonly signal: AbortSignal; readonly onProgress: (sentBytes: number) => void };

/**
 * Hands a file over in parts, going on where it was broken off: also one that was begun before in this browser. Resolves to what
 * a field then names it by. Rejects with {@link ApiProblem}, {@link Unreachable}, or the signal's reason.
 */
export async function sendFile(file: File, { signal, onProgress }: SendOptions): Promise<FileEntry> {
  const { Upload } = await import('tus-js-client');
  signal.throwIfAborted();
  return new Promise((resolve, reject) => {
    const upload = new Upload(file, {
      endpoint: '/api/uploads',
      headers: guestHeaders(),
      metadata: { filename: file.name, filetype: file.type },
      chunkSize: PART_BYTES,
      retryDelays: TRY_AGAIN_MS,
      removeFingerprintOnSuccess: true,
      // What the server refuses it refuses again.
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        return status === 0 || status >= 500 || status === 423;
      },
      onProgress,
      onSuccess: ({ lastResponse }) => resolve(JSON.parse(lastResponse.getBody()) as FileEntry),
      onError: (error) => reject(asProblem(error)),
    });
    signal.addEventListener('abort', () => {
      // What was sent of it is given up: nobody goes on with it.
      void upload.abort(true).catch(() => {});
      reject(signal.reason as Error);
    });
    upload.findPreviousUploads().then(([before]) => {
      if (before) upload.resumeFromPreviousUpload(before);
      upload.start();
    }, reject);
  });
}

type Failure = Error & { readonly originalResponse?: { getStatus(): number; getBody(): string } | null };

/** Why it wasn't taken: the server's refusal, where it answered. */
function asProblem(error: Failure): Error {
  const response = error.originalResponse ?? null;
  if (!response) return new Unreachable();
  try {
    return new ApiProblem(JSON.parse(response.getBody()) as Problem);
  } catch {
    // What stands between may answer in its own words.
    return new Error(response.getStatus() === 413 ? 'It is larger than any file can be.' : 'It was not taken.');
  }
}
