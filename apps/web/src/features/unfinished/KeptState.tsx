import type { Keeping } from './keeper.ts';
import classes from './Unfinished.module.css';

/** Where what was entered is, in a few words beside the buttons. */
export function KeptState({ keeping }: { readonly keeping: Keeping }) {
  return (
    <p className={classes.state} role="status" data-status={keeping.status}>
      {SAID[keeping.status]}
      {keeping.status === 'here' && ` ${keeping.why}`}
    </p>
  );
}

const SAID: Readonly<Record<Keeping['status'], string>> = {
  nothing: '',
  keeping: 'Keeping what you entered …',
  kept: 'What you entered is kept.',
  here: 'What you entered is kept in this browser only.',
};
