import { Button } from '@mantine/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import type { DeliveryEntry } from '@ypomet/contract';
import { describeDeliveryFault } from '@ypomet/contract';
import { Link } from 'react-router';
import { deliveriesQuery, useRetryDelivery } from '../../features/dispatch/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import classes from './Dispatch.module.css';

const STATUS: Readonly<Record<DeliveryEntry['status'], string>> = {
  queued: 'on its way',
  sent: 'sent',
  waiting: 'waits for a person',
};

/** Who is here: the analyst, asking whether something was sent, to whom, and if not, why. */
export function DispatchPage() {
  const list = useInfiniteQuery(deliveriesQuery);
  const retry = useRetryDelivery();
  const { workspace } = useSession();
  return (
    <main className={classes.page}>
      <h1>Dispatch log</h1>
      <LoadedPages
        list={list}
        rows={8}
        empty={<p className={classes.none}>Nothing has been sent yet. Deliveries of hand-offs appear here.</p>}
      >
        {(entries) => (
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
                <tr key={entry.id}>
                  <td>
                    <strong>{entry.name}</strong>
                    <div className={classes.soft}>{entry.subject}</div>
                  </td>
                  <td>{entry.recipients.join(', ') || <span className={classes.soft}>nobody</span>}</td>
                  <td className="mono">
                    <Link to={`/records/${entry.recordId}`}>{entry.recordNumber}</Link>
                  </td>
                  <td className={classes.soft}>{formatInstant(entry.createdAt, workspace)}</td>
                  <td>
                    <span className={classes.status} data-status={entry.status}>
                      {STATUS[entry.status]}
                    </span>
                    {entry.fault && <div className={classes.fault}>{describeDeliveryFault(entry.fault)}</div>}
                    {entry.status === 'waiting' && (
                      <Button
                        size="compact-sm"
                        variant="default"
                        loading={retry.isPending}
                        onClick={() => retry.mutate(entry.id)}
                      >
                        Try again
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </LoadedPages>
    </main>
  );
}
