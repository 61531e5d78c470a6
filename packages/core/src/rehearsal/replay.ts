import { withDue } from '../flow/clock.ts';
import type { CompiledWorkflow } from '../flow/compiled-workflow.ts';
import { fillForm } from '../flow/enter-input.ts';
import type { HandedOn } from '../flow/events.ts';
import { handOn } from '../flow/hand-on.ts';
import { blankRecord } from '../flow/open-record.ts';
import { type Actor, CLOCK, type Outside, type WorkflowRecord } from '../flow/record.ts';
import { collectInput } from '../forms/collect-input.ts';
import type { Form } from '../forms/evaluate-form.ts';
import type { KeptTest, TestStep } from '../model/kept-test.ts';
import type { Json } from '../shared/json.ts';
import type { Result } from '../shared/result.ts';
import { readDateTime } from '../values/temporal.ts';
import { type Source, withSource } from './source.ts';

/** A hand-off of a rehearsal: who presses it, or the clock, and what they entered before. */
export type ScriptStep = Pick<TestStep, 'handOff' | 'role'> &
  Partial<Pick<TestStep, 'byClock'>> & { readonly entered: Readonly<Record<string, Json>> };

/** A rehearsal as it can be run again: where it begins, on which day, with what, and what was done. */
export type Script = Pick<KeptTest, 'intake' | 'at' | 'today'> & {
  readonly start: Readonly<Record<string, Json>>;
  readonly steps: readonly ScriptStep[];
};

/** Who rehearses, and the world around it. `source`: the record that opened the rehearsed one, where another one did. */
export type RehearsalWorld = {
  readonly person: Omit<Actor, 'roles'>;
  readonly outside: Outside;
  readonly source?: Source | null;
};

/** A step as it was taken: the record before it, the form with what was entered, and what came of it. */
export type Moment = {
  readonly step: ScriptStep;
  readonly record: WorkflowRecord;
  readonly form: Form;
  readonly came: Result<HandedOn>;
};

export type Replay = {
  readonly moments: readonly Moment[];
  /** The record after the last step that went through. */
  readonly record: WorkflowRecord;
  /** The stages it has been at, junctions too, the present one last. */
  readonly path: readonly string[];
};

/** A rehearsal that begins at a workflow's first intake. */
export function newScript({ definition }: Pick<CompiledWorkflow, 'definition'>, intake: string | null = null): Script {
  const { stages } = definition;
  const first = intake ?? stages.find(({ kind }) => kind === 'intake')?.key ?? stages[0]?.key ?? '';
  return { intake: first, at: null, today: null, start: {}, steps: [] };
}

/** The world on the day of a script: nine in the morning there; now where it names none. */
export function outsideOn(today: string | null, outside: Outside): Outside {
  const morning = today === null ? null : readDateTime(`${today}T09:00:00`, outside.zone);
  return morning ? { ...outside, now: morning.ms } : outside;
}

/** Who acts in a step: in one role, or in all at once where none is played. */
export const actorIn = (
  { definition }: Pick<CompiledWorkflow, 'definition'>,
  role: string | null,
  { person }: RehearsalWorld,
): Actor => ({
  ...person,
  roles: role === null ? definition.roles.map(({ key }) => key) : [role],
});

/** The record with which a script begins. */
export function beginScript(workflow: CompiledWorkflow, script: Script, world: RehearsalWorld): WorkflowRecord {
  const outside = outsideOn(script.today, world.outside);
  const actor = actorIn(workflow, null, world);
  const record = blankRecord(workflow, script.intake, 'rehearsal', null, actor, outside);
  const stage = script.at ?? script.intake;
  return withDue(workflow, { ...record, number: 'REHEARSAL', stage, values: script.start }, actor, outside);
}

/**
 * Runs a script: each step enters and hands on by the same functions that do for real records. It ends with its steps, or with the
 * first that is refused. Whom the design assigns the record to doesn't matter: the person plays whoever it is.
 */
export function replay(workflow: CompiledWorkflow, script: Script, world: RehearsalWorld): Replay {
  const outside = outsideOn(script.today, world.outside);
  let record = beginScript(workflow, script, world);
  const path = script.at === null ? [script.intake] : [script.intake, script.at];
  const moments: Moment[] = [];
  for (const step of script.steps) {
    const actor = step.byClock ? CLOCK : actorIn(workflow, step.role, world);
    const own = { ...record, assignee: null };
    const known = withSource(outside, world.source ?? null, actor);
    const { form } = fillForm(workflow, own, step.entered, actor, known);
    const came = handOn(workflow, own, step.handOff, collectInput(form, step.entered), actor, known);
    moments.push({ step, record: own, form, came });
    if (!came.ok) break;
    record = came.value.record;
    path.push(...came.value.events.flatMap((event) => ('to' in event ? [event.to] : [])));
  }
  return { moments, record, path };
}
