import type { EditSentenceCode } from '../edits/edit.ts';
import type { Comparison } from '../expressions/outline/outline.ts';
import type { RecordEvent, Unassigned } from '../flow/events.ts';
import type { DiagnosticCode } from '../shared/codes.ts';
import type { TermCode } from '../shared/terms.ts';

/** What is wrong, as a sentence with placeholders, and how to mend it. */
export type Message = { readonly text: string; readonly mend: string };

/** Phrases that conditions are put together from. */
export const OUTLINE_CODES = [
  'some-rows',
  'every-row',
  'none-of',
  'group',
  'always',
  'never',
  'and',
  'or',
  'then-none',
  'list',
  'yes',
  'no',
  'row-count',
  'row-count-where',
  'working-days-after',
  'working-days-before',
  'working-hours-after',
  'working-hours-before',
  'total',
  'sum',
  'where',
  'choose',
  'today',
  'now',
  'before-today',
  'after-today',
  'nothing',
  'item',
] as const;
export type OutlineCode = (typeof OUTLINE_CODES)[number];

/** What expressions can read beside fields: of the record, of who acts, of what is pressed and where it leads. */
export const FACT_CODES = [
  'record.id',
  'record.number',
  'record.stage',
  'record.track',
  'record.createdAt',
  'record.arrivedAt',
  'record.due',
  'record.version',
  'record.awaited',
  'actor.id',
  'actor.name',
  'actor.email',
  'actor.roles',
  'handoff.key',
  'handoff.name',
  'destination.key',
  'destination.name',
  'followUps.open',
  'followUps.done',
] as const;
export type FactCode = (typeof FACT_CODES)[number];

/**
 * A language of everything the core says: one file. Placeholders are names in braces. Nothing else in the core holds a
 * sentence, and nothing else in the core imports one.
 */
export type Language = {
  readonly messages: Readonly<Record<DiagnosticCode, Message>>;
  readonly terms: Readonly<Record<TermCode, string>>;
  /** What each built-in does. */
  readonly builtins: Readonly<Record<string, string>>;
  readonly comparisons: Readonly<Record<Comparison, string>>;
  /** Where dates are compared: before and after rather than below and above. */
  readonly dateComparisons: Readonly<Partial<Record<Comparison, string>>>;
  readonly outline: Readonly<Record<OutlineCode, string>>;
  readonly facts: Readonly<Record<FactCode, string>>;
  readonly events: Readonly<Record<RecordEvent['type'], string>>;
  /** Why a hand-off by the clock was refused. */
  readonly dropped: string;
  readonly refused: Readonly<Record<'form' | 'not-offered' | 'no-way', string>>;
  readonly unassigned: Readonly<Record<Unassigned, string>>;
  readonly edits: Readonly<Record<EditSentenceCode, string>>;
  /** Who acts where nobody does. */
  readonly itself: string;
};
