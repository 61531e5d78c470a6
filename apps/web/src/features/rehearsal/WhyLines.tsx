import type { Reason } from '@ypomet/core';
import type { ReactNode } from 'react';
import { Mark } from '../conditions/Mark.tsx';
import { ExplainedCondition } from './ExplainedCondition.tsx';
import classes from './WhyPanel.module.css';

/** Reasons that are there for whoever asks. */
export function Folded({
  count,
  what,
  children,
}: {
  readonly count: number;
  readonly what: string;
  readonly children: ReactNode;
}) {
  if (count === 0) return null;
  return (
    <details className={classes.folded}>
      <summary>
        {count} {what}
      </summary>
      {children}
    </details>
  );
}

/** What was decided, with the condition that decided it as it stood. */
export function Line({
  reason,
  isMuted = false,
  children,
}: {
  readonly reason: Reason;
  readonly isMuted?: boolean;
  readonly children: ReactNode;
}) {
  return (
    <div className={classes.line} data-muted={isMuted || undefined}>
      <Mark truth={reason.truth} />
      <div>
        <div>{children}</div>
        {reason.explanation && <ExplainedCondition explanation={reason.explanation} />}
      </div>
    </div>
  );
}
