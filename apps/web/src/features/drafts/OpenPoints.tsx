import { Popover, UnstyledButton } from '@mantine/core';
import { useState, useSyncExternalStore } from 'react';
import { unfinished } from '../expressions/unfinished.ts';
import { useDraft } from './draft-context.tsx';
import foundList from './FoundList.module.css';
import { FoundList, PartLink } from './FoundList.tsx';
import classes from './OpenPoints.module.css';

const FIRST = 20;

/** Returns the paths of properties whose text or condition is unfinished in this browser. */
export function useUnfinishedPaths(workflow: string): readonly string[] {
  const joined = useSyncExternalStore(unfinished.watch, () => unfinished.paths(workflow).join('\n'));
  return joined === '' ? [] : joined.split('\n');
}

/**
 * Who is here: an analyst who wants to know what keeps the draft from being published. What is open is counted in the header; each
 * point is opened from there.
 */
export function OpenPoints() {
  const { definition, faults, warnings } = useDraft();
  const paths = useUnfinishedPaths(definition.key);
  const [isOpen, setOpen] = useState(false);
  if (faults.length + warnings.length + paths.length === 0) return null;
  const close = (): void => setOpen(false);
  return (
    // After a link is followed, the page that it opens takes the focus (`useFocusOnShown`).
    <Popover opened={isOpen} onChange={setOpen} width={460} position="bottom-start" shadow="md" withArrow trapFocus>
      <Popover.Target>
        <UnstyledButton className={classes.points} aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {faults.length > 0 && <Count tone="fault" mark="▲" count={faults.length} one="fault" many="faults" />}
          {warnings.length > 0 && <Count tone="warning" mark="△" count={warnings.length} one="warning" many="warnings" />}
          {paths.length > 0 && <Count tone="unfinished" mark="…" count={paths.length} one="unfinished" many="unfinished" />}
        </UnstyledButton>
      </Popover.Target>
      <Popover.Dropdown className={classes.open} aria-label="What is open in this draft">
        {faults.length > 0 && (
          <section aria-label="Faults">
            <h3>Faults, which stand in the way of publishing</h3>
            <FoundList found={faults} first={FIRST} onGo={close} />
          </section>
        )}
        {paths.length > 0 && (
          <section aria-label="Unfinished">
            <h3>Unfinished in this browser: the draft has what was sound before</h3>
            <ul className={foundList.list}>
              {paths.map((path) => (
                <li key={path}>
                  <PartLink definition={definition} path={path} onGo={close} />
                </li>
              ))}
            </ul>
          </section>
        )}
        {warnings.length > 0 && (
          <section aria-label="Warnings">
            <h3>Warnings, which need a reason when it is published</h3>
            <FoundList found={warnings} first={FIRST} onGo={close} />
          </section>
        )}
      </Popover.Dropdown>
    </Popover>
  );
}

function Count({
  tone,
  mark,
  count,
  one,
  many,
}: {
  readonly tone: 'fault' | 'warning' | 'unfinished';
  readonly mark: string;
  readonly count: number;
  readonly one: string;
  readonly many: string;
}) {
  return (
    <span className={classes.count} data-tone={tone}>
      <span aria-hidden="true">{mark} </span>
      {count} {count === 1 ? one : many}
    </span>
  );
}
