import { Button, Progress } from '@mantine/core';
import type { ReactNode } from 'react';
import { Notice } from './Notice.tsx';
import { problemText } from './problems.ts';
import classes from './RunOutcome.module.css';
import type { RunState } from './use-in-parts.ts';

/** What is told of one of many: where it goes, and of a trial what would follow. */
type Told = { readonly stageName: string | null; readonly wouldSend: number; readonly wouldOpen: number };

type Props<T extends Told> = {
  readonly state: RunState<T>;
  /** Those that go, or would. */
  readonly fit: readonly T[];
  /** What came of it, once it is over. */
  readonly said: string;
  readonly words: {
    /** Of so many what was done with them: "tried out". */
    readonly done: string;
    /** What becomes of those that were done when it was cancelled. */
    readonly stays: string;
    /** That going on does nothing a second time. */
    readonly once: string;
  };
  readonly onCancel: () => void;
  /** More facts, as items of their list. */
  readonly facts?: ReactNode;
  readonly children?: ReactNode;
};

/** What comes of many, done one after another or tried out: how far it is, where they go, what follows, and what else is to be said. */
export function RunOutcome<T extends Told>({ state, fit, said, words, onCancel, facts, children }: Props<T>) {
  const { told, isTrial, of, status, error } = state;
  const stages = new Map<string, number>();
  for (const { stageName } of fit) stages.set(stageName ?? '', (stages.get(stageName ?? '') ?? 0) + 1);
  const sends = isTrial ? fit.reduce((sum, { wouldSend }) => sum + wouldSend, 0) : 0;
  const opens = isTrial ? fit.reduce((sum, { wouldOpen }) => sum + wouldOpen, 0) : 0;
  return (
    <section aria-label="What comes of it" className={classes.outcome}>
      {status === 'running' && (
        <div className={classes.progress}>
          <Progress value={(told.length / Math.max(1, of)) * 100} aria-label="How far it is" />
          <span>
            {told.length} of {of} {words.done}
          </span>
          <Button size="compact-sm" variant="default" onClick={onCancel}>
            Cancel
          </Button>
        </div>
      )}
      <p role="status" className={classes.said}>
        {status === 'running' ? '' : said}
      </p>
      {status === 'cancelled' && (
        <Notice tone="caution" title="It was cancelled">
          {isTrial ? 'The rest wasn’t tried out.' : `${words.stays}; ${of - told.length} are left. ${words.once}.`}
        </Notice>
      )}
      {status === 'stopped' && error && (
        <Notice tone="fault" title="It stopped">
          {problemText(error)} {told.length} of {of} are done. {words.once}.
        </Notice>
      )}
      <ul className={classes.facts}>
        {[...stages].map(([stage, count]) => (
          <li key={stage}>
            <strong>{count}</strong> {isTrial ? 'would go' : 'went'} to {stage}
          </li>
        ))}
        {sends > 0 && (
          <li>
            <strong>{sends}</strong> {sends === 1 ? 'delivery' : 'deliveries'} would be sent
          </li>
        )}
        {opens > 0 && (
          <li>
            <strong>{opens}</strong> {opens === 1 ? 'record' : 'records'} would be opened elsewhere
          </li>
        )}
        {facts}
      </ul>
      {children}
    </section>
  );
}
