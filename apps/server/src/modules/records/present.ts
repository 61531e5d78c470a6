import type { HistoryEntry, RecordDocument, RecordHeader } from '@ypomet/contract';
import { type CompiledWorkflow, findHandOff, findStage, routeOf } from '@ypomet/core';
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

/** Where a record has been and is, and what certainly comes next. Of other stages nothing is told. */
export function toRoute(row: RecordRow, events: readonly EventRow[], { definition }: CompiledWorkflow): RecordDocument['route'] {
  const { path, next } = routeOf(
    definition,
    row,
    events.map(({ event }) => event),
  );
  const named = new Set([...path, ...(next === null ? [] : [next])]);
  const stages = definition.stages
    .filter((stage) => named.has(stage.key))
    .map(({ key, name, kind, tracks }) => ({ key, name, kind, tracks }));
  // Its own line where it has kept to that, else every line that it has been on.
  const { track } = row;
  const isOnOwn = track !== null && stages.every(({ tracks }) => tracks.includes(track));
  const lines = new Set(isOnOwn ? [track] : stages.flatMap(({ tracks }) => tracks));
  const tracks = definition.tracks.filter(({ key }) => lines.has(key)).map(({ key, name }) => ({ key, name }));
  return { tracks, stages, path: [...path], next };
}
