import { useQuery } from '@tanstack/react-query';
import type { FileEntry } from '@ypomet/contract';
import {
  type Actor,
  blankRecord,
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
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from 'react';
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

export function RehearsalProvider({ children }: { readonly children: ReactNode }) {
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
  // In a rehearsal the analyst plays whoever may act: every role at once.
  const actor = useMemo<Actor>(
    () => ({ ...PERSON, roles: compiled.definition.roles.map((role) => role.key) }),
    [compiled.definition.roles],
  );
  const begin = useCallback((): State => {
    const stage =
      compiled.definition.stages.find((own) => own.kind === 'intake')?.key ?? compiled.definition.stages[0]?.key ?? '';
    const record = blankRecord(compiled, stage, 'rehearsal', null, actor, outside);
    return { record: { ...record, number: 'REHEARSAL' }, entered: {}, path: [stage] };
  }, [compiled, actor, outside]);
  const [state, setState] = useState<State>(begin);
  // A stage that an edit took away: begin again rather than stand nowhere.
  const present = useMemo(() => (compiled.stages.has(state.record.stage) ? state : begin()), [compiled, state, begin]);
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
      enter: (key, value) => setState({ ...present, entered: { ...present.entered, [key]: value } }),
      preview,
      press: (handOff) => {
        const result = preview(handOff);
        if (result.ok)
          setState({
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
        setState({
          record: { ...present.record, values, stage, assignee: null },
          entered: {},
          path: [...present.path.filter((own) => own !== stage), stage],
        });
      },
      startOver: () => setState(begin()),
    };
  }, [present, form, unreadable, compiled, actor, outside, reasons, handed, begin]);
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
