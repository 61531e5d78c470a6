import { Button } from '@mantine/core';
import { type Difference, describeEdit, differencesBetween, tellDifference, type Workflow } from '@ypomet/core';
import { useMemo, useState } from 'react';
import classes from './Differences.module.css';

const AT_FIRST = 30;
const MAX_SHOWN = 90;

/** A value as it stands in a definition, short enough to be read in a line; null where it says too much. */
function shortly(value: unknown): string | null {
  if (value === undefined || value === null || value === '') return 'nothing';
  if (typeof value === 'string') return value.length > MAX_SHOWN ? null : value;
  if (typeof value === 'number' || typeof value === 'boolean') return String(value);
  if (!Array.isArray(value) || !value.every((one) => typeof one === 'string')) return null;
  return value.length === 0 ? 'nothing' : value.join(', ').slice(0, MAX_SHOWN);
}

function Values({ difference }: { readonly difference: Difference }) {
  if (difference.kind !== 'changed' || /^(plan|submitterSees)\b/.test(difference.path)) return null;
  const [from, to] = [shortly(difference.from), shortly(difference.to)];
  if (from === null || to === null) return null;
  return (
    <span className={classes.values}>
      <del>{from}</del> → <ins>{to}</ins>
    </span>
  );
}

/** In what two definitions differ, as a list in words. `before` and `after` are compared in this order. */
export function Differences({
  before,
  after,
  none,
}: {
  readonly before: Workflow;
  readonly after: Workflow;
  /** What is said where nothing differs. */
  readonly none: string;
}) {
  const differences = useMemo(() => differencesBetween(before, after), [before, after]);
  const [isAll, setAll] = useState(false);
  if (differences.length === 0) return <p className={classes.none}>{none}</p>;
  const shown = isAll ? differences : differences.slice(0, AT_FIRST);
  return (
    <>
      <ul className={classes.list}>
        {shown.map((difference, index) => (
          // Differences have no keys, and the list is never reordered.
          // biome-ignore lint/suspicious/noArrayIndexKey: see above
          <li key={index} data-kind={difference.kind}>
            {describeEdit(tellDifference(difference, before, after))} <Values difference={difference} />
          </li>
        ))}
      </ul>
      {differences.length > shown.length && (
        <Button size="compact-sm" variant="default" onClick={() => setAll(true)}>
          Show all {differences.length}
        </Button>
      )}
    </>
  );
}
