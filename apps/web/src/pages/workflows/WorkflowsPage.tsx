import { Button, FileButton } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import { importDefinition, NoJson, workflowsQuery } from '../../features/drafts/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { ApiProblem } from '../../shared/api.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { NewWorkflow } from './NewWorkflow.tsx';
import classes from './WorkflowsPage.module.css';

/** Who is here: the analyst. They want to open a workflow, seeing which drafts differ from what is in force. */
export function WorkflowsPage() {
  const query = useQuery(workflowsQuery);
  const { workspace } = useSession();
  const navigate = useNavigate();
  const client = useQueryClient();
  const reading = useMutation({
    mutationFn: importDefinition,
    onSuccess: ({ key }) => {
      void client.invalidateQueries({ queryKey: ['workflows'] });
      navigate(`/workflows/${key}/plan`);
    },
  });
  const problem = reading.error instanceof ApiProblem ? reading.error.problem : null;
  return (
    <main className={classes.page}>
      <header className={classes.head}>
        <h1>Workflows</h1>
        <span className={classes.ways}>
          <FileButton accept="application/json,.json" onChange={(file) => file && reading.mutate(file)}>
            {(props) => (
              <Button variant="default" loading={reading.isPending} {...props}>
                Read a definition file
              </Button>
            )}
          </FileButton>
          <NewWorkflow taken={new Set(query.data?.map(({ key }) => key))} />
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
          workflows.length === 0 ? (
            <p className={classes.soft}>There is no workflow yet. Make a new one, or read in a definition file.</p>
          ) : (
            <ul className={classes.list}>
              {workflows.map((workflow) => (
                <li key={workflow.key}>
                  <Link to={`/workflows/${workflow.key}/plan`} className={classes.row}>
                    <span>
                      <strong>{workflow.name}</strong>
                      <span className={classes.soft}>{workflow.description}</span>
                    </span>
                    <span className={classes.soft}>
                      {workflow.stages} stages · {workflow.fields} fields
                    </span>
                    <span>
                      {workflow.publishedVersion === null ? 'not published' : `v${workflow.publishedVersion} in force`}
                      {workflow.draftDiffers && workflow.publishedVersion !== null && (
                        <span className={classes.differs}>draft differs</span>
                      )}
                    </span>
                    <span className={classes.soft}>{workflow.recordsOpen} under way</span>
                    <span className={classes.soft}>{formatInstant(workflow.draftChangedAt, workspace.zone)}</span>
                  </Link>
                </li>
              ))}
            </ul>
          )
        }
      </Loaded>
    </main>
  );
}
