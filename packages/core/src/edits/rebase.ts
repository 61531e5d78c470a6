import type { Workflow } from '../model/workflow.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import { applyEdit, type Edited } from './apply-edit.ts';
import type { EditContext } from './edit.ts';
import type { RenameKey } from './keys/rename-key.ts';
import type { Edit } from './registry.ts';

/** An edit with the id by which a repeat of it is known. */
export type IdentifiedEdit = { readonly id: string; readonly edit: Edit };

export type Rebased = {
  readonly definition: Workflow;
  readonly applied: readonly (IdentifiedEdit & { readonly edited: Edited })[];
  /** Edits that no longer fit, and why. */
  readonly refused: readonly (IdentifiedEdit & { readonly diagnostics: readonly Diagnostic[] })[];
};

/** Applies edits in order to a definition that others have changed; what no longer fits is left out. */
export function rebaseEdits(definition: Workflow, edits: readonly IdentifiedEdit[], context?: EditContext): Rebased {
  let current = definition;
  const applied: Rebased['applied'][number][] = [];
  const refused: Rebased['refused'][number][] = [];
  for (const one of edits) {
    const result = applyEdit(current, one.edit, context);
    if (result.ok) {
      applied.push({ ...one, edited: result.value });
      current = result.value.definition;
    } else refused.push({ ...one, diagnostics: result.diagnostics });
  }
  return { definition: current, applied, refused };
}

/** The renamings among edits, those made together included. */
export const renamesIn = (edits: readonly Edit[]): readonly RenameKey[] =>
  edits.flatMap((edit) => (edit.type === 'rename-key' ? [edit] : edit.type === 'together' ? renamesIn(edit.edits) : []));
