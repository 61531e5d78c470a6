import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import classes from '../../features/public-intake/Guest.module.css';
import { GuestFrame } from '../../features/public-intake/Guest.tsx';
import { confirmAddress } from '../../features/public-intake/queries.ts';
import { ApiProblem, problemText } from '../../shared/problems.ts';

/** The token stands behind the `#`: browsers send nothing of that to anybody, and keep it out of logs. */
const tokenHere = (): string => window.location.hash.slice(1);

/** Who is here: somebody who followed the link of a mail. They want to say that the address is theirs, and be done. */
export function ConfirmPage() {
  // Programs that look into mails open links; only a press confirms.
  const confirming = useMutation({ mutationFn: () => confirmAddress(tokenHere()) });
  const { data, error, isPending } = confirming;
  /** What ran out can't be confirmed by pressing again; a server that was away can be asked again. */
  const isOver = error instanceof ApiProblem && error.problem.code === 'confirmation/over';
  return (
    <GuestFrame name={data?.workspace ?? ''} title="Confirm your mail address">
      <div className={classes.done} role="status">
        {data ? (
          <>
            <h1>Your address is confirmed</h1>
            <p className={classes.told}>
              Mails about what you handed in are sent to {data.address} from now on. What waited for this is on its way.
            </p>
          </>
        ) : (
          <>
            <h1>{isOver ? error.problem.title : 'Confirm your mail address'}</h1>
            <p className={classes.told}>
              {error
                ? problemText(error)
                : 'Mails about what you handed in are sent only after you have said that the address is yours.'}
            </p>
            {!isOver && (
              <p className={classes.again}>
                <Button onClick={() => confirming.mutate()} loading={isPending}>
                  Confirm this address
                </Button>
              </p>
            )}
          </>
        )}
      </div>
    </GuestFrame>
  );
}
