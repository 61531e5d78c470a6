import type { Json } from '../shared/json.ts';

/**
 * What stands in place of a value while a text can't be read as one: it is half typed, means nothing, or means several
 * things. Unfinished forms, rehearsals and drafts keep it; no record and no hand-off ever holds one.
 */
export type UnreadText = { readonly typed: string };

export const makeUnreadText = (typed: string): UnreadText => ({ typed });

export const isUnreadText = (json: Json | undefined): json is UnreadText =>
  json !== null &&
  typeof json === 'object' &&
  'typed' in json &&
  typeof json.typed === 'string' &&
  Object.keys(json).length === 1;
