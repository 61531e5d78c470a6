import {
  type CompiledWorkflow,
  type Json,
  KeptTest,
  newScript,
  type Script,
  type ScriptStep,
  type WorkflowRecord,
} from '@ypomet/core';
import type { Entered } from '../forms/form-state.ts';

/** A rehearsal as it stands: what was done, what is being entered at its end, and the step one looks at. */
export type RehearsalState = {
  readonly script: Script;
  /** What is entered at the end, and in which role; null for all roles at once. */
  readonly open: Entered;
  readonly role: string | null;
  /** The step in view; as many as there are steps for the end. */
  readonly at: number;
  /** The path it took before an earlier answer was changed; null where none was. */
  readonly before: readonly string[] | null;
  /** The record that opened the rehearsed one, with the values of its own rehearsal. Null if no record opened it. */
  readonly source: WorkflowRecord | null;
};

export const begunRehearsal = (workflow: Pick<CompiledWorkflow, 'definition'>, intake: string | null = null): RehearsalState => ({
  script: newScript(workflow, intake),
  open: {},
  role: null,
  at: 0,
  before: null,
  source: null,
});

const isAtEnd = ({ script, at }: RehearsalState): boolean => at >= script.steps.length;

/** What is entered in the step in view, and who enters it. */
export const presentStep = (state: RehearsalState): Pick<ScriptStep, 'entered' | 'role'> =>
  state.script.steps[state.at] ?? { entered: state.open, role: state.role };

const withStep = (state: RehearsalState, change: Partial<ScriptStep>, path: readonly string[]): RehearsalState => ({
  ...state,
  before: state.before ?? path,
  script: {
    ...state.script,
    steps: state.script.steps.map((step, index) => (index === state.at ? { ...step, ...change } : step)),
  },
});

/** Something was entered: at the end, or in an earlier step, after which the rest is run again. `path`: as it was until now. */
export const entered = (state: RehearsalState, entries: Entered, path: readonly string[]): RehearsalState =>
  isAtEnd(state) ? { ...state, open: entries } : withStep(state, { entered: entries }, path);

/** Another role is played from here on. */
export const playedBy = (state: RehearsalState, role: string | null, path: readonly string[]): RehearsalState =>
  isAtEnd(state) ? { ...state, role } : withStep(state, { role }, path);

/** A hand-off was pressed and went through. One that was pressed there before stays, with all that followed; another begins anew from there. */
export function pressed(state: RehearsalState, handOff: string, entries: Entered): RehearsalState {
  const { script, at } = state;
  const own = script.steps[at];
  if (own?.handOff === handOff) return { ...state, at: at + 1 };
  const { role } = presentStep(state);
  const steps = [...script.steps.slice(0, at), { handOff, role, entered: entries }];
  return { ...state, script: { ...script, steps }, at: at + 1, open: {}, before: null };
}

/** A hand-off happened by itself, and went through. */
export function passedByClock(state: RehearsalState, handOff: string): RehearsalState {
  const { script, at } = state;
  const own = script.steps[at];
  if (own?.handOff === handOff && own.byClock) return { ...state, at: at + 1 };
  const steps = [...script.steps.slice(0, at), { handOff, role: null, byClock: true, entered: {} }];
  return { ...state, script: { ...script, steps }, at: at + 1, open: {}, before: null };
}

/** The rehearsal with another step in view. */
export const lookAt = (state: RehearsalState, at: number): RehearsalState => ({
  ...state,
  at: Math.max(0, Math.min(state.script.steps.length, at)),
});

/** Begins at a stage with some values, as if they had been entered before. */
export const begunAt = (state: RehearsalState, at: string | null, start: Readonly<Record<string, Json>>): RehearsalState => ({
  ...state,
  script: { ...state.script, at, start, steps: [] },
  open: {},
  at: 0,
  before: null,
});

export const onDay = (state: RehearsalState, today: string | null): RehearsalState => ({
  ...state,
  script: { ...state.script, today },
});

/** Opens a script, at its end. */
export const openedScript = (script: Script): RehearsalState => ({
  script,
  open: {},
  role: null,
  at: script.steps.length,
  before: null,
  source: null,
});

/** Addresses much longer than this are cut off on their way through mail; a browser itself takes far longer ones. */
const MAX_ADDRESS = 6000;
export const MAX_OWN_ADDRESS = 1_000_000;

/** A rehearsal as the end of an address; null where it comes to more than `most` characters. */
export function writeShared({ script, open, role, source }: RehearsalState, most = MAX_ADDRESS): string | null {
  const text = JSON.stringify({ script, open, role, source });
  const bytes = new TextEncoder().encode(text);
  const coded = btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(''))
    .replace(/\+/g, '-')
    .replace(/\//g, '_')
    .replace(/=+$/, '');
  return coded.length > most ? null : coded;
}

/** Whether something has the shape of a record, as far as rehearsals read one. */
function isRecord(value: unknown): value is WorkflowRecord {
  const { id, workflow, stage, values } = (value ?? {}) as Partial<Record<keyof WorkflowRecord, unknown>>;
  return [id, workflow, stage].every((one) => typeof one === 'string') && typeof values === 'object' && values !== null;
}

/** A rehearsal from the end of an address; null where it is none. Its shape is looked at as that of a test is. */
export function readShared(coded: string): RehearsalState | null {
  try {
    const binary = atob(coded.replace(/-/g, '+').replace(/_/g, '/'));
    const text = new TextDecoder().decode(Uint8Array.from(binary, (character) => character.charCodeAt(0)));
    const {
      script,
      open,
      role,
      source = null,
    } = JSON.parse(text) as {
      script: object;
      open: Entered;
      role: string | null;
      source?: unknown;
    };
    const steps = ((script as { steps?: readonly object[] }).steps ?? []).map((step, index) => ({
      ...step,
      key: `step${index + 1}`,
    }));
    const read = KeptTest.safeParse({ ...script, steps, key: 'shared', name: 'Shared' });
    const isOpen = typeof open === 'object' && open !== null && !Array.isArray(open);
    if (!read.success || !isOpen || (role !== null && typeof role !== 'string')) return null;
    if (source !== null && !isRecord(source)) return null;
    const { intake, at, today, start } = read.data;
    const own = read.data.steps.map(
      ({ handOff, role, byClock, entered: entries }): ScriptStep => ({
        handOff,
        role,
        ...(byClock ? { byClock } : {}),
        entered: entries,
      }),
    );
    return { ...openedScript({ intake, at, today, start, steps: own }), open, role, source };
  } catch (error) {
    // What is no such text fails to decode, or holds no JSON.
    if (error instanceof SyntaxError || error instanceof DOMException || error instanceof TypeError) return null;
    throw error;
  }
}
