import { Button, Group } from '@mantine/core';
import type { HandOffResponse } from '@ypomet/contract';
import { Link } from 'react-router';
import classes from './RecordPage.module.css';

/** What the submitter reads after a hand-off. */
export function Acknowledgement({ done }: { readonly done: HandOffResponse }) {
  return (
    <main className={classes.acknowledgement}>
      <p className={`${classes.number} mono`}>{done.record.number}</p>
      <h1>{done.acknowledgement ?? 'Handed on.'}</h1>
      <p className={classes.soft}>It is at {done.record.stageName} now.</p>
      <Group mt="lg">
        <Button component={Link} to="/desk">
          To the desk
        </Button>
        <Button component={Link} to={`/records/${done.record.id}`} variant="default" reloadDocument>
          Look at the record
        </Button>
      </Group>
    </main>
  );
}
