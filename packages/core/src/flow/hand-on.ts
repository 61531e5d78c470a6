import { validateForm } from '../forms/validate-form.ts';
import type { HandOff } from '../model/flow.ts';
import { type Diagnostic, type DiagnosticCode, diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result } from '../shared/result.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { enterInput, type HandOffInput } from './enter-input.ts';
import type { HandedOn } from './events.ts';
import { refuseOverruns } from './frame-overruns.ts';
import { passOn } from './pass.ts';
import { mayHandOn } from './permissions.ts';
import type { Actor, Outside, WorkflowRecord } from './record.ts';

/**
 * Hands a record on (semantics, section 4): a pure function to the new record, what happened and what follows, or to the
 * issues that stand in the way. Codes: `hand-off/…` for refusals, `value/…` and `form/…` for what was entered.
 */
export function handOn(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  handOffKey: string,
  input: HandOffInput,
  actor: Actor,
  outside: Outside,
): Result<HandedOn> {
  const from = workflow.stages.get(record.stage);
  const handOff = workflow.handOffs.get(handOffKey);
  if (!from || !handOff || handOff.handOff.from !== record.stage)
    return refuse('hand-off/not-here', handOffKey, { handOff: handOffKey });
  if (!mayHandOn(handOff.handOff, from.stage, record, actor))
    return refuse('hand-off/not-allowed', handOffKey, { handOff: handOff.handOff.name });

  const entered = enterInput(workflow, record, input, actor, outside);
  if (!entered.ok) return entered;
  const form = entered.value;
  const isOffered = handOff.offered.holds(form.frame);
  const overrun = refuseOverruns(form.frame);
  if (overrun) return overrun;
  if (!isOffered) return refuse('hand-off/not-offered', handOffKey, { handOff: handOff.handOff.name });
  if (handOff.handOff.checking === 'full') {
    const issues = validateForm(form);
    if (issues.length > 0) return failure(issues);
  }
  return passOn({ workflow, record, handOff, form, actor, outside }).result;
}

/**
 * The hand-offs that an actor may press on a record as it is, in the design's order: those that {@link handOn} refuses neither as
 * not allowed nor as not offered.
 */
export function offeredHandOffs(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  actor: Actor,
  outside: Outside,
): readonly HandOff[] {
  const stage = workflow.stages.get(record.stage);
  const entered = enterInput(workflow, record, {}, actor, outside);
  if (!stage || !entered.ok) return [];
  return stage.handOffs.flatMap(({ handOff, offered }) =>
    mayHandOn(handOff, stage.stage, record, actor) && offered.holds(entered.value.frame) ? [handOff] : [],
  );
}

const refuse = (code: Extract<DiagnosticCode, `hand-off/${string}`>, path: string, params: Diagnostic['params']): Result<never> =>
  failure([diagnostic(code, path, params)]);
