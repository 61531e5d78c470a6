import { Button } from '@mantine/core';
import { describeEdit } from '@ypomet/core';
import classes from './Conflicts.module.css';
import { useDraft, useDraftState } from './draft-context.tsx';

/** One's own changes that met somebody else's of the same thing: theirs stand, and each is settled here. */
export function Conflicts() {
  const { store } = useDraft();
  const { conflicts } = useDraftState();
  if (conflicts.length === 0) return null;
  return (
    <section className={classes.conflicts} aria-label="Changes that met">
      {conflicts.map(({ id, mine, theirs }) => (
        <div key={id} className={classes.conflict} role="alert">
          <p>
            Somebody else <strong>{describeEdit(theirs)}</strong> meanwhile. You had <strong>{describeEdit(mine)}</strong>.
          </p>
          <Button size="compact-sm" variant="default" onClick={() => store.resolve(id, true)}>
            Make mine all the same
          </Button>
          <Button size="compact-sm" variant="default" onClick={() => store.resolve(id, false)}>
            Leave theirs
          </Button>
        </div>
      ))}
    </section>
  );
}
