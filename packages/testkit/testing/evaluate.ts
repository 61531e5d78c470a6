import {
  type CheckedExpression,
  checkExpression,
  compileCondition,
  compileExpression,
  explainExpression,
  type Frame,
  makeFrame,
  makeScope,
  ORDINARY_CALENDAR,
  parseExpression,
  runProgram,
  type Scope,
  type Typing,
  type Value,
  writeText,
} from '@ypomet/core';

/** 2026-11-25T09:30:00Z, a Wednesday. */
export const NOW = Date.UTC(2026, 10, 25, 9, 30);
export const ENVIRONMENT = { now: NOW, zone: 'Europe/Vienna', calendar: ORDINARY_CALENDAR } as const;

export const EMPTY_SCOPE: Scope = { entries: new Map() };

/** Parses and types; throws on any diagnostic, naming it. */
export function checked(text: string, scope: Scope = EMPTY_SCOPE): CheckedExpression {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(`${text}: ${JSON.stringify(parsed.diagnostics)}`);
  const result = checkExpression(parsed.value, scope);
  if (result.diagnostics.length > 0) throw new Error(`${text}: ${JSON.stringify(result.diagnostics)}`);
  return result;
}

export type Names = Readonly<Record<string, { readonly typing: Typing; readonly value: Value }>>;

/** The scope and a frame for named, typed values. */
export function namesOf(names: Names): { readonly scope: Scope; readonly frame: Frame } {
  const scope = makeScope(Object.fromEntries(Object.entries(names).map(([name, one]) => [name, one.typing])));
  return {
    scope,
    frame: makeFrame(
      Object.values(names).map((one) => one.value),
      ENVIRONMENT,
    ),
  };
}

/** Whether a condition holds, as a decision asks it: by its program. */
export const holds = (expression: CheckedExpression, frame: Frame): boolean =>
  runProgram(compileCondition(expression), makeFrame(frame.slots, frame.environment));

/** Evaluates by closures, by the interpreter and as a condition, which must agree. */
export function evaluate(text: string, names: Names = {}): Value {
  const { scope, frame } = namesOf(names);
  const expression = checked(text, scope);
  const value = compileExpression(expression)(frame);
  const explained = explainExpression(expression, makeFrame(frame.slots, ENVIRONMENT)).value;
  if (show(value) !== show(explained)) throw new Error(`${text}: compiled ${show(value)}, interpreted ${show(explained)}`);
  if (holds(expression, frame) !== (value === true))
    throw new Error(`${text}: ${show(value)}, but asked as a condition otherwise`);
  return value;
}

/** A value as text, null as `null`. */
export const show = (value: Value): string => (typeof value === 'string' ? JSON.stringify(value) : (writeText(value) ?? 'null'));

/** Evaluates and shows. */
export const evaluated = (text: string, names: Names = {}): string => show(evaluate(text, names));

/** The codes of what is wrong with a text, parse or type, each with the marked part. */
export function faults(text: string, scope: Scope = EMPTY_SCOPE): readonly string[] {
  const parsed = parseExpression(text);
  const diagnostics = parsed.ok ? checkExpression(parsed.value, scope).diagnostics : parsed.diagnostics;
  return diagnostics.map(({ code, span }) => `${code} «${span ? text.slice(span.start, span.end) : ''}»`);
}
