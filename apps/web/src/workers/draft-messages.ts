import type { Diagnostic, Edit, Surroundings, UsedParts, Workflow } from '@ypomet/core';

/** What the page tells the worker. `sequence` counts the changes that the page has made. */
export type ToWorker =
  | {
      readonly type: 'open';
      readonly sequence: number;
      readonly definition: Workflow;
      readonly neighbours: readonly Workflow[] | null;
      /** What the design names of the workspace; null while that isn't known. */
      readonly surroundings: Surroundings | null;
    }
  | { readonly type: 'edit'; readonly sequence: number; readonly edit: Edit };

/** What the worker found, as of a change. */
export type FromWorker =
  /** `diagnostics` is null where they are those that were told last. */
  | { readonly type: 'found'; readonly sequence: number; readonly diagnostics: readonly Diagnostic[] | null }
  /** What names what, where that has changed; it takes longer, and comes after what is wrong. */
  | { readonly type: 'used'; readonly sequence: number; readonly used: UsedParts }
  /** The edit came to something else here than on the page: the whole draft is wanted. */
  | { readonly type: 'lost'; readonly sequence: number };
