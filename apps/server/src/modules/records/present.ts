import type { HandOffResponse, HistoryEntry, RecordDocument, RecordHeader } from '@ypomet/contract';
import { type Actor, type CompiledWorkflow, dueInstant, findHandOff, findStage, mayRead, routeOf } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import type { RecordRow } from './record-row.ts';
import type { EventRow } from './repository.ts';

/** When and where a record is looked at. */
export type Now = { readonly zone: string; readonly now: number };
export const nowOf = ({ workspace, clock }: Pick<ServerContext, 'workspace' | 'clock'>): Now => ({
  zone: workspace.zone,
  now: clock(),
});

/** What everyone who may see a record may know of it. */
export function toHeader(row: RecordRow, workflow: CompiledWorkflow, { zone, now }: Now): RecordHeader {
  const stage = findStage(workflow.definition, row.stage);
  const { id, number, version, track, submittedBy, assignee, assigneeName, awaited, createdAt, arrivedAt, due, revision } = row;
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
    assigneeName,
    unassigned: !assignee && stage?.assignment != null && stage.kind !== 'end',
    awaited,
    createdAt,
    arrivedAt,
    due,
    isOverdue: due !== null && (dueInstant(due, zone) ?? Number.POSITIVE_INFINITY) < now,
    revision,
  };
}

/** The same for a guest: which member has it isn't theirs to know. */
export const headerForGuest = (header: RecordHeader): RecordHeader => ({
  ...header,
  assignee: null,
  assigneeName: null,
  unassigned: false,
});

/** What a hand-off came to, for a guest: other records are the house's own business. */
export const answerForGuest = (answer: HandOffResponse): HandOffResponse => ({
  ...answer,
  record: headerForGuest(answer.record),
  opened: [],
  opening: 0,
});

/** An event for a guest: of members it tells no names; what one of them did, the house did. */
export const eventForGuest = (row: EventRow, guest: Pick<Actor, 'id'>, house: string): EventRow => ({
  ...row,
  by: row.byId === null || row.byId === guest.id ? row.by : house,
  memberName: null,
});

/** An event with the names of its stages and hand-offs; never values. What was told is for whoever it was told to. */
export function toHistory(row: EventRow, workflow: CompiledWorkflow, actor: Actor): HistoryEntry {
  const { definition } = workflow;
  const nameOf = (key: string): string => findStage(definition, key)?.name ?? key;
  const { event } = row;
  const told = row.byId === actor.id ? row.told : null;
  const common = {
    id: row.id,
    at: row.at,
    by: row.by,
    type: event.type,
    handOff: null,
    unassigned: null,
    told,
    issues: [],
    dropped: [],
  };
  switch (event.type) {
    case 'handed-on': {
      const handOff = findHandOff(definition, event.handOff)?.name ?? event.handOff;
      const { unassigned = null } = event;
      return {
        ...common,
        handOff,
        from: nameOf(event.from),
        to: nameOf(event.to),
        unassigned,
        dropped: droppedNames(event, workflow, actor),
      };
    }
    case 'taken-back': {
      const handOff = findHandOff(definition, event.handOff)?.name ?? event.handOff;
      return { ...common, handOff, from: nameOf(event.from), to: nameOf(event.to) };
    }
    case 'passed-junction':
      return { ...common, from: nameOf(event.stage), to: nameOf(event.to) };
    case 'opened':
      return { ...common, from: event.by.number ?? '', to: nameOf(event.at) };
    case 'taken':
    case 'given-back':
      return { ...common, from: nameOf(event.stage), to: '' };
    case 'handed-over':
      return { ...common, from: nameOf(event.stage), to: row.memberName ?? '' };
    case 'refreshed':
      return { ...common, by: null, from: event.by.number ?? '', to: '' };
    case 'answered':
    case 'answer-refused':
      return { ...common, by: null, from: event.outlet, to: '' };
    case 'put-away':
      return { ...common, from: event.delivery, to: '' };
    case 'reminded': {
      const reminders = findStage(definition, event.stage)?.reminders ?? [];
      return { ...common, by: null, from: reminders.find(({ key }) => key === event.reminder)?.name ?? event.reminder, to: '' };
    }
    case 'clock-refused': {
      const handOff = findHandOff(definition, event.handOff)?.name ?? event.handOff;
      return { ...common, by: null, handOff, from: nameOf(event.stage), to: '', issues: [...event.issues] };
    }
    default:
      return event satisfies never;
  }
}

/** Names of the fields whose answers a hand-off dropped, for whoever may read them. */
const droppedNames = (
  { dropped = [] }: Extract<EventRow['event'], { type: 'handed-on' }>,
  { forms }: CompiledWorkflow,
  actor: Actor,
): string[] =>
  dropped.flatMap((key) => {
    const of = forms.fieldByKey.get(key);
    return of && mayRead(forms, key, actor) ? [of.field.name] : [];
  });

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
