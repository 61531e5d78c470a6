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
  /** A cell of the column *Submitter*. */
  | { readonly kind: 'submitter'; readonly field: string };
