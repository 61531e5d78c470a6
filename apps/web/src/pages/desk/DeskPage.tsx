import { UnstyledButton } from '@mantine/core';
import {
  type InfiniteData,
  type UseInfiniteQueryResult,
  useInfiniteQuery,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query';
import type { DeskEntry, DeskSettings, ResponseOf } from '@ypomet/contract';
import { dueInstant } from '@ypomet/core';
import type { ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import { DeskTools } from '../../features/desk/DeskTools.tsx';
import { groupByTerm, narrowedTo, readAddress, TERMS, writeAddress } from '../../features/desk/desk-state.ts';
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
  const shown = readAddress(address);
  const show = (next: DeskSettings): void => setAddress(writeAddress(next), { replace: true });
  const desk = useInfiniteQuery(deskQuery(shown));
  const summary = useQuery(deskSummaryQuery);
  const groups = summary.data?.groups ?? [];
  const workflows = new Map(groups.map(({ workflow, workflowName }) => [workflow, workflowName]));
  const isNarrowed = shown.find !== '' || shown.workflow !== null;
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
          <DeskTools shown={shown} onShow={show} workflows={[...workflows].map(([key, name]) => ({ key, name }))} />
        )}
        <Groups groups={groups} shown={shown} onShow={show} />
        <RecordList
          list={desk}
          empty={
            isNarrowed
              ? 'Nothing of that waits for you.'
              : 'Nothing waits for you. What comes to one of your roles appears here by itself.'
          }
          time="arrived"
          isByTerm={shown.sort === 'due'}
        />
        <h2>What you submitted</h2>
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
  shown,
  onShow,
}: {
  readonly groups: readonly Group[];
  readonly shown: DeskSettings;
  readonly onShow: (shown: DeskSettings) => void;
}) {
  if (groups.length < 2 && shown.workflow === null) return null;
  const all = groups.reduce((sum, { waiting }) => sum + waiting, 0);
  const overdue = groups.reduce((sum, one) => sum + one.overdue, 0);
  const chip = (workflow: string | null, stage: string | null, name: string, waiting: number, late: number): ReactNode => (
    <li key={`${workflow}/${stage}`}>
      <UnstyledButton
        className={classes.chip}
        aria-pressed={shown.workflow === workflow && shown.stage === stage}
        onClick={() => onShow(narrowedTo(shown, workflow, stage))}
      >
        {name} <strong>{waiting}</strong>
        {late > 0 && <span className={classes.late}> ▲ {late} overdue</span>}
      </UnstyledButton>
    </li>
  );
  return (
    <ul className={classes.groups} aria-label="What waits, by stage">
      {chip(null, null, 'All', all, overdue)}
      {shown.workflow !== null && shown.stage === null && chip(shown.workflow, null, ...ofWorkflow(groups, shown.workflow))}
      {groups.map((one) => chip(one.workflow, one.stage, `${one.workflowName}, ${one.stageName}`, one.waiting, one.overdue))}
    </ul>
  );
}

/** What waits of a workflow at all its stages: its name, how much, and how much of that is overdue. */
function ofWorkflow(groups: readonly Group[], workflow: string): [name: string, waiting: number, overdue: number] {
  const own = groups.filter((one) => one.workflow === workflow);
  const sum = (part: 'waiting' | 'overdue'): number => own.reduce((total, one) => total + one[part], 0);
  return [own[0]?.workflowName ?? workflow, sum('waiting'), sum('overdue')];
}

type Page = { entries: DeskEntry[]; next: string | null };

function RecordList({
  list,
  empty,
  time,
  isByTerm = false,
}: {
  readonly list: UseInfiniteQueryResult<InfiniteData<Page>>;
  readonly empty: string;
  readonly time: 'arrived' | 'begun';
  /** Under headings that say when they are due; they come in that order. */
  readonly isByTerm?: boolean;
}) {
  const { workspace } = useSession();
  return (
    <LoadedPages list={list} empty={<p className={classes.none}>{empty}</p>}>
      {(entries) => {
        if (!isByTerm) return <Rows entries={entries} time={time} />;
        const now = Date.now();
        const terms = groupByTerm(entries, ({ record: { due } }) => (due === null ? null : dueInstant(due, workspace.zone)), now);
        return (
          <>
            {terms.map(({ term, own }) => (
              <section key={term} aria-label={TERMS[term]}>
                <h3 className={classes.term}>{TERMS[term]}</h3>
                <Rows entries={own} time={time} />
              </section>
            ))}
          </>
        );
      }}
    </LoadedPages>
  );
}

function Rows({ entries, time }: { readonly entries: readonly DeskEntry[]; readonly time: 'arrived' | 'begun' }) {
  return (
    <ul className={classes.list}>
      {entries.map((entry) => (
        <Row key={entry.record.id} entry={entry} time={time} />
      ))}
    </ul>
  );
}

function Row({ entry, time }: { readonly entry: DeskEntry; readonly time: 'arrived' | 'begun' }) {
  const { workspace } = useSession();
  const { record, about, submitter, isUnread, openedBy } = entry;
  const isWaiting = time === 'arrived';
  return (
    <li>
      <Link to={`/records/${record.id}`} className={classes.row} data-unread={isUnread || undefined}>
        <span className={`${classes.number} mono`}>
          {record.number}
          {isUnread && (
            <span className={classes.unread}>
              <span aria-hidden="true">● </span>
              {isWaiting ? 'new' : 'changed'}
            </span>
          )}
        </span>
        <span className={classes.what}>
          <strong>{record.workflowName}</strong>
          {submitter && <span className={classes.soft}> from {submitter}</span>}
          {about !== '' && <span className={classes.about}>{about}</span>}
          {isWaiting && openedBy !== null && <span className={classes.opened}>{openedBy} has it open</span>}
        </span>
        <span className={classes.stage}>
          {record.stageName}
          {record.unassigned && <span className={classes.unassigned}>unassigned</span>}
          {isWaiting && record.assigneeName !== null && <span className={classes.mine}>yours</span>}
        </span>
        <span className={classes.soft}>
          {formatInstant(isWaiting ? record.arrivedAt : record.createdAt, workspace)}
          {isWaiting && record.due !== null && <Due due={record.due} isOverdue={record.isOverdue} place={workspace} />}
        </span>
      </Link>
    </li>
  );
}
