/** What is selected in the plan. One thing at a time; the inspector edits it. */
export type Selection =
  | { readonly kind: 'nothing' }
  | { readonly kind: 'branch'; readonly handOff: string; readonly branch: string }
  | { readonly kind: 'adjustment'; readonly adjustment: string }
  | { readonly kind: 'cell'; readonly field: string; readonly stage: string }
  /** A cell of the column *Submitter*. */
  | { readonly kind: 'submitter'; readonly field: string };
