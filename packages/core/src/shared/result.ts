import type { Diagnostic } from './diagnostic.ts';

/** An expected success or failure, as data. */
export type Result<T, E = readonly Diagnostic[]> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly diagnostics: E };

export const success = <T>(value: T): { readonly ok: true; readonly value: T } => ({ ok: true, value });

export const failure = <E>(diagnostics: E): { readonly ok: false; readonly diagnostics: E } => ({
  ok: false,
  diagnostics,
});
