import { UnstyledButton } from '@mantine/core';
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import type { DraftEditEntry, VersionSummary } from '@ypomet/contract';
import { describeEdit } from '@ypomet/core';
import { useState } from 'react';
import { saidInWords } from '../../features/conditions/in-words.ts';
import { useWording } from '../../features/conditions/use-place.ts';
import { useDraftState } from '../../features/drafts/draft-context.tsx';
import { draftEditsQuery } from '../../features/drafts/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { LoadedPages } from '../../shared/LoadedPages.tsx';
import { EarlierDraft } from './EarlierDraft.tsx';
import classes from './Versions.module.css';

/** Who is here: an analyst who wants to know what a colleague changed, when, and before or after which version. */
export function DraftHistory({ versions }: { readonly versions: readonly VersionSummary[] }) {
  const { definition, revision } = useDraftState();
  const { workspace } = useSession();
  const wording = useWording();
  const list = useInfiniteQuery({ ...draftEditsQuery(definition.key, revision), placeholderData: keepPreviousData });
  const [look, setLook] = useState<DraftEditEntry | null>(null);
  return (
    <>
      <EarlierDraft
        of={look && { kind: 'revision', number: look.revision }}
        title={look ? `The draft after ${formatInstant(look.at, workspace)}` : ''}
        onClose={() => setLook(null)}
      />
      <LoadedPages
        list={list}
        empty={<p className={classes.soft}>The draft is as it was made: nobody has changed anything yet.</p>}
      >
        {(entries) => (
          <ol className={classes.list}>
            {entries.map((entry, index) => (
              <li key={`${entry.revision}/${entry.id ?? index}`}>
                {publishedBetween(versions, entry, entries[index - 1]).map(({ number }) => (
                  <p key={number} className={classes.published}>
                    Here version {number} was published
                  </p>
                ))}
                <div className={classes.change}>
                  <span>
                    <strong>{entry.by ?? 'Somebody'}</strong> {describeEdit(saidInWords(entry.sentence, wording))}
                  </span>
                  <UnstyledButton className={classes.look} onClick={() => setLook(entry)}>
                    Look at it as it was
                  </UnstyledButton>
                  <time dateTime={entry.at} className={classes.soft}>
                    {formatInstant(entry.at, workspace)}
                  </time>
                </div>
              </li>
            ))}
          </ol>
        )}
      </LoadedPages>
    </>
  );
}

/** The versions that came after an edit and before the next one, newest first. */
export const publishedBetween = (
  versions: readonly VersionSummary[],
  edit: Pick<DraftEditEntry, 'at'>,
  next: Pick<DraftEditEntry, 'at'> | undefined,
): readonly VersionSummary[] =>
  versions.filter(({ publishedAt }) => publishedAt >= edit.at && (next === undefined || publishedAt < next.at));
