import { Button, Group } from '@mantine/core';
import type { HandOffResponse } from '@ypomet/contract';
import { useEffect, useRef } from 'react';
import { Link } from 'react-router';
import { RichTextView } from '../../shared/RichTextView.tsx';
import classes from './RecordPage.module.css';
import { RelatedRecords } from './RelatedRecords.tsx';

/** What the submitter reads after a hand-off. */
export function Acknowledgement({ done }: { readonly done: HandOffResponse }) {
  const heading = useRef<HTMLHeadingElement>(null);
  // The pressed button no longer exists, so focus the heading: keyboard and screen reader users continue there.
  useEffect(() => heading.current?.focus(), []);
  return (
    <main className={classes.acknowledgement}>
      <p className={`${classes.number} mono`}>{done.record.number}</p>
      <h1 ref={heading} tabIndex={-1}>
        Handed on
      </h1>
      {done.acknowledgement && (
        <div className={classes.answer} role="status">
          <RichTextView text={done.acknowledgement} />
        </div>
      )}
      <p className={classes.soft}>It is at {done.record.stageName} now.</p>
      {done.opened.length + done.opening > 0 && <RelatedRecords title="It opened" records={done.opened} opening={done.opening} />}
      <Group mt="lg">
        {done.next !== null && (
          <Button component="a" href={done.next} rel="noopener noreferrer">
            Go on to {hostOf(done.next)}
          </Button>
        )}
        <Button component={Link} to="/desk" variant={done.next === null ? 'filled' : 'default'}>
          To the desk
        </Button>
        <Button component={Link} to={`/records/${done.record.id}`} variant="default" reloadDocument>
          Look at the record
        </Button>
      </Group>
    </main>
  );
}

/** The host of an address, for those who look where a button leads. */
const hostOf = (address: string): string => address.replace(/^[a-z]+:\/\//i, '').replace(/[/?#].*$/, '');
