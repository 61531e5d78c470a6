import { canBeEntered } from '../forms/compiled-forms.ts';
import { joinPath, within } from '../model/path.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import type { CompiledHandOff, CompiledStage, CompiledWorkflow } from './compiled-workflow.ts';

/**
 * What would go wrong with due dates, reminders and hand-offs by the clock, as far as the design tells. Codes: `due/…`.
 */
export function checkDue(workflow: Pick<CompiledWorkflow, 'forms' | 'stages'>): readonly Diagnostic[] {
  return [...workflow.stages.values()].flatMap((at) => [
    ...checkStage(at),
    ...at.handOffs.flatMap((handOff) => checkByClock(workflow, at, handOff)),
  ]);
}

function checkStage({ stage }: CompiledStage): readonly Diagnostic[] {
  const path = joinPath('stages', stage.key);
  const isIdle = stage.kind === 'end' || stage.kind === 'junction';
  if (isIdle) {
    const isThere = stage.due !== null || stage.reminders.length > 0;
    return isThere ? [diagnostic('due/idle', within(path, 'due'), { stage: stage.name })] : [];
  }
  if (stage.due !== null) return [];
  return stage.reminders.map(({ key, name }) =>
    diagnostic('due/missing', within(path, 'reminders', key), { name, stage: stage.name }),
  );
}

function checkByClock(
  { forms }: Pick<CompiledWorkflow, 'forms'>,
  { stage }: CompiledStage,
  { handOff }: CompiledHandOff,
): readonly Diagnostic[] {
  if (!handOff.byClock) return [];
  const { name } = handOff;
  const path = within(joinPath('handOffs', handOff.key), 'byClock');
  if (stage.due === null || stage.kind === 'junction') return [diagnostic('due/missing', path, { name, stage: stage.name })];
  if (handOff.checking === 'none') return [];
  const asked = [...forms.stageForm(stage.key).fieldSteps.values()].filter(
    ({ placement }) => placement.planned === 'required' && canBeEntered(placement),
  );
  const fields = asked.map(({ of }) => of.field.name);
  return fields.length > 0 ? [diagnostic('due/likely-refused', path, { name, fields })] : [];
}
