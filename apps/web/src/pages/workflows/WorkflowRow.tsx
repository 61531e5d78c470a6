import { ActionIcon, Menu } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { WorkflowSummary } from '@ypomet/contract';
import { Link, useNavigate } from 'react-router';
import { copyWorkflow, membersQuery } from '../../features/drafts/queries.ts';
import { MiniMap } from '../../features/map/MiniMap.tsx';
import { useSession } from '../../features/session/queries.ts';
import { callApi } from '../../shared/api.ts';
import { formatInstant } from '../../shared/instants.ts';
import { problemText } from '../../shared/problems.ts';
import classes from './WorkflowsPage.module.css';

const MAP_WIDTH = 470;

/** A workflow in the list: known by its map, with what waits where, what is in force, and who is at it. */
export function WorkflowRow({ workflow, taken }: { readonly workflow: WorkflowSummary; readonly taken: ReadonlySet<string> }) {
  const { workspace } = useSession();
  const { key, name, description, stages, tracks, fields, publishedVersion, draftDiffers, recordsOpen, here } = workflow;
  const waiting = new Map(stages.map((stage) => [stage.key, stage.waiting]));
  const map = stages.map((stage) => ({ ...stage, kind: stage.kind as 'work' }));
  return (
    <li className={classes.row}>
      <Link to={`/workflows/${key}/plan`} className={classes.open}>
        <span>
          <strong>{name}</strong>
          <span className={classes.soft}>{description}</span>
        </span>
        <MiniMap
          workflow={{ stages: map, tracks }}
          width={MAP_WIDTH}
          waiting={(stage) => waiting.get(stage) ?? 0}
          label={`${stages.length} stages${recordsOpen > 0 ? `; waiting: ${stages.flatMap((stage) => (stage.waiting > 0 ? [`${stage.waiting} at ${stage.name}`] : [])).join(', ')}` : ''}`}
        />
        <span className={classes.facts}>
          <span>
            {publishedVersion === null ? 'not published' : `v${publishedVersion} in force`}
            {draftDiffers && publishedVersion !== null && <span className={classes.differs}>draft differs</span>}
          </span>
          <span className={classes.soft}>
            {recordsOpen === 0 ? 'nothing under way' : `${recordsOpen} under way`} · {fields} fields
          </span>
          <span className={classes.soft}>
            {here.length > 0
              ? `${here.join(', ')} in it now`
              : `changed ${formatInstant(workflow.draftChangedAt, workspace)}${workflow.changedBy ? ` by ${workflow.changedBy}` : ''}`}
          </span>
          {workflow.owner && <span className={classes.soft}>{workflow.owner.name} answers for it</span>}
        </span>
      </Link>
      <RowMenu workflow={workflow} taken={taken} />
    </li>
  );
}

/** What can be done with a workflow as a whole. */
function RowMenu({ workflow, taken }: { readonly workflow: WorkflowSummary; readonly taken: ReadonlySet<string> }) {
  const { key, name, owner, archivedAt } = workflow;
  const client = useQueryClient();
  const navigate = useNavigate();
  const members = useQuery({ ...membersQuery, enabled: false });
  const onError = (error: Error): void => {
    notifications.show({ message: problemText(error), color: 'red' });
  };
  const refresh = (): void => void client.invalidateQueries({ queryKey: ['workflows'] });
  const changing = useMutation({
    mutationFn: (body: { readonly owner?: string | null; readonly isArchived?: boolean }) =>
      callApi('changeWorkflow', { params: { key }, body }),
    onSuccess: refresh,
    onError,
  });
  const copying = useMutation({
    mutationFn: () => copyWorkflow(key, `Copy of ${name}`, taken),
    onSuccess: (copy) => {
      refresh();
      navigate(`/workflows/${copy}/plan`);
    },
    onError,
  });
  const analysts = members.data?.filter(({ roles }) => roles.includes('analyst')) ?? [];
  return (
    <Menu position="bottom-end" shadow="md" onOpen={() => void members.refetch()}>
      <Menu.Target>
        <ActionIcon variant="subtle" color="gray" aria-label={`More about ${name}`}>
          ⋯
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => copying.mutate()}>Copy it</Menu.Item>
        <Menu.Item component="a" href={`/api/workflows/${key}/definition.json`} download>
          Save as a definition file
        </Menu.Item>
        <Menu.Item onClick={() => changing.mutate({ isArchived: archivedAt === null })}>
          {archivedAt === null ? 'Put it away: no record begins' : 'Take it out again'}
        </Menu.Item>
        <Menu.Divider />
        <Menu.Label>Who answers for it</Menu.Label>
        {analysts.map((member) => (
          <Menu.Item
            key={member.id}
            aria-current={member.id === owner?.id || undefined}
            rightSection={member.id === owner?.id ? '✓' : null}
            onClick={() => changing.mutate({ owner: member.id })}
          >
            {member.name}
          </Menu.Item>
        ))}
        {owner && <Menu.Item onClick={() => changing.mutate({ owner: null })}>Nobody</Menu.Item>}
      </Menu.Dropdown>
    </Menu>
  );
}
