import type { Environment } from '../expressions/builtins/builtin.ts';
import { checkExpression } from '../expressions/check.ts';
import { compileExpression } from '../expressions/compile.ts';
import { makeFrame } from '../expressions/frame.ts';
import type { Comparison, OutlineItem, OutlineSubject } from '../expressions/outline/outline.ts';
import { writeOutline, writeSubject } from '../expressions/outline/write.ts';
import { parseExpression } from '../expressions/parse.ts';
import { printExpression } from '../expressions/print.ts';
import { makeScope, type Scope } from '../expressions/scope.ts';
import { TYPES, type Typing, typing } from '../expressions/types.ts';
import type { Field, SubField } from '../model/field.ts';
import type { Value } from '../values/value.ts';
import { type Atom, atomsOf } from './atoms.ts';
import { constantIn, constantsBeside } from './constants.ts';

/** What is known where conditions stand: their names, the fields behind them, and the clock. */
export type OutlineContext = {
  readonly scope: Scope;
  readonly fieldAt: (path: readonly string[]) => Field | SubField | null;
  readonly environment: Environment;
};

/**
 * Conditions whose every clause compares one subject with constants, so that a few values of each subject stand for all.
 * `holds` tells whether the condition of an index is true for one value of each subject.
 */
export type CutOutlines = {
  readonly subjects: readonly { readonly text: string; readonly atoms: readonly Atom[] }[];
  readonly truth: (index: number, values: readonly Value[]) => Value;
};

/** Comparisons whose truth changes at their constants and nowhere between. */
const CUT: ReadonlySet<Comparison> = new Set<Comparison>([
  'is',
  'is-not',
  'is-other',
  'holds',
  'is-empty',
  'is-filled',
  'above',
  'at-least',
  'below',
  'at-most',
  'between',
  'one-of',
  'not-one-of',
  'last-days',
  'next-days',
]);

/** What a clause is about, as text; clauses about the same have the same. */
export const subjectText = (subject: OutlineSubject): string => printExpression(writeSubject(subject));

/** The type of what a clause is about; null where it isn't known. */
export function typingOfSubject(subject: OutlineSubject, scope: Scope): Typing | null {
  if (subject.kind !== 'field') return typing(TYPES.number, false);
  const checked = checkExpression(writeSubject(subject), scope);
  return checked.diagnostics.length === 0 ? checked.typing : null;
}

/** Cuts conditions by their subjects; null where one of them is of another kind. */
export function cutOutlines(items: readonly OutlineItem[], context: OutlineContext): CutOutlines | null {
  const names = new Map<string, { readonly name: string; readonly subject: OutlineSubject }>();
  const renamed = items.map((item) => renamedIn(item, names, context.environment));
  if (renamed.includes(null)) return null;
  const subjects = [...names.values()];
  const typings = subjects.map(({ subject }) => typingOfSubject(subject, context.scope));
  if (typings.includes(null)) return null;
  const scope = makeScope(
    Object.fromEntries(subjects.map(({ name }, index) => [name, typing((typings[index] as Typing).type, true)])),
  );
  const compiled = renamed.map((item) => {
    const parsed = parseExpression(printExpression(writeOutline(item as OutlineItem)));
    const checked = parsed.ok ? checkExpression(parsed.value, scope, TYPES.boolean) : null;
    return checked && checked.diagnostics.length === 0 ? { node: checked.node, evaluate: compileExpression(checked) } : null;
  });
  if (compiled.includes(null)) return null;
  const cut = subjects.map(({ name, subject }, index) => {
    const constants = compiled.flatMap((one) => (one ? constantsBeside(one.node, name, context.environment) : []));
    const field = subject.kind === 'field' ? context.fieldAt(subject.path) : null;
    return { text: subjectText(subject), atoms: atomsOf((typings[index] as Typing).type, constants, field) };
  });
  if (cut.some(({ atoms }) => atoms === null)) return null;
  return {
    subjects: cut as CutOutlines['subjects'],
    truth: (index, values) => compiled[index]?.evaluate(makeFrame(values, context.environment)) ?? null,
  };
}

/** The condition with a name of its own for each subject; null where it has something that isn't cut by constants. */
function renamedIn(
  item: OutlineItem,
  names: Map<string, { readonly name: string; readonly subject: OutlineSubject }>,
  environment: Environment,
): OutlineItem | null {
  if (item.kind === 'group') {
    const of = item.of.map((own) => renamedIn(own, names, environment));
    return of.includes(null) ? null : { ...item, of: of as readonly OutlineItem[] };
  }
  if (item.kind === 'text' && item.node.kind === 'boolean') return item;
  if (item.kind !== 'clause' || !CUT.has(item.comparison)) return null;
  if (item.values.some((value) => constantIn(value, environment) === undefined)) return null;
  const text = subjectText(item.subject);
  const known = names.get(text) ?? { name: `x${names.size}`, subject: item.subject };
  names.set(text, known);
  return { ...item, subject: { kind: 'field', path: [known.name] } };
}
