import { isEmpty } from '../model/field-value.ts';
import { formatValue, type Style } from '../templates/format-value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import type { Onlook } from './onlook.ts';

/** Characters by which a record is told from others in a list. */
const MAX_ABOUT = 80;

/**
 * What a record is about, in a few words that tell it from others in a list: the first text and the first choice, in the
 * design's order, that somebody is shown and that are filled. Empty where there are none.
 */
export function aboutRecord({ forms }: CompiledWorkflow, { values }: Onlook, style: Style): string {
  const said = (['text', 'choice'] as const).flatMap((type) => {
    const found = forms.fields.find(({ field }) => field.type === type && !isEmpty(values.get(field.key) ?? null));
    return found ? [formatValue(values.get(found.field.key) ?? null, found.field, style)] : [];
  });
  const characters = [...said.join(' · ')];
  return characters.length > MAX_ABOUT ? `${characters.slice(0, MAX_ABOUT - 1).join('')}…` : characters.join('');
}
