import type { ReactNode } from 'react';
import classes from './Notice.module.css';

export type NoticeTone = 'fault' | 'caution' | 'calm';

/** A boxed message: what, where and how to mend it. Faults are announced. */
export function Notice({
  tone,
  title,
  children,
}: {
  readonly tone: NoticeTone;
  readonly title?: string;
  readonly children?: ReactNode;
}) {
  return (
    <div className={classes.notice} data-tone={tone} role={tone === 'fault' ? 'alert' : 'note'}>
      {title && <strong>{title}</strong>}
      {children && <div>{children}</div>}
    </div>
  );
}
