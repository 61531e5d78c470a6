/** Edits made as one: all of them or none, in order. */
export type Together<E> = { readonly type: 'together'; readonly edits: readonly E[] };
