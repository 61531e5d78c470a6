import { UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { formatInstant } from '../../shared/instants.ts';
import { useSession } from '../session/queries.ts';
import { unfinishedListQuery, useForgetUnfinished } from './queries.ts';
import classes from './Unfinished.module.css';

const addressOf = (place: string): string => {
  const [kind, ...of] = place.split('.');
  return kind === 'record' ? `/records/${of[0]}` : `/begin/${of.join('/')}`;
};

/** Forms that were begun and not handed on; nothing at all where there are none. */
export function UnfinishedList() {
  const { workspace } = useSession();
  const query = useQuery(unfinishedListQuery);
  const forget = useForgetUnfinished();
  if (!query.data || query.data.length === 0) return null;
  return (
    <section className={classes.begun} aria-label="Begun, not handed on">
      <h2>Begun, not handed on</h2>
      <ul className={classes.list}>
        {query.data.map(({ place, title, at }) => (
          <li key={place}>
            <Link to={addressOf(place)}>{title}</Link>
            <span className={classes.when}>{formatInstant(at, workspace)}</span>
            <UnstyledButton
              className={classes.giveUp}
              aria-label={`Give up what you entered: ${title}`}
              disabled={forget.isPending}
              onClick={() => forget.mutate(place)}
            >
              Give up
            </UnstyledButton>
          </li>
        ))}
      </ul>
    </section>
  );
}
