import { useQuery } from '@tanstack/react-query';
import type { FileEntry } from '@ypomet/contract';
import {
  type Actor,
  actorIn,
  type Basis,
  CLOCK,
  type CompiledWorkflow,
  collectInput,
  decidedOf,
  explainHandOffs,
  type FileFacts,
  type Form,
  failure,
  generateEntries,
  type HandedOn,
  type HandOffReason,
  handOn,
  isEnterable,
  type Json,
  makeCalendar,
  makeOutside,
  makeWording,
  type Outside,
  openStoredWorkflow,
  outsideOn,
  prepareWorkflow,
  type RehearsalWorld,
  type Replay,
  type Result,
  replay,
  type Wording,
  type WorkflowRecord,
  withSource,
} from '@ypomet/core';
import { createContext, type ReactNode, useCallback, useContext, useDeferredValue, useMemo, useRef, useState } from 'react';
import { isSameData, useSame } from '../../shared/use-same.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { membersQuery, versionQuery } from '../drafts/queries.ts';
import { placeOfPath } from '../forms/form-places.ts';
import type { Entered, Unreadable } from '../forms/form-state.ts';
import { useFormState } from '../forms/use-form-state.ts';
import { useSession } from '../session/queries.ts';
import {
  begunAt,
  begunRehearsal,
  entered,
  lookAt,
  onDay,
  passedByClock,
  playedBy,
  presentStep,
  pressed,
  type RehearsalState,
} from './rehearsal-state.ts';

const PERSON = { id: 'rehearsal', name: 'Rehearsal', email: 'rehearsal@example.invalid' };

/** What the pages of the designer share of a rehearsal: what was done. No form is evaluated before it is asked for. */
type Kept = {
  /** The draft's workflow, or that of the version that is rehearsed. */
  readonly workflow: CompiledWorkflow;
  /** The version that is rehearsed; null for the draft. */
  readonly version: number | null;
  readonly setVersion: (version: number | null) => void;
  readonly state: RehearsalState;
  readonly put: (state: RehearsalState) => void;
  readonly world: RehearsalWorld;
  readonly played: Replay;
  /** The record, what is entered, and who enters it, in the step in view. */
  readonly record: WorkflowRecord;
  readonly entered: Entered;
  readonly actor: Actor;
  readonly outside: Outside;
  readonly handed: Map<string, FileFacts>;
};
const KeptContext = createContext<Kept | null>(null);

function useKept(): Kept {
  const kept = useContext(KeptContext);
  if (!kept) throw new Error('outside a rehearsal');
  return kept;
}

/** The workflow of a published version, compiled; null while it is on its way. */
function useVersion(key: string, number: number | null, draft: CompiledWorkflow): CompiledWorkflow | null {
  const query = useQuery({ ...versionQuery(key, number ?? 0), enabled: number !== null });
  const definition = number === null ? undefined : query.data?.definition;
  return useMemo(
    () => (definition ? prepareWorkflow(openStoredWorkflow(definition), draft.findWorkflow) : null),
    [definition, draft.findWorkflow],
  );
}

/** The world in which a rehearsal takes place: the workspace's members, files that were handed over here, no other records. */
export function useRehearsalWorld(): { readonly world: RehearsalWorld; readonly handed: Map<string, FileFacts> } {
  const { workspace } = useSession();
  const members = useQuery(membersQuery);
  const [handed] = useState(() => new Map<string, FileFacts>());
  // What arrives later (members, other workflows) is no later moment: the record stays the one that was looked at.
  const [now] = useState(() => Date.now());
  const world = useMemo<RehearsalWorld>(() => {
    const known = new Map(members.data?.map((member) => [member.id, member]));
    const outside = makeOutside({
      now,
      zone: workspace.zone,
      locale: workspace.locale,
      calendar: makeCalendar(workspace.calendar),
      findMember: (id) => known.get(id) ?? null,
      // Nobody has anything to do here, and it was nobody's turn yet.
      findCandidates: (role) =>
        (members.data ?? [])
          .filter(({ roles }) => roles.includes(role))
          .map(({ id, roles }) => ({ id, roles, load: 0, lastAt: null })),
      findFile: (sha256) => handed.get(sha256) ?? null,
    });
    return { person: PERSON, outside };
  }, [workspace, members.data, handed, now]);
  return { world, handed };
}

/** The world with the record that opened the rehearsed one, where its workflow is known. */
function useSource(record: WorkflowRecord | null, { findWorkflow }: CompiledWorkflow, world: RehearsalWorld): RehearsalWorld {
  return useMemo(() => {
    const definition = record === null ? null : findWorkflow(record.workflow);
    if (record === null || definition === null) return world;
    return { ...world, source: { workflow: prepareWorkflow(definition, findWorkflow), record } };
  }, [record, findWorkflow, world]);
}

/** Keeps the rehearsal while one goes from page to page. */
export function RehearsalKeeper({ children }: { readonly children: ReactNode }) {
  // An edit is painted first; the rehearsal is played again when there is time.
  const draft = useDeferredValue(useDraft().compiled);
  const [version, setVersion] = useState<number | null>(null);
  const workflow = useVersion(draft.definition.key, version, draft) ?? draft;
  const { world: ordinary, handed } = useRehearsalWorld();
  const [state, put] = useState<RehearsalState>(() => begunRehearsal(draft));
  // Stages that an edit took away: begin again rather than stand nowhere.
  const { stages } = workflow.definition;
  const present = useMemo(() => {
    const isThere = (stage: string | null): boolean => stage === null || stages.some(({ key }) => key === stage);
    return isThere(state.script.intake) && isThere(state.script.at) ? state : begunRehearsal({ definition: workflow.definition });
  }, [stages, state, workflow.definition]);
  const world = useSource(present.source, draft, ordinary);
  const played = useMemo(() => replay(workflow, present.script, world), [workflow, present.script, world]);
  // Past a step that is refused there is nothing to look at.
  const stopped = played.moments.findIndex(({ came }) => !came.ok);
  const at = stopped < 0 ? present.at : Math.min(present.at, stopped);
  const { entered: entries, role } = presentStep({ ...present, at });
  // The same record, actor and world as long as nothing but answers changes: the form then looks only at what was answered.
  const playedTo = useMemo(() => played.moments[at]?.record ?? { ...played.record, assignee: null }, [played, at]);
  const record = useSame(playedTo, isSameData);
  const actor = useMemo(() => actorIn(workflow, role, world), [workflow, role, world]);
  const outside = useMemo(
    () => withSource(outsideOn(present.script.today, world.outside), world.source ?? null, actor),
    [present.script.today, world, actor],
  );
  const kept = useMemo<Kept>(
    () => ({
      workflow,
      version,
      setVersion,
      state: { ...present, at },
      put,
      world,
      played,
      record,
      entered: entries,
      actor,
      outside,
      handed,
    }),
    [workflow, version, present, at, played, world, record, entries, actor, outside, handed],
  );
  return <KeptContext value={kept}>{children}</KeptContext>;
}

/** The stages that the rehearsal's record has been at. */
export const useRehearsalPath = (): readonly string[] => useKept().played.path;

function useForm() {
  const { workflow, record, entered: entries, actor, outside } = useKept();
  const of = useMemo(() => ({ workflow, record, actor, outside }), [workflow, record, actor, outside]);
  return useFormState(of, entries);
}

/** The rehearsal's form as it is now, for those who show what holds for its record. */
export const useRehearsalForm = (): Form => useForm().form;

/** What the rehearsal's record is handed on from, for those who try other values in the place of its own. */
export function useRehearsalBasis(): Basis {
  const { workflow, record, actor, outside } = useKept();
  const form = useRehearsalForm();
  return useMemo(() => ({ workflow, record, given: form.given, actor, outside }), [workflow, record, form, actor, outside]);
}

/** Begins a rehearsal at a stage with some values, as if they had been entered before. */
export function useRehearseAt(): (stage: string, values: WorkflowRecord['values']) => void {
  const { workflow, put } = useKept();
  return (stage, values) => put(begunAt(begunRehearsal(workflow), stage, values));
}

/** The rehearsal: a made-up record tried through the draft or a version. */
export type Rehearsal = Omit<Kept, 'put'> & {
  readonly form: Form;
  readonly unreadable: Unreadable;
  readonly wording: Wording;
  /** The form before the last answer, if that was given at this step; null otherwise. */
  readonly before: Form | null;
  readonly open: (state: RehearsalState) => void;
  readonly enter: (key: string, value: Json) => void;
  readonly press: (handOff: string) => Result<HandedOn>;
  /** Lets a hand-off happen by itself, with the record as it is stored. */
  readonly letClock: (handOff: string) => Result<HandedOn>;
  /** What each hand-off would do now, and why: decided as pressing it decides. */
  readonly reasons: readonly HandOffReason[];
  /** What pressing would come to, without pressing. */
  readonly preview: (handOff: string) => Result<HandedOn>;
  /** Takes a file for one that was handed over; nothing leaves the page. */
  readonly handOver: (file: File) => Promise<FileEntry>;
  readonly goTo: (stage: string) => void;
  readonly lookAt: (step: number) => void;
  readonly play: (role: string | null) => void;
  readonly setDay: (day: string | null) => void;
  /** Fills the step in view by itself; the fields it could not fill. */
  readonly fill: (seed: number) => readonly string[];
  readonly startOver: (intake?: string) => void;
};

const RehearsalContext = createContext<Rehearsal | null>(null);

/** Evaluates the rehearsal for the page on which it goes on: its form, and what each hand-off would do. */
export function RehearsalProvider({ children }: { readonly children: ReactNode }) {
  const kept = useKept();
  const { workflow, state, put, played, record, entered: entries, actor, outside, handed } = kept;
  const members = useQuery(membersQuery);
  const { form, unreadable } = useForm();
  const last = useRef<{ readonly form: Form; readonly record: WorkflowRecord } | null>(null);
  // Typing waits for nothing: reasons follow when there is time.
  const asked = useMemo(() => ({ workflow, form, record, actor, outside }), [workflow, form, record, actor, outside]);
  const later = useDeferredValue(asked);
  // Those of another record, or another design, are never shown beside this one.
  const known = later.record === record && later.workflow === workflow ? later : asked;
  const reasons = useMemo(() => explainHandOffs(known.workflow, known.form, known.record, known.actor, known.outside), [known]);
  const wording = useMemo(() => {
    const names = new Map(members.data?.map(({ id, name }) => [id, name]));
    const style = { locale: outside.locale, zone: outside.zone, nameOf: (id: string) => names.get(id) ?? null };
    return makeWording(workflow.definition, style, workflow.findWorkflow);
  }, [workflow, members.data, outside.locale, outside.zone]);
  const note = useCallback((): void => {
    last.current = { form, record };
  }, [form, record]);
  const handOver = useCallback(
    async (file: File): Promise<FileEntry> => {
      const entry = await describeFile(file);
      handed.set(entry.sha256, entry);
      return entry;
    },
    [handed],
  );
  const rehearsal = useMemo<Rehearsal>(() => {
    const preview = (handOff: string): Result<HandedOn> =>
      handOn(workflow, record, handOff, collectInput(form, entries), actor, outside);
    const enterAll = (next: Entered): void => {
      note();
      put(entered(state, next, played.path));
    };
    return {
      ...kept,
      form,
      unreadable,
      wording,
      before: last.current?.record === record ? last.current.form : null,
      reasons,
      open: put,
      enter: (key, value) => enterAll({ ...entries, [key]: value }),
      preview,
      press: (handOff) => {
        // What can't be read yet is no answer: nothing is handed on with it.
        const unread = [...unreadable].flatMap(([key, found]) => (canBeAnswered(form, key) ? found : []));
        const result =
          unread.length > 0 ? failure(unread.map((one) => ({ ...one, ...placeOfPath(one.path) }))) : preview(handOff);
        if (result.ok) put(pressed(state, handOff, entries));
        return result;
      },
      letClock: (handOff) => {
        const result = handOn(workflow, record, handOff, {}, CLOCK, outside);
        if (result.ok) put(passedByClock(state, handOff));
        return result;
      },
      handOver,
      goTo: (stage) => put(begunAt(state, stage, { ...record.values, ...collectInput(form, entries) })),
      lookAt: (step) => put(lookAt(state, step)),
      play: (role) => put(playedBy(state, role, played.path)),
      setDay: (day) => put(onDay(state, day)),
      fill: (seed) => {
        const makeFile = (facts: FileFacts): string => {
          // No file of bytes has a name like this: what was made up can be told from what was handed over.
          const sha256 = String(handed.size + 1).padStart(64, '0');
          handed.set(sha256, facts);
          return sha256;
        };
        const made = generateEntries(workflow, record, actor, outside, { seed, members: members.data ?? [], makeFile }, entries);
        enterAll(made.entered);
        return made.left;
      },
      startOver: (intake) => put(begunRehearsal(workflow, intake ?? null)),
    };
  }, [
    kept,
    state,
    put,
    form,
    unreadable,
    workflow,
    actor,
    outside,
    reasons,
    handed,
    handOver,
    wording,
    record,
    entries,
    played.path,
    note,
    members.data,
  ]);
  return <RehearsalContext value={rehearsal}>{children}</RehearsalContext>;
}

/** Shows the rehearsal as it was a moment ago while somebody types: what explains it follows when there is time. */
export function LaterRehearsal({ children }: { readonly children: ReactNode }) {
  const now = useRehearsal();
  const later = useDeferredValue(now);
  return <RehearsalContext value={later.record === now.record ? later : now}>{children}</RehearsalContext>;
}

function canBeAnswered(form: Form, key: string): boolean {
  const of = form.forms.fieldByKey.get(key);
  return of !== undefined && isEnterable(decidedOf(form, of).treatment);
}

async function describeFile(file: File): Promise<FileEntry> {
  const digest = await crypto.subtle.digest('SHA-256', await file.arrayBuffer());
  const sha256 = [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, '0')).join('');
  return { name: file.name, mediaType: file.type || 'application/octet-stream', bytes: file.size, sha256 };
}

export function useRehearsal(): Rehearsal {
  const rehearsal = useContext(RehearsalContext);
  if (!rehearsal) throw new Error('outside a rehearsal');
  return rehearsal;
}
