import { useQuery } from '@tanstack/react-query';
import type { FileEntry } from '@ypomet/contract';
import {
  type Actor,
  type Basis,
  blankRecord,
  type CompiledWorkflow,
  collectInput,
  explainHandOffs,
  type FileFacts,
  type Form,
  type HandedOn,
  type HandOffReason,
  handOn,
  type Json,
  makeOutside,
  type Outside,
  type Result,
  type WorkflowRecord,
} from '@ypomet/core';
import { createContext, type ReactNode, useCallback, useContext, useMemo, useRef, useState } from 'react';
import { useDraft } from '../drafts/draft-context.tsx';
import { membersQuery } from '../drafts/queries.ts';
import type { Entered } from '../forms/form-state.ts';
import { useFormState } from '../forms/use-form-state.ts';
import { useSession } from '../session/queries.ts';

/** The rehearsal: a made-up record tried through the draft, shared by all pages of the designer. */
export type Rehearsal = {
  readonly record: WorkflowRecord;
  readonly entered: Entered;
  readonly form: Form;
  readonly unreadable: ReadonlyMap<string, string>;
  readonly actor: Actor;
  readonly outside: Outside;
  /** Stages the record has been at, the present one last. */
  readonly path: readonly string[];
  readonly enter: (key: string, value: Json) => void;
  readonly press: (handOff: string) => Result<HandedOn>;
  /** What each hand-off would do now, and why: decided as pressing it decides. */
  readonly reasons: readonly HandOffReason[];
  /** What pressing would come to, without pressing. */
  readonly preview: (handOff: string) => Result<HandedOn>;
  /** Takes a file for one that was handed over; nothing leaves the page. */
  readonly handOver: (file: File) => Promise<FileEntry>;
  readonly goTo: (stage: string) => void;
  readonly startOver: () => void;
};

const RehearsalContext = createContext<Rehearsal | null>(null);

type State = { readonly record: WorkflowRecord; readonly entered: Entered; readonly path: readonly string[] };

const PERSON = { id: 'rehearsal', name: 'Rehearsal', email: 'rehearsal@example.invalid' };

/** What the pages of the designer share of it: the record, and what was entered. Nothing is evaluated before it is asked for. */
type Kept = {
  readonly compiled: CompiledWorkflow;
  readonly present: State;
  readonly put: (state: State) => void;
  readonly begin: () => State;
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

/** Keeps the rehearsal's record while one goes from page to page. */
export function RehearsalKeeper({ children }: { readonly children: ReactNode }) {
  const { compiled } = useDraft();
  const { workspace } = useSession();
  const members = useQuery(membersQuery);
  const [handed] = useState(() => new Map<string, FileFacts>());
  const outside = useMemo<Outside>(() => {
    const known = new Map(members.data?.map((member) => [member.id, member]));
    return makeOutside({
      now: Date.now(),
      zone: workspace.zone,
      locale: workspace.locale,
      findMember: (id) => known.get(id) ?? null,
      findFile: (sha256) => handed.get(sha256) ?? null,
    });
  }, [workspace, members.data, handed]);
  const { roles, stages } = compiled.definition;
  // In a rehearsal the analyst plays whoever may act: every role at once.
  const actor = useMemo<Actor>(() => ({ ...PERSON, roles: roles.map((role) => role.key) }), [roles]);
  const latest = useRef(compiled);
  latest.current = compiled;
  const begin = useCallback((): State => {
    const stage = stages.find((own) => own.kind === 'intake')?.key ?? stages[0]?.key ?? '';
    const record = blankRecord(latest.current, stage, 'rehearsal', null, actor, outside);
    return { record: { ...record, number: 'REHEARSAL' }, entered: {}, path: [stage] };
  }, [stages, actor, outside]);
  const [state, put] = useState<State>(begin);
  // A stage that an edit took away: begin again rather than stand nowhere.
  const present = useMemo(() => (stages.some(({ key }) => key === state.record.stage) ? state : begin()), [stages, state, begin]);
  const kept = useMemo(
    () => ({ compiled, present, put, begin, actor, outside, handed }),
    [compiled, present, begin, actor, outside, handed],
  );
  return <KeptContext value={kept}>{children}</KeptContext>;
}

/** The stages that the rehearsal's record has been at. */
export const useRehearsalPath = (): readonly string[] => useKept().present.path;

/** The rehearsal's form as it is now, for those who show what holds for its record. */
export function useRehearsalForm(): Form {
  const { compiled, present, actor, outside } = useKept();
  const of = useMemo(
    () => ({ workflow: compiled, record: present.record, actor, outside }),
    [compiled, present.record, actor, outside],
  );
  return useFormState(of, present.entered).form;
}

/** What the rehearsal's record is handed on from, for those who try other values in the place of its own. */
export function useRehearsalBasis(): Basis {
  const { compiled, present, actor, outside } = useKept();
  const form = useRehearsalForm();
  return useMemo(
    () => ({ workflow: compiled, record: { ...present.record, assignee: null }, given: form.given, actor, outside }),
    [compiled, present.record, form, actor, outside],
  );
}

/** Begins a rehearsal at a stage with some values, as if they had been entered before. */
export function useRehearseAt(): (stage: string, values: WorkflowRecord['values']) => void {
  const { begin, put } = useKept();
  return (stage, values) => {
    const { record } = begin();
    put({ record: { ...record, stage, values }, entered: {}, path: [record.stage, stage] });
  };
}

/** Evaluates the rehearsal for the page on which it goes on: its form, and what each hand-off would do. */
export function RehearsalProvider({ children }: { readonly children: ReactNode }) {
  const { compiled, present, put, begin, actor, outside, handed } = useKept();
  const of = useMemo(
    () => ({ workflow: compiled, record: present.record, actor, outside }),
    [compiled, present.record, actor, outside],
  );
  const { form, unreadable } = useFormState(of, present.entered);
  const reasons = useMemo(
    () => explainHandOffs(compiled, form, { ...present.record, assignee: null }, actor, outside),
    [compiled, form, present.record, actor, outside],
  );
  const rehearsal = useMemo<Rehearsal>(() => {
    const preview = (handOff: string): Result<HandedOn> =>
      handOn(compiled, { ...present.record, assignee: null }, handOff, collectInput(form, present.entered), actor, outside);
    return {
      ...present,
      form,
      unreadable,
      actor,
      outside,
      reasons,
      enter: (key, value) => put({ ...present, entered: { ...present.entered, [key]: value } }),
      preview,
      press: (handOff) => {
        const result = preview(handOff);
        if (result.ok)
          put({
            record: result.value.record,
            entered: {},
            path: [...present.path, ...result.value.events.map((event) => event.to)],
          });
        return result;
      },
      handOver: async (file) => {
        const entry = await describeFile(file);
        handed.set(entry.sha256, entry);
        return entry;
      },
      goTo: (stage) => {
        const values = { ...present.record.values, ...collectInput(form, present.entered) };
        put({
          record: { ...present.record, values, stage, assignee: null },
          entered: {},
          path: [...present.path.filter((own) => own !== stage), stage],
        });
      },
      startOver: () => put(begin()),
    };
  }, [present, put, form, unreadable, compiled, actor, outside, reasons, handed, begin]);
  return <RehearsalContext value={rehearsal}>{children}</RehearsalContext>;
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
