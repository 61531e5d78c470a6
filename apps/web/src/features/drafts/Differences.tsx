import { Button } from '@mantine/core';
import { type Difference, describeEdit, differencesBetween, makeWording, tellDifference, type Workflow } from '@ypomet/core';
import { useMemo, useState } from 'react';
import { sayExpression } from '../conditions/in-words.ts';
import { useSession } from '../session/queries.ts';
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

/** Properties that are expressions: they are told in words. */
const SAID: ReadonlySet<string> = new Set(['when', 'offeredWhen', 'condition', 'expression', 'default', 'value']);

function Values({
  difference,
  say,
}: {
  readonly difference: Difference;
  readonly say: (text: string, side: 'from' | 'to') => string;
}) {
  if (difference.kind !== 'changed' || /^(plan|submitterSees)\b/.test(difference.path)) return null;
  const isSaid = SAID.has(difference.property) && !difference.path.startsWith('decisionTables');
  const told = (value: unknown, side: 'from' | 'to'): string | null =>
    isSaid && typeof value === 'string' ? say(value, side) : shortly(value);
  const [from, to] = [told(difference.from, 'from'), told(difference.to, 'to')];
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
  const { workspace } = useSession();
  const say = useMemo(() => {
    const [from, to] = [makeWording(before, workspace), makeWording(after, workspace)];
    return (text: string, side: 'from' | 'to') => sayExpression(text, side === 'from' ? from : to);
  }, [before, after, workspace]);
  if (differences.length === 0) return <p className={classes.none}>{none}</p>;
  const shown = isAll ? differences : differences.slice(0, AT_FIRST);
  return (
    <>
      <ul className={classes.list}>
        {shown.map((difference, index) => (
          // Differences have no keys, and the list is never reordered.
          // biome-ignore lint/suspicious/noArrayIndexKey: see above
          <li key={index} data-kind={difference.kind}>
            {describeEdit(tellDifference(difference, before, after))} <Values difference={difference} say={say} />
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
