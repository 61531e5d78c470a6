import { UnstyledButton } from '@mantine/core';
import { type Diagnostic, describeTerm, partAround, termOfPart, type Workflow } from '@ypomet/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { addressOfPart } from './address-of-part.ts';
import { useDraft } from './draft-context.tsx';
import classes from './FoundList.module.css';
import { groupFound } from './group-found.ts';

/** How many are drawn at most: a draft that was read in half-finished can have thousands. */
const MAX_LISTED = 100;

/** The words with a capital letter: they begin a line. */
const begun = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

/** A part of the draft by its name, as the way to where it is edited. */
export function PartLink({
  definition,
  path,
  isWithin = false,
  onGo,
}: {
  readonly definition: Workflow;
  readonly path: string;
  /** Whether it stands within a line. */
  readonly isWithin?: boolean;
  readonly onGo?: (() => void) | undefined;
}) {
  const name = describeTerm(termOfPart(definition, partAround(definition, path)));
  return (
    <Link to={addressOfPart(definition, path)} state={{ isShown: true }} className={classes.part} onClick={onGo}>
      {isWithin ? name : begun(name)}
    </Link>
  );
}

/** Faults or warnings of the draft: each names the part it is of, which leads there, and how it is mended. */
export function FoundList({
  found,
  first,
  onGo,
}: {
  readonly found: readonly Diagnostic[];
  /** How many are shown until more are asked for. */
  readonly first: number;
  readonly onGo?: () => void;
}) {
  const { definition } = useDraft();
  const [isAll, setAll] = useState(false);
  const groups = groupFound(found);
  const shown = groups.slice(0, isAll ? MAX_LISTED : first);
  const left = groups.length - shown.length;
  return (
    <>
      <ul className={classes.list}>
        {shown.map(({ text, mend, paths: [path = '', ...more] }) => (
          <li key={`${path} ${text}`}>
            <PartLink definition={definition} path={path} onGo={onGo} />: {text} <span className={classes.mend}>{mend}</span>
            {more.length > 0 && (
              <span className={classes.mend}>
                {' '}
                Also:{' '}
                {more.slice(0, first).map((one, index) => (
                  <span key={one}>
                    {index > 0 && ', '}
                    <PartLink definition={definition} path={one} isWithin onGo={onGo} />
                  </span>
                ))}
                {more.length > first && `, and ${more.length - first} more`}
              </span>
            )}
          </li>
        ))}
      </ul>
      {left > 0 && !isAll && (
        <UnstyledButton className={classes.more} onClick={() => setAll(true)}>
          and {left} more
        </UnstyledButton>
      )}
      {left > 0 && isAll && <p className={classes.mend}>and {left} more, shown when these are mended</p>}
    </>
  );
}
