/** How often a part is sent when its answer is lost, and how long is waited before. */
const TRIES = 3;
const PAUSE_MS = 1500;

/** Sends parts one after another, telling of each; stops where one fails or it is cancelled, with what came before. */
export async function runInParts<Part, Told>(
  parts: readonly Part[],
  send: (part: Part, signal: AbortSignal) => Promise<Told>,
  onPart: (told: Told) => void,
  signal: AbortSignal,
): Promise<void> {
  for (const part of parts) {
    if (signal.aborted) return;
    onPart(await sendAgain(() => send(part, signal), signal));
  }
}

/** Sends what the server does once however often it comes: again when the answer is lost, too much was asked, or it had a fault. */
async function sendAgain<T>(send: () => Promise<T>, signal: AbortSignal): Promise<T> {
  for (let tried = 1; ; tried++) {
    try {
      return await send();
    } catch (error) {
      if (tried >= TRIES || signal.aborted || !isPassing(error)) throw error;
      await new Promise((resolve) => setTimeout(resolve, PAUSE_MS * tried));
    }
  }
}

const isPassing = (error: unknown): boolean => {
  const status = (error as { problem?: { status?: number } }).problem?.status;
  return status === undefined || status === 429 || status >= 500;
};

/** A list in parts of at most so many. */
export const inPartsOf = <T>(list: readonly T[], most: number): readonly (readonly T[])[] =>
  Array.from({ length: Math.ceil(list.length / most) }, (_, index) => list.slice(index * most, (index + 1) * most));
