import { NavLink } from 'react-router';
import classes from './Dispatch.module.css';

const PLACES = [
  ['/dispatch', 'Log'],
  ['/outlets', 'Outlets'],
  ['/calendar', 'Calendar'],
  ['/mailbox', 'Mailbox'],
  ['/receiver', 'Web receiver'],
  ['/file-registers', 'File registers'],
] as const;

/** The log, where things go, and what the simulated receivers took in. */
export const DispatchNav = () => (
  <nav aria-label="Dispatch" className={classes.nav}>
    {PLACES.map(([to, name]) => (
      <NavLink key={to} to={to} className={({ isActive }) => `${classes.tab} ${isActive ? classes.here : ''}`}>
        {name}
      </NavLink>
    ))}
  </nav>
);
