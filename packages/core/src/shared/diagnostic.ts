import type { DiagnosticCode } from './codes.ts';
import type { Term } from './terms.ts';

export type { DiagnosticCode } from './codes.ts';

/** A half-open range of UTF-16 offsets into an expression's text. */
export type Span = { readonly start: number; readonly end: number };

/**
 * What a message's placeholders are filled with: names and values, and terms where a word is needed. Never a sentence, and
 * never a value of a record that its reader may not see.
 */
export type DiagnosticParam = string | number | Term | readonly (string | Term)[];
export type DiagnosticParams = Readonly<Record<string, DiagnosticParam>>;

/**
 * Something wrong that a person can mend. `code` is stable (`area/reason`); the sentence comes from `messages/`.
 * `path` says what it concerns, as a path into the definition (`handOffs.accept.branches.review.when`), a field key
 * or a row (`objects[r1].title`).
 */
export type Diagnostic = {
  readonly code: DiagnosticCode;
  readonly path: string;
  readonly span?: Span;
  readonly params: DiagnosticParams;
};

/** Makes a diagnostic. */
export const diagnostic = (code: DiagnosticCode, path: string, params: DiagnosticParams = {}, span?: Span): Diagnostic =>
  span ? { code, path, span, params } : { code, path, params };
