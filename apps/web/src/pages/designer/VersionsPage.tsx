import { UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { openStoredWorkflow } from '@ypomet/core';
import { useState } from 'react';
import { Differences } from '../../features/drafts/Differences.tsx';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { versionQuery, versionsQuery } from '../../features/drafts/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { DraftHistory } from './DraftHistory.tsx';
import { EarlierDraft } from './EarlierDraft.tsx';
import classes from './Versions.module.css';

/** Who is here: the analyst, asking what is in force, since when, and what still runs on older versions. */
export function VersionsPage() {
  const { definition } = useDraft();
  const { workspace } = useSession();
  const query = useQuery(versionsQuery(definition.key));
  const [look, setLook] = useState<number | null>(null);
  const newest = query.data?.[0];
  return (
    <main className={classes.page}>
      <h2>Published versions</h2>
      <Loaded query={query}>
        {(versions) =>
          versions.length === 0 ? (
            <p className={classes.soft}>
              Nothing is published yet. “Publish” makes the first version; until then no record can begin.
            </p>
          ) : (
            <ol className={classes.list}>
              {versions.map((version, index) => (
                <li key={version.number} className={classes.version}>
                  <strong>Version {version.number}</strong>
                  <span>{index === 0 ? 'in force' : 'superseded'}</span>
                  <span className={classes.soft}>
                    {formatInstant(version.publishedAt, workspace)}, {version.publishedBy}
                  </span>
                  <span>{version.recordsOpen === 1 ? '1 record under way' : `${version.recordsOpen} records under way`}</span>
                  <UnstyledButton className={classes.look} onClick={() => setLook(version.number)}>
                    Compare, or go back
                  </UnstyledButton>
                  {version.notes !== '' && <p className={classes.notes}>{version.notes}</p>}
                </li>
              ))}
            </ol>
          )
        }
      </Loaded>
      {newest !== undefined && (
        <>
          <h2>What publishing would change</h2>
          <DraftAgainst version={newest.number} />
        </>
      )}
      <EarlierDraft
        of={look === null ? null : { kind: 'version', number: look }}
        title={`Version ${look ?? ''} and the draft`}
        onClose={() => setLook(null)}
      />
      <h2>Changes to the draft</h2>
      <DraftHistory versions={query.data ?? []} />
      <h2>As a file</h2>
      <p>
        <a href={`/api/workflows/${definition.key}/definition.json`} download>
          Save the draft as a definition file
        </a>{' '}
        <span className={classes.soft}>(ypomet.workflow/1; its JSON Schema is at /api/schemas/workflow.json)</span>
      </p>
    </main>
  );
}

/** The draft against a published version, as a list. */
function DraftAgainst({ version }: { readonly version: number }) {
  const { definition } = useDraft();
  const query = useQuery(versionQuery(definition.key, version));
  return (
    <Loaded query={query}>
      {(found) => (
        <Differences
          before={openStoredWorkflow(found.definition)}
          after={definition}
          none={`Nothing: the draft is as version ${version} has it.`}
        />
      )}
    </Loaded>
  );
}
