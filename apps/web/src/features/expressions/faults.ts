import {
  checkExpression,
  type Diagnostic,
  type Node,
  parseExpression,
  parseUnaryTests,
  type Scope,
  type Type,
} from '@ypomet/core';

/** What an expression reads as in a scope, and what is wrong with it. `node` is null where it doesn't parse. */
export type Read = { readonly node: Node | null; readonly diagnostics: readonly Diagnostic[] };

/** Reads an expression of an expected type. */
export function readText(text: string, scope: Scope, expected: Type | undefined): Read {
  const parsed = parseExpression(text);
  if (!parsed.ok) return { node: null, diagnostics: parsed.diagnostics };
  return { node: parsed.value, diagnostics: checkExpression(parsed.value, scope, expected).diagnostics };
}

/** What is wrong with an expression of an expected type, as it is typed. */
export const faultsOf = (text: string, scope: Scope, expected: Type): readonly Diagnostic[] =>
  readText(text, scope, expected).diagnostics;

/** What is wrong with the tests of a decision table's cell, beside the input they are of. */
export function faultsOfTests(text: string, input: string, scope: Scope): readonly Diagnostic[] {
  const tests = parseUnaryTests(text.trim());
  if (!tests.ok) return tests.diagnostics;
  const subject = parseExpression(input);
  if (tests.value === null || !subject.ok) return [];
  return checkExpression({ kind: 'in', value: subject.value, tests: tests.value.tests, span: subject.value.span }, scope)
    .diagnostics;
}
