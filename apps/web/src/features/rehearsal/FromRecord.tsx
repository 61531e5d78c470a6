import { Menu } from '@mantine/core';
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import type { DeskSettings } from '@ypomet/contract';
import type { Json } from '@ypomet/core';
import { deskQuery, recordQuery, submittedQuery } from '../records/queries.ts';
import { useRehearsal } from './rehearsal-context.tsx';
import { begunAt, begunRehearsal } from './rehearsal-state.ts';

const MAX_OFFERED = 12;

const WHOLE_DESK: DeskSettings = { sort: 'arrived', workflow: null, stage: null, find: '', filter: '' };

/**
 * Real records of the workflow that the analyst may see as a participant: a rehearsal can begin where one is, with the values that
 * the analyst is shown there, and no others.
 */
export function FromRecord() {
  const { workflow, open } = useRehearsal();
  const client = useQueryClient();
  const { key } = workflow.definition;
  const desk = useInfiniteQuery({ ...deskQuery(WHOLE_DESK), refetchInterval: false });
  const submitted = useInfiniteQuery(submittedQuery);
  const found = [desk, submitted].flatMap(({ data }) => data?.pages.flatMap(({ entries }) => entries) ?? []);
  const records = new Map(found.filter(({ record }) => record.workflow === key).map(({ record }) => [record.id, record]));
  const begin = async (id: string): Promise<void> => {
    const { record, form } = await client.fetchQuery(recordQuery(id));
    const fields = new Set(workflow.definition.fields.map((field) => field.key));
    const values = Object.fromEntries(
      Object.entries(form.values as Readonly<Record<string, Json>>).filter(([name]) => fields.has(name)),
    );
    open(begunAt(begunRehearsal(workflow), record.stage, values));
  };
  return (
    <>
      <Menu.Label>From a real record, as you see it</Menu.Label>
      {records.size === 0 && <Menu.Item disabled>None of this workflow is open to you</Menu.Item>}
      {[...records.values()].slice(0, MAX_OFFERED).map((record) => (
        <Menu.Item key={record.id} onClick={() => void begin(record.id)}>
          {record.number ?? record.id} · {record.stageName}
        </Menu.Item>
      ))}
    </>
  );
}
