import { joinPath, type Path, splitPath } from '@ypomet/core';

export type AddingTo =
  | { readonly kind: 'section'; readonly section: string }
  | { readonly kind: 'table'; readonly table: string };

/** What is selected in the plan. One thing at a time; the inspector edits it. */
export type Selection =
  | { readonly kind: 'nothing' }
  | { readonly kind: 'stage'; readonly stage: string }
  | { readonly kind: 'hand-off'; readonly handOff: string }
  | { readonly kind: 'branch'; readonly handOff: string; readonly branch: string }
  | { readonly kind: 'adjustment'; readonly adjustment: string }
  /** A field, or a sub-field by its path. */
  | { readonly kind: 'field'; readonly field: string }
  /** A form in which fields are added to a section, or columns to a table. */
  | { readonly kind: 'add-fields'; readonly to: AddingTo }
  | { readonly kind: 'cell'; readonly field: string; readonly stage: string }
  /** Cells of several fields, or at several stages. */
  | { readonly kind: 'cells'; readonly fields: readonly string[]; readonly stages: readonly string[] }
  /** A cell of the column *Submitter*. */
  | { readonly kind: 'submitter'; readonly field: string };

/** What to select to see a part of the definition; null for what has no panel. */
export function selectionOf(path: Path): Selection | null {
  const [list, key = '', inner, innerKey] = splitPath(path) ?? [];
  switch (list) {
    case 'stages':
      return { kind: 'stage', stage: key };
    case 'handOffs':
      return inner === 'branches' && innerKey !== undefined
        ? { kind: 'branch', handOff: key, branch: innerKey }
        : { kind: 'hand-off', handOff: key };
    case 'adjustments':
      return { kind: 'adjustment', adjustment: key };
    case 'fields':
      return { kind: 'field', field: inner === 'fields' && innerKey !== undefined ? `${key}.${innerKey}` : key };
    default:
      return null;
  }
}

/** The part of the definition that is selected; null where it is no part. */
export function partOf(selection: Selection): Path | null {
  switch (selection.kind) {
    case 'stage':
      return joinPath('stages', selection.stage);
    case 'hand-off':
      return joinPath('handOffs', selection.handOff);
    case 'branch':
      return joinPath('handOffs', selection.handOff, 'branches', selection.branch);
    case 'adjustment':
      return joinPath('adjustments', selection.adjustment);
    case 'field':
    case 'cell':
    case 'submitter':
      return joinPath(
        'fields',
        ...selection.field.split('.').flatMap((step, index) => (index === 0 ? [step] : ['fields', step])),
      );
    default:
      return null;
  }
}
