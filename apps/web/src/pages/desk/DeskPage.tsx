import { type InfiniteData, type UseInfiniteQueryResult, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type { DeskEntry } from '@ypomet/contract';
import { Link } from 'react-router';
import { deskQuery, intakesQuery, submittedQuery } from '../../features/records/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import classes from './DeskPage.module.css';

/** Who is here: a participant. First they want what waits for them; then to begin something, or to see how theirs fares. */
export function DeskPage() {
  const intakes = useQuery(intakesQuery);
  const desk = useInfiniteQuery(deskQuery);
  const submitted = useInfiniteQuery(submittedQuery);
  return (
    <main className={classes.page}>
      <div className={classes.main}>
        <h1>Waiting for you</h1>
        <RecordList
          list={desk}
          empty="Nothing waits for you. What comes to one of your roles appears here by itself."
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
      </aside>
    </main>
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
          {entries.map(({ record, submitter }) => (
            <li key={record.id}>
              <Link to={`/records/${record.id}`} className={classes.row}>
                <span className={`${classes.number} mono`}>{record.number}</span>
                <span className={classes.what}>
                  <strong>{record.workflowName}</strong>
                  {submitter && <span className={classes.soft}> from {submitter}</span>}
                </span>
                <span className={classes.stage}>
                  {record.stageName}
                  {record.unassigned && <span className={classes.unassigned}>unassigned</span>}
                </span>
                <span className={classes.soft}>
                  {formatInstant(time === 'arrived' ? record.arrivedAt : record.createdAt, workspace)}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
    </LoadedPages>
  );
}
