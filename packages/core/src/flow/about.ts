import { isEmpty } from '../model/field-value.ts';
import { formatValue } from '../templates/format-value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { lookAt } from './onlook.ts';
import type { Actor, Outside, WorkflowRecord } from './record.ts';

/** Characters by which a record is told from others in a list. */
const MAX_ABOUT = 80;

/**
 * What a record is about, in a few words that tell it from others in a list: the first text and the first choice, in the
 * design's order, that somebody is shown and that are filled. Empty where there are none.
 */
export function aboutRecord(workflow: CompiledWorkflow, record: WorkflowRecord, actor: Actor, outside: Outside): string {
  const looking = lookAt(workflow, record, actor, outside);
  const said = (['text', 'choice'] as const).flatMap((type) => {
    for (const of of workflow.forms.fields) {
      const value = of.field.type === type ? (looking?.read(of) ?? null) : null;
      if (!isEmpty(value)) return [formatValue(value, of.field, outside)];
    }
    return [];
  });
  const characters = [...said.join(' · ')];
  return characters.length > MAX_ABOUT ? `${characters.slice(0, MAX_ABOUT - 1).join('')}…` : characters.join('');
}
