import { Button, Select, TextInput, UnstyledButton } from '@mantine/core';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type { DeliveryDocument, DeliveryEntry, SentContent } from '@ypomet/contract';
import { describeDeliveryFault } from '@ypomet/contract';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { outletsQuery } from '../../features/consequences/queries.ts';
import { deliveriesQuery, deliveryQuery, type LogFilter, useRetry, waitingQuery } from '../../features/dispatch/queries.ts';
import { SettleDialog } from '../../features/dispatch/SettleDialog.tsx';
import { workflowsQuery } from '../../features/drafts/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import { RichTextView } from '../../shared/RichTextView.tsx';
import classes from './Dispatch.module.css';
import { DispatchNav } from './DispatchNav.tsx';

const STATUS: Readonly<Record<DeliveryEntry['status'], string>> = {
  queued: 'on its way',
  sent: 'sent',
  waiting: 'waits for a person',
  unconfirmed: 'waits for its receiver to confirm the address',
  'put-away': 'put away',
};
const FILTERS = ['status', 'outlet', 'workflow', 'record', 'from', 'to'] as const;

/** Who is here: the analyst, asking whether something was sent, to whom, and if not, why. */
export function DispatchPage() {
  const [address, setAddress] = useSearchParams();
  const filter = Object.fromEntries(
    FILTERS.flatMap((name) => (address.get(name) ? [[name, address.get(name)]] : [])),
  ) as LogFilter;
  const list = useInfiniteQuery(deliveriesQuery(filter));
  const [opened, setOpened] = useState<string | null>(null);
  const set = (name: (typeof FILTERS)[number], value: string | null): void =>
    setAddress(
      (before) => {
        const next = new URLSearchParams(before);
        if (value) next.set(name, value);
        else next.delete(name);
        return next;
      },
      { replace: true },
    );
  const isNarrowed = Object.keys(filter).length > 0;
  return (
    <main className={classes.page}>
      <DispatchNav />
      <h1>Dispatch log</h1>
      <StandingStill />
      <Filters filter={filter} onSet={set} />
      <LoadedPages
        list={list}
        rows={8}
        empty={
          <p className={classes.none}>
            {isNarrowed
              ? 'Nothing was sent that fits. Take a filter away.'
              : 'Nothing has been sent yet. Deliveries of hand-offs appear here.'}
          </p>
        }
      >
        {(entries) => (
          <>
            <RetryShown entries={entries} outlet={filter.outlet} />
            <table className={classes.table}>
              <thead>
                <tr>
                  <th scope="col">Delivery</th>
                  <th scope="col">To</th>
                  <th scope="col">Record</th>
                  <th scope="col">Queued</th>
                  <th scope="col">State</th>
                </tr>
              </thead>
              <tbody>
                {entries.map((entry) => (
                  <Entry
                    key={entry.id}
                    entry={entry}
                    isOpen={opened === entry.id}
                    onOpen={() => setOpened(opened === entry.id ? null : entry.id)}
                  />
                ))}
              </tbody>
            </table>
          </>
        )}
      </LoadedPages>
    </main>
  );
}

/** Outlets whose deliveries are due and don't move, with what can be done about it. */
function StandingStill() {
  const { data } = useQuery(waitingQuery);
  if (!data || data.standing.length === 0) return null;
  return (
    <Notice tone="fault" title="What is queued doesn’t move">
      {data.standing.map(({ outlet, dueSeconds }) => (
        <div key={outlet ?? ''}>
          {outlet === null ? 'Follow-ups that are to be opened' : `Deliveries by ${outlet}`}: due for{' '}
          {Math.max(2, Math.round(dueSeconds / 60))} minutes.
        </div>
      ))}
      Nothing is lost. If it stays so, tell whoever runs the server: restarting it takes up what is queued.
    </Notice>
  );
}

function Filters({
  filter,
  onSet,
}: {
  readonly filter: LogFilter;
  readonly onSet: (name: (typeof FILTERS)[number], value: string | null) => void;
}) {
  const outlets = useQuery(outletsQuery);
  const workflows = useQuery(workflowsQuery);
  return (
    <div className={classes.filters} role="search" aria-label="Narrow the log">
      <Select
        size="xs"
        aria-label="State"
        placeholder="any state"
        clearable
        data={Object.entries(STATUS).map(([value, label]) => ({ value, label }))}
        value={filter.status ?? null}
        onChange={(value) => onSet('status', value)}
      />
      <Select
        size="xs"
        aria-label="Outlet"
        placeholder="any outlet"
        clearable
        data={(outlets.data ?? []).map(({ key, name }) => ({ value: key, label: name }))}
        value={filter.outlet ?? null}
        onChange={(value) => onSet('outlet', value)}
      />
      <Select
        size="xs"
        aria-label="Workflow"
        placeholder="any workflow"
        clearable
        data={(workflows.data ?? []).map(({ key, name }) => ({ value: key, label: name }))}
        value={filter.workflow ?? null}
        onChange={(value) => onSet('workflow', value)}
      />
      <TextInput
        size="xs"
        aria-label="Record"
        placeholder="number of a record"
        key={filter.record ?? ''}
        defaultValue={filter.record ?? ''}
        onBlur={(event) => onSet('record', event.currentTarget.value.trim())}
        onKeyDown={(event) => event.key === 'Enter' && onSet('record', event.currentTarget.value.trim())}
      />
      <TextInput
        size="xs"
        type="date"
        aria-label="From"
        value={filter.from ?? ''}
        onChange={(event) => onSet('from', event.currentTarget.value)}
      />
      <TextInput
        size="xs"
        type="date"
        aria-label="Until"
        value={filter.to ?? ''}
        onChange={(event) => onSet('to', event.currentTarget.value)}
      />
    </div>
  );
}

/** Several at once: those that are shown and wait, or all that wait at the outlet. */
function RetryShown({ entries, outlet }: { readonly entries: readonly DeliveryEntry[]; readonly outlet: string | undefined }) {
  const retry = useRetry();
  const waiting = entries.filter(({ status }) => status === 'waiting');
  if (waiting.length === 0) return null;
  return (
    <p className={classes.retry}>
      {waiting.length > 1 && (
        <Button
          size="compact-sm"
          variant="default"
          loading={retry.isPending}
          onClick={() => retry.mutate({ ids: waiting.map(({ id }) => id).slice(0, 500) })}
        >
          Try the {waiting.length} shown again
        </Button>
      )}{' '}
      {outlet && (
        <Button size="compact-sm" variant="default" loading={retry.isPending} onClick={() => retry.mutate({ outlet })}>
          Try all of this outlet again
        </Button>
      )}
      {retry.error && (
        <span role="alert" className={classes.fault}>
          {problemText(retry.error)}
        </span>
      )}
    </p>
  );
}

function Entry({
  entry,
  isOpen,
  onOpen,
}: {
  readonly entry: DeliveryEntry;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
}) {
  const retry = useRetry();
  const { workspace } = useSession();
  const [isSettling, setSettling] = useState(false);
  return (
    <>
      <tr>
        <td>
          <UnstyledButton className={classes.open} aria-expanded={isOpen} onClick={onOpen}>
            <strong>{entry.name}</strong>
          </UnstyledButton>
          <div className={classes.soft}>{entry.subject}</div>
        </td>
        <td>
          {entry.kind === 'mail'
            ? entry.recipients.join(', ') || (
                <span className={classes.soft}>{entry.hidesReceivers ? 'for its readers to know' : 'nobody'}</span>
              )
            : entry.outlet}
        </td>
        <td className="mono">
          <Link to={`/records/${entry.recordId}`}>{entry.recordNumber}</Link>
        </td>
        <td className={classes.soft}>{formatInstant(entry.createdAt, workspace)}</td>
        <td>
          <span className={classes.status} data-status={entry.status}>
            {STATUS[entry.status]}
          </span>
          {entry.fault && <div className={classes.fault}>{describeDeliveryFault(entry.fault)}</div>}
          {entry.status === 'queued' && entry.nextAt && (
            <div className={classes.soft}>again at {formatInstant(entry.nextAt, workspace)}</div>
          )}
          {(entry.status === 'waiting' || entry.status === 'unconfirmed') && (
            <div className={classes.ways}>
              <Button
                size="compact-sm"
                variant="default"
                loading={retry.isPending}
                onClick={() => retry.mutate({ ids: [entry.id] })}
              >
                Try again
              </Button>
              <Button size="compact-sm" variant="default" onClick={() => setSettling(true)}>
                Put right or put away
              </Button>
            </div>
          )}
          {isSettling && <SettleDialog id={entry.id} onClose={() => setSettling(false)} />}
        </td>
      </tr>
      {isOpen && (
        <tr className={classes.detail}>
          <td colSpan={5}>
            <Detail id={entry.id} />
          </td>
        </tr>
      )}
    </>
  );
}

function Detail({ id }: { readonly id: string }) {
  const query = useQuery(deliveryQuery(id));
  return <Loaded query={query}>{(delivery) => <Whole delivery={delivery} />}</Loaded>;
}

/** Each attempt with what came of it, and what was sent for those who may read it. */
function Whole({ delivery }: { readonly delivery: DeliveryDocument }) {
  const { workspace } = useSession();
  return (
    <div className={classes.whole}>
      <section aria-label="Attempts">
        <h2>{delivery.tried.length === 0 ? 'Not tried yet' : 'Attempts'}</h2>
        <ol className={classes.attempts}>
          {delivery.tried.map((attempt) => (
            <li key={attempt.at}>
              <span className={classes.soft}>{formatInstant(attempt.at, workspace)}</span>{' '}
              {attempt.isSent ? 'sent' : attempt.fault ? describeDeliveryFault(attempt.fault) : 'not sent'}
              <span className={classes.soft}> in {attempt.durationMs} ms</span>
              {attempt.answer !== '' && <pre className={`${classes.answer} mono`}>{attempt.answer}</pre>}
              {attempt.issues.map((issue) => (
                <p key={issue.path} className={classes.fault}>
                  Nothing was taken from the answer: {issue.message}
                </p>
              ))}
            </li>
          ))}
        </ol>
      </section>
      <section aria-label="What was sent">
        <h2>What was sent</h2>
        {delivery.content ? (
          <Content content={delivery.content} />
        ) : (
          <p className={classes.soft}>Only those who may read all that is in the record can read it here.</p>
        )}
      </section>
    </div>
  );
}

function Content({ content }: { readonly content: SentContent }) {
  switch (content.kind) {
    case 'mail':
      return (
        <>
          <p className={classes.soft}>
            To {content.to.join(', ')}
            {content.cc.length > 0 && `, copies to ${content.cc.join(', ')}`}
            {content.bcc.length > 0 && `, blind copies to ${content.bcc.join(', ')}`}
            {content.attachments.length > 0 && ` · with ${content.attachments.join(', ')}`}
          </p>
          <RichTextView text={content.text} />
        </>
      );
    case 'web':
      return (
        <pre className={`${classes.answer} mono`}>
          {[
            `${content.method} ${content.address}`,
            ...content.headers.map(({ name, value }) => `${name}: ${value}`),
            '',
            content.body,
          ].join('\n')}
        </pre>
      );
    case 'file':
      return (
        <pre
          className={`${classes.answer} mono`}
        >{`${content.folder}/${content.fileName} (${content.format})\n\n${content.text}`}</pre>
      );
    default:
      return content satisfies never;
  }
}
