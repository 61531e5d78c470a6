import { Select } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { ReceiverMode } from '@ypomet/contract';
import { receiverQuery, useSetReceiver } from '../../features/dispatch/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import classes from './Dispatch.module.css';
import { DispatchNav } from './DispatchNav.tsx';

const MODES: readonly { readonly value: ReceiverMode; readonly label: string }[] = [
  { value: 'answers', label: 'answers' },
  { value: 'slow', label: 'answers after three seconds' },
  { value: 'hangs', label: 'never answers' },
  { value: 'breaks', label: 'breaks the connection' },
  { value: 'error', label: 'answers an error' },
  { value: 'no-json', label: 'answers something that is no JSON' },
  { value: 'twice', label: 'answers twice' },
];

/** Who is here: the analyst, seeing what a web endpoint would have got, and trying what happens when one fails. */
export function ReceiverPage() {
  const query = useQuery(receiverQuery);
  const set = useSetReceiver();
  const { workspace } = useSession();
  return (
    <main className={classes.page}>
      <DispatchNav />
      <h1>Simulated web receiver</h1>
      <Loaded query={query} rows={6}>
        {({ mode, address, entries }) => (
          <>
            <p className={classes.none}>
              It listens at <span className="mono">{address}</span>, gives quotes at <span className="mono">/quotes</span>, and
              takes in whatever else it is sent. Its OpenAPI document is at <span className="mono">/openapi.json</span>.
            </p>
            <div className={classes.filters}>
              <Select
                size="xs"
                label="From now on it"
                data={[...MODES]}
                value={mode}
                allowDeselect={false}
                onChange={(next) => next && set.mutate(next as ReceiverMode)}
              />
            </div>
            {entries.length === 0 && <p className={classes.none}>Nothing has come in yet.</p>}
            <ul className={classes.mails}>
              {entries.map((entry) => (
                <li key={entry.id} className={classes.request}>
                  <details>
                    <summary>
                      <span className="mono">
                        {entry.method} {entry.path}
                      </span>{' '}
                      <span className={classes.soft}>
                        {formatInstant(entry.at, workspace)} ·{' '}
                        {entry.status === null ? 'not answered' : `answered ${entry.status}`}
                        {entry.isRepeat && ' · a repeat, known by its key'}
                      </span>
                    </summary>
                    <pre className={`${classes.answer} mono`}>
                      {[...entry.headers.map(({ name, value }) => `${name}: ${value}`), '', entry.body].join('\n')}
                    </pre>
                    {entry.answer !== '' && <pre className={`${classes.answer} mono`}>{entry.answer}</pre>}
                  </details>
                </li>
              ))}
            </ul>
          </>
        )}
      </Loaded>
    </main>
  );
}
