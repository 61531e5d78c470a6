import classes from './Due.module.css';
import { formatDue } from './due.ts';

/** By when a record is to be done, and whether that has passed: told by a word and a mark, not by colour alone. */
export function Due({
  due,
  isOverdue,
  place,
}: {
  readonly due: string;
  readonly isOverdue: boolean;
  readonly place: { readonly zone: string; readonly locale: string };
}) {
  return (
    <span className={classes.due} data-overdue={isOverdue || undefined}>
      {isOverdue ? '▲ overdue since ' : 'due '}
      {formatDue(due, place)}
    </span>
  );
}
