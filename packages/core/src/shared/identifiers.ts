/** Keys are names of the expression language: a small letter, then letters, digits and underscores. */
export const KEY_PATTERN = /^[a-z][A-Za-z0-9_]{0,62}$/;

/** Words of the expression language (OMG DMN 1.3, 10.3.1.2) that can't be names. */
export const KEYWORDS: ReadonlySet<string> = new Set([
  'and',
  'or',
  'if',
  'then',
  'else',
  'some',
  'every',
  'satisfies',
  'for',
  'in',
  'return',
  'between',
  'true',
  'false',
  'null',
  'instance',
  'function',
]);

/** Names the expression language or the scope already uses; no field may have them as its key. */
export const RESERVED_KEYS: ReadonlySet<string> = new Set([
  ...KEYWORDS,
  'not',
  'record',
  'actor',
  'handoff',
  'destination',
  'row',
  'item',
  'followUps',
  'constructor',
  'prototype',
]);
