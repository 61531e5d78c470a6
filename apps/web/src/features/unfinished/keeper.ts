import type { BodyInput } from '@ypomet/contract';
import { callApi } from '../../shared/api.ts';
import { ApiProblem, problemText } from '../../shared/problems.ts';
import { type Content, isNothing, mergeContents } from './content.ts';
import { writeLocalCopy } from './local-copy.ts';

/** Where what was entered is: nowhere, on its way, on the server, or in this browser alone and why. */
export type Keeping =
  | { readonly status: 'nothing' }
  | { readonly status: 'keeping' }
  | { readonly status: 'kept' }
  | { readonly status: 'here'; readonly why: string };

/** What is entered is sent once nothing was for so long; after a failure again, later each time. */
const REST_MS = 1000;
const AGAIN_MS = [3000, 10_000, 30_000] as const;

export type Watcher = {
  readonly onKeeping: (keeping: Keeping) => void;
  /** Another window of the same person had entered something too. */
  readonly onMerged: (content: Content) => void;
};

/**
 * Keeps what somebody enters in a form: in this browser at once, on the server a moment later, and there alone from then on.
 * While the server can't be reached it tries again; refusals wait for the next change.
 */
export class UnfinishedKeeper {
  private pending: Content | null = null;
  private sending: Promise<void> | null = null;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private failures = 0;
  private isOver = false;

  constructor(
    private readonly member: string,
    private readonly place: string,
    private revision: number,
    private readonly watcher: Watcher,
  ) {}

  /** Keeps what is entered now. */
  put(content: Content): void {
    this.pending = content;
    writeLocalCopy(this.member, this.place, { content, revision: this.revision });
    this.tell({ status: 'keeping' });
    this.failures = 0;
    this.after(REST_MS);
  }

  /** Sends at once what waits: the page is left, or the server can be reached again. */
  flush(): Promise<void> {
    this.stopTimer();
    this.sending ??= this.send().finally(() => {
      this.sending = null;
    });
    return this.sending;
  }

  /** It was handed on, or given up: nothing of it is kept anywhere. Rejects when the server can't be told. */
  async forget(): Promise<void> {
    this.pending = null;
    await this.sending;
    // What couldn't be sent waits again by now: it is forgotten too.
    this.pending = null;
    this.stopTimer();
    writeLocalCopy(this.member, this.place, null);
    this.revision = 0;
    this.tell({ status: 'nothing' });
    await callApi('forgetUnfinishedForm', { params: { place: this.place } });
  }

  /** The form is left: what waits is sent, and nothing is told any more. Resolves once that is over. */
  async end(): Promise<void> {
    this.isOver = true;
    if (this.pending || this.sending) await this.flush();
  }

  private async send(): Promise<void> {
    while (this.pending) {
      const content = this.pending;
      this.pending = null;
      try {
        await this.store(content);
        this.failures = 0;
        const pending = this.waiting();
        if (pending) {
          writeLocalCopy(this.member, this.place, { content: pending, revision: this.revision });
          continue;
        }
        writeLocalCopy(this.member, this.place, null);
        this.tell({ status: isNothing(content) ? 'nothing' : 'kept' });
      } catch (error) {
        if (!(error instanceof Error)) throw error;
        this.pending ??= content;
        if (isBehind(error) && (await this.catchUp())) continue;
        this.tell({ status: 'here', why: problemText(error) });
        this.tryAgain(error);
        return;
      }
    }
  }

  /** What was entered while something was sent. */
  private waiting(): Content | null {
    return this.pending;
  }

  private async store(content: Content): Promise<void> {
    const params = { place: this.place };
    if (isNothing(content)) {
      await callApi('forgetUnfinishedForm', { params });
      this.revision = 0;
    } else {
      const body = content as BodyInput<'keepUnfinishedForm'>;
      this.revision = (await callApi('keepUnfinishedForm', { params, body, revision: this.revision })).revision;
    }
  }

  /** Takes what another window kept under what is entered here. */
  private async catchUp(): Promise<boolean> {
    try {
      const { revision, entered, base } = await callApi('unfinishedForm', { params: { place: this.place } });
      this.revision = revision;
      if (!this.pending) return true;
      this.pending = mergeContents(this.pending, { entered, base } as Content);
      writeLocalCopy(this.member, this.place, { content: this.pending, revision });
      if (!this.isOver) this.watcher.onMerged(this.pending);
      return true;
    } catch (error) {
      if (error instanceof Error) return false;
      throw error;
    }
  }

  private tryAgain(error: Error): void {
    const wait = AGAIN_MS[Math.min(this.failures, AGAIN_MS.length - 1)] ?? REST_MS;
    this.failures += 1;
    // A refusal is final until something else is entered; the server's own faults pass.
    const isFinal = error instanceof ApiProblem && error.problem.status < 500 && error.problem.status !== 429;
    if (!isFinal && !this.isOver) this.after(wait);
  }

  private after(ms: number): void {
    this.stopTimer();
    this.timer = setTimeout(() => void this.flush(), ms);
  }

  private stopTimer(): void {
    if (this.timer !== null) clearTimeout(this.timer);
    this.timer = null;
  }

  private tell(keeping: Keeping): void {
    if (!this.isOver) this.watcher.onKeeping(keeping);
  }
}

const isBehind = (error: Error): boolean => error instanceof ApiProblem && error.problem.code === 'revision/stale';
