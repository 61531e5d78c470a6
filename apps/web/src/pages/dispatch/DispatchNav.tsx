import { useQuery } from '@tanstack/react-query';
import { NavLink } from 'react-router';
import { demoMembersQuery } from '../../features/session/queries.ts';
import classes from './Dispatch.module.css';

const PLACES = [
  ['/dispatch', 'Log'],
  ['/outlets', 'Outlets'],
  ['/calendar', 'Calendar'],
] as const;
const STAND_INS = [
  ['/mailbox', 'Mailbox'],
  ['/receiver', 'Web receiver'],
  ['/file-registers', 'File registers'],
] as const;

/** The log, where things go, and, in the demo, what the simulated receivers took in. */
export function DispatchNav() {
  const demo = useQuery(demoMembersQuery);
  // Unknown yet, or the demo: places that come and go under the pointer are worse than one that leads nowhere for a moment.
  const isDemo = demo.data === undefined || demo.data.length > 0;
  return (
    <nav aria-label="Dispatch" className={classes.nav}>
      {[...PLACES, ...(isDemo ? STAND_INS : [])].map(([to, name]) => (
        <NavLink key={to} to={to} className={({ isActive }) => `${classes.tab} ${isActive ? classes.here : ''}`}>
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
