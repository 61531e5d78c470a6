import { UnstyledButton } from '@mantine/core';
import type { RecordDocument } from '@ypomet/contract';
import { describeEvent } from '@ypomet/core';
import { lazy, type ReactNode, Suspense, useState } from 'react';
import { MiniMap } from '../../features/map/MiniMap.tsx';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { RichTextView } from '../../shared/RichTextView.tsx';
import classes from './RecordPage.module.css';
import { RelatedRecords } from './RelatedRecords.tsx';

/** Few records have anything that waits: loaded when it is asked for. */
const SettleDialog = lazy(() =>
  import('../../features/dispatch/SettleDialog.tsx').then((module) => ({ default: module.SettleDialog })),
);

const MAP_WIDTH = 260;
const NOT_SENT = {
  queued: 'on its way',
  waiting: 'not sent yet: somebody is to look at it',
  unconfirmed: 'waits until the receiver confirms the address',
  'put-away': 'put away, not sent',
} as const;

/** Where a record is and was, what it has to do with others, and what happened to it. */
export function RecordAside({ document, children }: { readonly document: RecordDocument; readonly children?: ReactNode }) {
  const { record, history, route, openedBy, opened, opening, sent } = document;
  const next = route.stages.find(({ key }) => key === route.next);
  const { workspace } = useSession();
  const [settling, setSettling] = useState<string | null>(null);
  return (
    <aside className={classes.aside} aria-label="History">
      <h2>Where it is</h2>
      <MiniMap
        workflow={{ tracks: route.tracks, stages: route.stages.map((stage) => ({ ...stage, kind: stage.kind as 'work' })) }}
        width={MAP_WIDTH}
        path={route.path}
        label={`At ${record.stageName}, after ${route.path.length - 1} hand-offs`}
      />
      <p className={classes.soft}>
        At <strong>{record.stageName}</strong>
        {next ? `. After that it goes to ${next.name}.` : '.'}
      </p>
      {openedBy && <RelatedRecords title="Opened by" records={[openedBy]} />}
      {opened.length + opening > 0 && <RelatedRecords title="Opened from here" records={opened} opening={opening} />}
      <h2>So far</h2>
      <ol className={classes.history}>
        {history.map((entry) => (
          <li key={entry.id}>
            {describeEvent(entry)}
            {entry.told && (
              <div className={classes.told}>
                <RichTextView text={entry.told} />
              </div>
            )}
            <span className={classes.soft}>{formatInstant(entry.at, workspace)}</span>
          </li>
        ))}
      </ol>
      {sent.length > 0 && (
        <>
          <h2>Sent</h2>
          <ul className={classes.related}>
            {sent.map((one) => (
              <li key={one.id}>
                {one.what}
                <span className={classes.soft}>
                  {one.to.length > 0 && `to ${one.to.join(', ')} · `}
                  {one.status === 'sent' ? formatInstant(one.at, workspace) : NOT_SENT[one.status]}
                </span>
                {one.maySettle && (
                  <UnstyledButton className={classes.print} onClick={() => setSettling(one.id)}>
                    Put it right, or put it away
                  </UnstyledButton>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {settling !== null && (
        <Suspense>
          <SettleDialog id={settling} onClose={() => setSettling(null)} />
        </Suspense>
      )}
      <p className={classes.ways}>
        {children}
        <UnstyledButton className={classes.print} onClick={() => window.print()}>
          Print
        </UnstyledButton>
      </p>
    </aside>
  );
}
