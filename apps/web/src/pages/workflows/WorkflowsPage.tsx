import { Button, FileButton, TextInput, UnstyledButton } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { Notifications } from '@mantine/notifications';
import '@mantine/notifications/styles.css';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import {
  fileToReadInKey,
  foundWorkflowsQuery,
  NoJson,
  readDefinitionFile,
  workflowsQuery,
} from '../../features/drafts/queries.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { ApiProblem } from '../../shared/problems.ts';
import { NewWorkflow } from './NewWorkflow.tsx';
import { WorkflowRow } from './WorkflowRow.tsx';
import classes from './WorkflowsPage.module.css';

/** Who is here: the analyst. They want to open a workflow, known by its map, seeing what waits where. */
export function WorkflowsPage() {
  const [find, setFind] = useState('');
  const [wanted] = useDebouncedValue(find.trim(), 200);
  const [isArchive, setArchive] = useState(false);
  const all = useQuery(workflowsQuery);
  const found = useQuery({ ...foundWorkflowsQuery(wanted), enabled: wanted !== '', placeholderData: keepPreviousData });
  const query = wanted === '' ? all : found;
  const taken = useMemo(() => new Set(all.data?.map(({ key }) => key)), [all.data]);
  const navigate = useNavigate();
  const client = useQueryClient();
  const reading = useMutation({
    mutationFn: readDefinitionFile,
    onSuccess: ({ key, isNew, definition }) => {
      // The designer shows what it would change, and asks.
      if (!isNew) client.setQueryData(fileToReadInKey(key), definition);
      void client.invalidateQueries({ queryKey: ['workflows'] });
      navigate(`/workflows/${key}/plan`);
    },
  });
  const problem = reading.error instanceof ApiProblem ? reading.error.problem : null;
  return (
    <main className={classes.page}>
      <Notifications position="bottom-left" />
      <header className={classes.head}>
        <h1>Workflows</h1>
        <TextInput
          type="search"
          className={classes.find}
          aria-label="Find a workflow, a field or a condition"
          placeholder="Find a workflow, a field or a condition"
          value={find}
          onChange={(event) => setFind(event.currentTarget.value)}
        />
        <span className={classes.ways}>
          <FileButton accept="application/json,.json" onChange={(file) => file && reading.mutate(file)}>
            {(props) => (
              <Button variant="default" loading={reading.isPending} {...props}>
                Read a definition file
              </Button>
            )}
          </FileButton>
          <NewWorkflow taken={taken} />
        </span>
      </header>
      {reading.isError && (
        <Notice
          tone="fault"
          title={problem?.title ?? (reading.error instanceof NoJson ? 'The file can’t be read' : 'The file wasn’t read in')}
        >
          {problem
            ? problem.details.slice(0, 6).map((detail) => (
                <div key={detail.path}>
                  {detail.message} <span className="mono">{detail.path}</span>
                </div>
              ))
            : reading.error.message}
        </Notice>
      )}
      <Loaded query={query}>
        {(workflows) =>
          workflows.length === 0 && wanted === '' ? (
            <p className={classes.soft}>There is no workflow yet. Make a new one, or read in a definition file.</p>
          ) : (
            <>
              <ul className={classes.list}>
                {workflows.flatMap((workflow) =>
                  (workflow.archivedAt === null) === !isArchive
                    ? [<WorkflowRow key={workflow.key} workflow={workflow} taken={taken} />]
                    : [],
                )}
              </ul>
              {!workflows.some(({ archivedAt }) => (archivedAt === null) === !isArchive) && (
                <p className={classes.soft}>
                  {isArchive
                    ? 'Nothing is put away.'
                    : wanted === ''
                      ? 'All are put away.'
                      : `No workflow says “${wanted}” anywhere.`}
                </p>
              )}
              <UnstyledButton className={classes.archive} onClick={() => setArchive(!isArchive)}>
                {isArchive ? '← Those in use' : `Put away: ${workflows.filter(({ archivedAt }) => archivedAt !== null).length}`}
              </UnstyledButton>
            </>
          )
        }
      </Loaded>
    </main>
  );
}
