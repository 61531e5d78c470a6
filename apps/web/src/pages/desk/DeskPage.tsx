import { SegmentedControl, TextInput, UnstyledButton } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import {
  type InfiniteData,
  type UseInfiniteQueryResult,
  useInfiniteQuery,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query';
import type { DeskEntry, ResponseOf } from '@ypomet/contract';
import { type ReactNode, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { deskQuery, deskSummaryQuery, intakesQuery, submittedQuery } from '../../features/records/queries.ts';
import { useChanges } from '../../features/records/use-changes.ts';
import { useSession } from '../../features/session/queries.ts';
import { UnfinishedList } from '../../features/unfinished/UnfinishedList.tsx';
import { Due } from '../../shared/Due.tsx';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import classes from './DeskPage.module.css';

/** Who is here: a participant. First they want what waits for them; then to begin something, or to see how theirs fares. */
export function DeskPage() {
  const intakes = useQuery(intakesQuery);
  const [address, setAddress] = useSearchParams();
  const [workflow, stage] = (address.get('at') ?? '').split('/');
  const [typed, setTyped] = useState(address.get('find') ?? '');
  const [find] = useDebouncedValue(typed, 250);
  const sort = address.get('sort') === 'due' ? 'due' : 'arrived';
  const desk = useInfiniteQuery(deskQuery({ sort, find, ...(workflow ? { workflow } : {}), ...(stage ? { stage } : {}) }));
  const summary = useQuery(deskSummaryQuery);
  const groups = summary.data?.groups ?? [];
  const put = (name: string, value: string | null): void =>
    setAddress(
      (before) => {
        if (value === null) before.delete(name);
        else before.set(name, value);
        return before;
      },
      { replace: true },
    );
  const isNarrowed = find !== '' || address.get('at') !== null;
  const submitted = useInfiniteQuery(submittedQuery);
  const client = useQueryClient();
  useChanges({}, () => {
    void client.invalidateQueries({ queryKey: ['desk'] });
    void client.invalidateQueries({ queryKey: ['submitted'] });
  });
  return (
    <main className={classes.page}>
      <div className={classes.main}>
        <h1>Waiting for you</h1>
        {(groups.length > 0 || isNarrowed) && (
          <div className={classes.tools}>
            <TextInput
              size="xs"
              aria-label="Find by number or name"
              placeholder="Find by number or name"
              value={typed}
              onChange={({ currentTarget: { value } }) => setTyped(value)}
              onKeyDown={(event) => event.key === 'Escape' && setTyped('')}
            />
            <SegmentedControl
              size="xs"
              aria-label="In which order"
              data={[
                { value: 'arrived', label: 'longest waiting' },
                { value: 'due', label: 'due first' },
              ]}
              value={sort}
              onChange={(value) => put('sort', value === 'due' ? 'due' : null)}
            />
          </div>
        )}
        <Groups groups={groups} at={address.get('at')} onChoose={(at) => put('at', at)} />
        <RecordList
          list={desk}
          empty={
            isNarrowed
              ? 'Nothing of that waits for you.'
              : 'Nothing waits for you. What comes to one of your roles appears here by itself.'
          }
          time="arrived"
        />
        <h1>What you submitted</h1>
        <RecordList list={submitted} empty="You have submitted nothing yet." time="begun" />
      </div>
      <aside className={classes.aside} aria-label="Begin">
        <h2>Begin</h2>
        <Loaded query={intakes} rows={2}>
          {(found) =>
            found.length === 0 ? (
              <p className={classes.none}>There is nothing you may begin.</p>
            ) : (
              found.map((intake) => (
                <Link
                  key={`${intake.workflow}/${intake.stage}`}
                  to={`/begin/${intake.workflow}/${intake.stage}`}
                  className={classes.intake}
                >
                  <strong>{intake.name}</strong>
                  <span>{intake.description}</span>
                </Link>
              ))
            )
          }
        </Loaded>
        <UnfinishedList />
      </aside>
    </main>
  );
}

type Group = ResponseOf<'deskSummary'>['groups'][number];

/** What waits, by workflow and stage: each a way to see only that. With one group there is nothing to choose. */
function Groups({
  groups,
  at,
  onChoose,
}: {
  readonly groups: readonly Group[];
  readonly at: string | null;
  readonly onChoose: (at: string | null) => void;
}) {
  if (groups.length < 2 && at === null) return null;
  const all = groups.reduce((sum, { waiting }) => sum + waiting, 0);
  const overdue = groups.reduce((sum, one) => sum + one.overdue, 0);
  const chip = (key: string | null, name: string, waiting: number, late: number): ReactNode => (
    <li key={key ?? ''}>
      <UnstyledButton className={classes.chip} aria-pressed={at === key} onClick={() => onChoose(key)}>
        {name} <strong>{waiting}</strong>
        {late > 0 && <span className={classes.late}> ▲ {late} overdue</span>}
      </UnstyledButton>
    </li>
  );
  return (
    <ul className={classes.groups} aria-label="What waits, by stage">
      {chip(null, 'All', all, overdue)}
      {groups.map((one) =>
        chip(`${one.workflow}/${one.stage}`, `${one.workflowName}, ${one.stageName}`, one.waiting, one.overdue),
      )}
    </ul>
  );
}

type Page = { entries: DeskEntry[]; next: string | null };

function RecordList({
  list,
  empty,
  time,
}: {
  readonly list: UseInfiniteQueryResult<InfiniteData<Page>>;
  readonly empty: string;
  readonly time: 'arrived' | 'begun';
}) {
  const { workspace } = useSession();
  return (
    <LoadedPages list={list} empty={<p className={classes.none}>{empty}</p>}>
      {(entries) => (
        <ul className={classes.list}>
          {entries.map(({ record, submitter, isUnread, openedBy }) => (
            <li key={record.id}>
              <Link to={`/records/${record.id}`} className={classes.row} data-unread={isUnread || undefined}>
                <span className={`${classes.number} mono`}>
                  {record.number}
                  {isUnread && (
                    <span className={classes.unread}>
                      <span aria-hidden="true">● </span>
                      {time === 'arrived' ? 'new' : 'changed'}
                    </span>
                  )}
                </span>
                <span className={classes.what}>
                  <strong>{record.workflowName}</strong>
                  {submitter && <span className={classes.soft}> from {submitter}</span>}
                  {time === 'arrived' && openedBy !== null && <span className={classes.opened}>{openedBy} has it open</span>}
                </span>
                <span className={classes.stage}>
                  {record.stageName}
                  {record.unassigned && <span className={classes.unassigned}>unassigned</span>}
                  {time === 'arrived' && record.assigneeName !== null && <span className={classes.mine}>yours</span>}
                </span>
                <span className={classes.soft}>
                  {formatInstant(time === 'arrived' ? record.arrivedAt : record.createdAt, workspace)}
                  {time === 'arrived' && record.due !== null && (
                    <Due due={record.due} isOverdue={record.isOverdue} place={workspace} />
                  )}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
    </LoadedPages>
  );
}
