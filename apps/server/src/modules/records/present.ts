import type { HistoryEntry, RecordHeader } from '@ypomet/contract';
import { type CompiledWorkflow, findHandOff, findStage, type Unassigned } from '@ypomet/core';
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

const UNASSIGNED: Readonly<Record<Unassigned, string>> = {
  nobody: 'The design assigned it to nobody',
  'unknown-member': 'The member it was to be assigned to doesn’t exist',
  'without-role': 'The member it was to be assigned to has no role of the stage',
  'unknown-role': 'The role it was to be assigned to doesn’t exist',
};

/** An event as a sentence. It names stages and hand-offs, never values. */
export function toHistory(row: EventRow, workflow: CompiledWorkflow): HistoryEntry {
  const { definition } = workflow;
  const stageName = (key: string): string => findStage(definition, key)?.name ?? key;
  const { event } = row;
  const who = row.by ?? 'Ypomet';
  const sentence =
    event.type === 'handed-on'
      ? [
          `${who} pressed “${findHandOff(definition, event.handOff)?.name ?? event.handOff}” at ${stageName(event.from)}.`,
          `It went to ${stageName(event.to)}.`,
          ...(event.unassigned ? [`${UNASSIGNED[event.unassigned]}, so whoever may act there has it.`] : []),
        ].join(' ')
      : `It passed ${stageName(event.stage)} to ${stageName(event.to)}.`;
  return { id: row.id, type: event.type, at: row.at, by: row.by, sentence };
}
