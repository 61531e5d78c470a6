import { fieldAt, isWithin, stagesByPart, type UsedParts, usersOf, type Workflow } from '@ypomet/core';
import { partOf, type Selection } from './selection.ts';

/** What lights up with what is selected: what it reads and what reads it. */
export type Lit = {
  /** Fields, and sub-fields by their path. */
  readonly fields: ReadonlySet<string>;
  readonly stages: ReadonlySet<string>;
};
const NOTHING: Lit = { fields: new Set(), stages: new Set() };

/**
 * What depends on what is selected, and what it depends on; computed fields are followed a step further. Of a cell it is what its
 * field is used by.
 */
export function lightUp(
  definition: Pick<Workflow, 'handOffs' | 'adjustments' | 'checks'>,
  used: UsedParts,
  selection: Selection,
): Lit {
  const part = partOf(selection);
  if (part === null) return NOTHING;
  const users = usersOf(used, part);
  const read = new Set<string>();
  for (const [target, by] of used) {
    const field = fieldAt(target);
    if (field !== null && by.some((one) => isWithin(one, part))) read.add(field);
  }
  const further = new Set<string>();
  for (const [target, by] of used) {
    const field = fieldAt(target);
    if (field !== null && by.some((one) => read.has(fieldAt(one) ?? ''))) further.add(field);
  }
  const fields = new Set([...read, ...further, ...users.flatMap((by) => fieldAt(by) ?? [])]);
  const isOfField = selection.kind === 'field' || selection.kind === 'cell';
  const stages = isOfField ? new Set(users.flatMap(stagesByPart(definition))) : NOTHING.stages;
  return fields.size === 0 && stages.size === 0 ? NOTHING : { fields, stages };
}
