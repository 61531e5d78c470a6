import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import classes from '../../features/public-intake/Guest.module.css';
import { GuestFrame, GuestSession, usePass } from '../../features/public-intake/Guest.tsx';
import { followedQuery } from '../../features/public-intake/queries.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { FollowedRecord } from './FollowedRecord.tsx';

/** The pass stands behind the `#`: browsers send nothing of that to anybody. */
const passHere = (): string => window.location.hash.slice(1);

/** Who is here: somebody who handed something in. They want to see how it stands, and to answer when they are asked. */
export function FollowPage() {
  const [pass, setPass] = useState(passHere);
  useEffect(() => {
    const follow = (): void => setPass(passHere());
    window.addEventListener('hashchange', follow);
    return () => window.removeEventListener('hashchange', follow);
  }, []);
  usePass(pass);
  const query = useQuery({ ...followedQuery(pass), enabled: pass !== '' });
  const isNone = pass === '' || (query.isError && !query.isFetching && query.data === undefined);
  if (isNone) {
    return (
      <GuestFrame name="" title="Nothing to follow">
        <div className={classes.done}>
          <h1>There is nothing to follow at this address</h1>
          <p className={classes.told}>
            {query.isError && pass !== '' && !isUnknown(query.error)
              ? query.error.message
              : 'It may have been cut off when it was copied: take all of it, to the last letter.'}
          </p>
        </div>
      </GuestFrame>
    );
  }
  return (
    <GuestFrame name={query.data?.workspace.name ?? ''} title="" isWide>
      <Loaded query={query} rows={8}>
        {(followed) => (
          <GuestSession guest={followed.guest} workspace={followed.workspace}>
            {followed.record === null ? (
              <p>Nothing was handed in with it yet.</p>
            ) : (
              <FollowedRecord key={followed.record} id={followed.record} />
            )}
          </GuestSession>
        )}
      </Loaded>
    </GuestFrame>
  );
}

const isUnknown = (error: Error): boolean => /signed in/.test(error.message);
