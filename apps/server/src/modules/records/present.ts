import type { HistoryEntry, RecordHeader } from '@ypomet/contract';
import { type CompiledWorkflow, findHandOff, findStage } from '@ypomet/core';
import type { RecordRow } from './record-row.ts';
import type { EventRow } from './repository.ts';

/** What everyone who may see a record may know of it. */
export function toHeader(row: RecordRow, workflow: CompiledWorkflow): RecordHeader {
  const stage = findStage(workflow.definition, row.stage);
  const { id, number, version, track, submittedBy, assignee, createdAt, arrivedAt, revision } = row;
  return {
    id,
    number,
    workflow: row.workflow,
    workflowName: workflow.definition.name,
    version,
    stage: row.stage,
    stageName: stage?.name ?? row.stage,
    stageKind: stage?.kind ?? 'work',
    track,
    submittedBy,
    assignee: assignee ?? null,
    unassigned: !assignee && stage?.assignment != null && stage.kind !== 'end',
    createdAt,
    arrivedAt,
    revision,
  };
}

/** An event with the names of its stages and hand-offs; never values. */
export function toHistory(row: EventRow, workflow: CompiledWorkflow): HistoryEntry {
  const { definition } = workflow;
  const nameOf = (key: string): string => findStage(definition, key)?.name ?? key;
  const { event } = row;
  const common = { id: row.id, at: row.at, by: row.by, type: event.type, to: nameOf(event.to) };
  if (event.type === 'passed-junction') return { ...common, handOff: null, from: nameOf(event.stage), unassigned: null };
  const handOff = findHandOff(definition, event.handOff)?.name ?? event.handOff;
  return { ...common, handOff, from: nameOf(event.from), unassigned: event.unassigned ?? null };
}
