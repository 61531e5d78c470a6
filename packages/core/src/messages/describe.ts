import type { EditSentence } from '../edits/edit.ts';
import { type Type, termOfType } from '../expressions/types.ts';
import type { RecordEvent, Unassigned } from '../flow/events.ts';
import type { Diagnostic, DiagnosticParam } from '../shared/diagnostic.ts';
import type { Term } from '../shared/terms.ts';
import type { Language } from './codes.ts';
import { EN } from './en.ts';

type Params = Readonly<Record<string, DiagnosticParam>>;

/** How many items of a list a sentence names. */
const MAX_NAMED = 12;

/** Fills placeholders; lists are joined with commas, terms come as the language's words. */
export function fill(text: string, params: Params, language: Language = EN): string {
  const word = (value: string | number | Term): string =>
    typeof value === 'object' ? describeTerm(value, language) : String(value);
  return text.replace(/\{(\w+)\}/g, (whole, name: string) => {
    const value = Object.hasOwn(params, name) ? params[name] : undefined;
    if (value === undefined) return whole;
    return isList(value) ? value.slice(0, MAX_NAMED).map(word).join(language.outline.list) : word(value);
  });
}

const isList = (value: DiagnosticParam): value is readonly (string | Term)[] => Array.isArray(value);

/** A term in words. */
export const describeTerm = (term: Term, language: Language = EN): string =>
  fill(language.terms[term.term], term.params ?? {}, language);

/** A type in words: "a list of values, each a number". */
export const describeType = (type: Type, language: Language = EN): string => describeTerm(termOfType(type), language);

/** What a built-in does, in a sentence. */
export const describeBuiltin = (name: string, language: Language = EN): string => language.builtins[name] ?? '';

/** A diagnostic as a sentence. The analyst's own message, where an issue has one, comes before this. */
export const describeDiagnostic = ({ code, params }: Diagnostic, language: Language = EN): string =>
  fill(language.messages[code].text, params, language);

/** How to mend it. */
export const howToMend = ({ code, params }: Diagnostic, language: Language = EN): string =>
  fill(language.messages[code].mend, params, language);

/** What happened to a record, with the names of its stages and hand-offs. `by`: null where nobody did it. */
export type NamedEvent = {
  readonly type: RecordEvent['type'];
  readonly by: string | null;
  readonly handOff: string | null;
  readonly from: string;
  readonly to: string;
  readonly unassigned: Unassigned | null;
  /** Why the clock was refused, by codes. */
  readonly issues?: readonly string[];
  /** Names of fields whose answers were dropped, as far as the reader may know them. */
  readonly dropped?: readonly string[];
};

/** An event of a record as a sentence. It names stages and hand-offs, never values. */
export function describeEvent(event: NamedEvent, language: Language = EN): string {
  const why = language.refused[whyRefused(event.issues ?? [])];
  const params = { by: event.by ?? language.itself, handOff: event.handOff ?? '', from: event.from, to: event.to, why };
  const sentence = fill(language.events[event.type], params, language);
  const dropped = event.dropped ?? [];
  const told =
    dropped.length === 0 ? sentence : `${sentence} ${fill(language.dropped, { fields: dropped.join(', ') }, language)}`;
  return event.unassigned ? `${told} ${language.unassigned[event.unassigned]}` : told;
}

function whyRefused(issues: readonly string[]): keyof Language['refused'] {
  if (issues.includes('hand-off/not-offered')) return 'not-offered';
  return issues.some((code) => code.startsWith('hand-off/')) ? 'no-way' : 'form';
}

/** What an edit did, as what follows the name of who did it: "made “Lux limit” required at Conservation review". */
export const describeEdit = ({ code, params }: EditSentence, language: Language = EN): string =>
  fill(language.edits[code], params, language);
