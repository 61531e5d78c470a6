import type { RelatedRecord } from '@ypomet/contract';
import { Link } from 'react-router';
import classes from './RecordPage.module.css';

/** Other records that this one has to do with: which they are, and how far. */
export function RelatedRecords({
  title,
  records,
  opening = 0,
}: {
  readonly title: string;
  readonly records: readonly RelatedRecord[];
  /** How many further records are being opened. */
  readonly opening?: number;
}) {
  const done = records.filter(({ isDone }) => isDone).length;
  return (
    <section aria-label={title}>
      <h2>
        {title}
        {records.length > 1 && <span className={classes.soft}> {`${done} of ${records.length} done`}</span>}
      </h2>
      <ul className={classes.related}>
        {records.map((record) => (
          <li key={record.id} data-done={record.isDone || undefined}>
            <Link to={`/records/${record.id}`}>
              {record.workflowName} <span className="mono">{record.number}</span>
            </Link>
            <span className={classes.soft}>
              {record.isIncomplete ? `waits at ${record.stageName}: something is missing` : `at ${record.stageName}`}
            </span>
          </li>
        ))}
      </ul>
      {opening > 0 && (
        <p role="status">
          {opening === 1 ? 'One more is being opened' : `${opening} more are being opened`}: they follow without you waiting here.
        </p>
      )}
    </section>
  );
}
