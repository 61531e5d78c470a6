import { UnstyledButton } from '@mantine/core';
import { useState } from 'react';
import { Notice } from '../../shared/Notice.tsx';
import type { FormPlace } from './form-places.ts';
import classes from './ParticipantForm.module.css';

/** Something to mend, in a sentence; `place` leads to its input where it has one. */
export type Fault = { readonly sentence: string; readonly place: FormPlace | null };

/** Faults that are listed before somebody asks for all: more would cover the form that they are about. */
const LISTED = 3;

/** What stands in the way of a hand-off, each a way to its input. */
export function FaultList({ faults, onGo }: { readonly faults: readonly Fault[]; readonly onGo: (place: FormPlace) => void }) {
  const [isWhole, setWhole] = useState(false);
  if (faults.length === 0) return null;
  const listed = isWhole ? faults : faults.slice(0, LISTED);
  const more = faults.length - LISTED;
  return (
    <div className={isWhole ? classes.whole : undefined}>
      <Notice
        tone="fault"
        title={
          faults.length === 1 ? 'One thing to mend before it can go on' : `${faults.length} things to mend before it can go on`
        }
      >
        <ul className={classes.list}>
          {listed.map(({ sentence, place }) => (
            <li key={`${place?.field ?? ''}/${place?.row ?? ''}/${place?.subField ?? ''}/${sentence}`}>
              {place ? (
                <UnstyledButton className={classes.link} onClick={() => onGo(place)}>
                  {sentence}
                </UnstyledButton>
              ) : (
                sentence
              )}
            </li>
          ))}
        </ul>
        {more > 0 && (
          <UnstyledButton className={classes.link} aria-expanded={isWhole} onClick={() => setWhole(!isWhole)}>
            {isWhole ? 'Show fewer' : `Show the other ${more}`}
          </UnstyledButton>
        )}
      </Notice>
    </div>
  );
}
