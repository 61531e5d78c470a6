import { UnstyledButton } from '@mantine/core';
import { type Diagnostic, describeTerm, partAround, termOfPart, type Workflow } from '@ypomet/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { addressOfPart } from './address-of-part.ts';
import { useDraft } from './draft-context.tsx';
import classes from './FoundList.module.css';
import { groupFound } from './group-found.ts';

/** Maximum number of entries drawn: a half-finished definition that is read in can have thousands of faults. */
const MAX_LISTED = 100;

/** Returns the words with a capital first letter, to begin a line. */
const begun = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

/** A link that names a part of the draft and opens the page on which that part is edited. */
export function PartLink({
  definition,
  path,
  isWithin = false,
  onGo,
}: {
  readonly definition: Workflow;
  readonly path: string;
  /** Whether the link stands inside a sentence, and so begins with a small letter. */
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

/** A list of faults or warnings: each entry links to the part that it is about and says how to mend it. */
export function FoundList({
  found,
  first,
  onGo,
}: {
  readonly found: readonly Diagnostic[];
  /** Number of entries shown before the person asks for more. */
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
