import { joinPath, splitPath } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import { applyEdit, type Edited } from './apply-edit.ts';
import type { EditContext } from './edit.ts';
import { pathAfter, type RenameKey } from './keys/rename-key.ts';
import type { Edit } from './registry.ts';
import type { Revert } from './whole/revert.ts';

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

/** An edit as it must be after others gave parts other keys: its paths lead where they led before. */
export function followRenames(edit: Edit, renames: readonly RenameKey[]): Edit {
  return renames.reduce(followRename, edit);
}

function followRename(edit: Edit, rename: RenameKey): Edit {
  switch (edit.type) {
    case 'together':
      return { ...edit, edits: edit.edits.map((own) => followRename(own, rename)) };
    case 'add-part':
      return { ...edit, to: pathAfter(edit.to, rename) };
    case 'change-part':
    case 'delete-part':
    case 'move-part':
    case 'duplicate-part':
    case 'rename-key':
      return { ...edit, part: pathAfter(edit.part, rename) };
    case 'set-treatments':
      return { ...edit, cells: edit.cells.map((cell) => ({ ...cell, ...cellAfter(cell, rename) })) };
    case 'set-submitter-sees':
      return { ...edit, cells: edit.cells.map((cell) => ({ ...cell, field: cellAfter(cell, rename).field })) };
    case 'set-cells':
      return { ...edit, table: pathAfter(`decisionTables.${edit.table}`, rename).slice('decisionTables.'.length) };
    case 'revert':
    case 'read-in':
      return { ...edit, differences: edit.differences.map((one) => differenceAfter(one, rename)) };
    default:
      return edit satisfies never;
  }
}

/** A difference after a renaming: cells are named by their field and stage, everything else by its path. */
function differenceAfter(one: Revert['differences'][number], rename: RenameKey): Revert['differences'][number] {
  const [list, field] = splitPath(one.path) ?? [];
  if (one.kind !== 'changed' || (list !== 'plan' && list !== 'submitterSees'))
    return { ...one, path: pathAfter(one.path, rename) };
  const cell = cellAfter(list === 'plan' ? { field: field ?? '', stage: one.property } : { field: one.property }, rename);
  return list === 'plan'
    ? { ...one, path: joinPath('plan', cell.field), property: cell.stage ?? one.property }
    : { ...one, property: cell.field };
}

/** A cell's field and stage after a renaming. */
function cellAfter(cell: { readonly field: string; readonly stage?: string }, { part, key }: RenameKey) {
  const [list, old = '', inner, sub] = part.split('.');
  const isSub = list === 'fields' && inner === 'fields';
  const field =
    isSub && cell.field === `${old}.${sub}`
      ? `${old}.${key}`
      : list === 'fields' && inner === undefined && (cell.field === old || cell.field.startsWith(`${old}.`))
        ? key + cell.field.slice(old.length)
        : cell.field;
  return { field, ...(list === 'stages' && cell.stage === old ? { stage: key } : {}) };
}

/** The renamings among edits, those made together included. */
export const renamesIn = (edits: readonly Edit[]): readonly RenameKey[] =>
  edits.flatMap((edit) => (edit.type === 'rename-key' ? [edit] : edit.type === 'together' ? renamesIn(edit.edits) : []));
