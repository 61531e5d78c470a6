import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { readDate, readDuration, readTime } from '../values/temporal.ts';
import type { Signature } from './builtins/builtin.ts';
import { findPattern, readReplacement } from './builtins/patterns.ts';
import type { CallNode, Node } from './tree.ts';
import { isAssignable, type Type, type Typing, termOfType } from './types.ts';

/** The way of calling a built-in that fits what is given, if there is one. */
export const findSignature = (node: CallNode, signatures: readonly Signature[], given: readonly Typing[]): Signature | null =>
  signatures.find((signature) => fits(signature, given, node.parameters)) ?? null;

/** The type that a call of a signature has. */
export function resultOf(signature: Signature, node: CallNode, given: readonly Typing[]): Type {
  return typeof signature.result === 'function'
    ? signature.result(orderedTypings(signature, given, node.parameters))
    : signature.result;
}

/**
 * `duration("P3D")` and its kin: the type of a literal is known from its text, and a wrong literal is an error, not null.
 * Null for any other call.
 */
export function literalOf(node: CallNode): Type | Diagnostic | null {
  const only = node.of[0];
  if (node.of.length !== 1 || only?.kind !== 'text') return null;
  const read = { date: readDate, time: readTime, duration: readDuration }[node.name as 'date'];
  if (!read) return null;
  const value = read(only.value);
  if (value) return { kind: (value as { kind: 'date' }).kind };
  return diagnostic('expression/bad-temporal', '', { found: only.value }, only.span);
}

const PATTERNED: ReadonlySet<string> = new Set(['matches', 'replace', 'split']);

/** A pattern, its flags or a replacement that is written out and can't be used: known when it is written, not when it runs. */
export function patternFault(node: CallNode): Diagnostic | null {
  if (!PATTERNED.has(node.name)) return null;
  const argument = (name: string, position: number): Node | undefined =>
    node.parameters ? node.of[node.parameters.indexOf(name)] : node.of[position];
  const pattern = argument(node.name === 'split' ? 'delimiter' : 'pattern', 1);
  const flags = node.name === 'split' ? undefined : argument('flags', node.name === 'replace' ? 3 : 2);
  if (pattern?.kind !== 'text' || (flags && flags.kind !== 'text')) return null;
  const compiled = findPattern(pattern.value, flags?.value ?? '');
  if (!compiled) return diagnostic('expression/bad-pattern', '', { found: pattern.value.slice(0, 60) }, pattern.span);
  const replacement = node.name === 'replace' ? argument('replacement', 2) : undefined;
  if (replacement?.kind !== 'text' || readReplacement(replacement.value, compiled.groupCount())) return null;
  return diagnostic('expression/bad-replacement', '', { found: replacement.value.slice(0, 60) }, replacement.span);
}

/** Why no way of calling fits: the first argument of the wrong type, or the ways there are. */
export function callFault(node: CallNode, signatures: readonly Signature[], given: readonly Typing[]): Diagnostic {
  const same = signatures.find((signature) => signature.parameters.length === given.length) ?? signatures[0];
  const wrong =
    same?.parameters.findIndex((parameter, index) => given[index] && !isAssignable(given[index].type, parameter.type)) ?? -1;
  const parameter = same?.parameters[wrong];
  const argument = node.of[wrong];
  const found = given[wrong];
  if (!node.parameters && parameter && argument && found && same?.parameters.length === given.length) {
    const params = {
      function: node.name,
      parameter: parameter.name,
      expected: termOfType(parameter.type),
      found: termOfType(found.type),
    };
    return diagnostic('expression/argument', '', params, argument.span);
  }
  const forms = signatures.map(
    (one) => `${node.name}(${one.parameters.map((own) => (own.optional ? `${own.name}?` : own.name)).join(', ')})`,
  );
  return diagnostic('expression/arguments', '', { function: node.name, forms }, node.span);
}

/** For each parameter the position of its argument, -1 where it is left out; null when a name is unknown. */
export function argumentOrder(signature: Signature, names: readonly string[] | null, count: number): readonly number[] | null {
  if (!names) return signature.parameters.map((_, index) => (index < count ? index : -1));
  const known = signature.parameters.map((parameter) => parameter.name);
  return names.some((name) => !known.includes(name)) || new Set(names).size !== names.length
    ? null
    : known.map((name) => names.indexOf(name));
}

function fits(signature: Signature, given: readonly Typing[], names: readonly string[] | null): boolean {
  const { parameters } = signature;
  if (signature.variadic) {
    if (names || given.length < parameters.length) return false;
    return given.every((argument, index) => {
      const parameter = parameters[Math.min(index, parameters.length - 1)];
      return parameter !== undefined && isAssignable(argument.type, parameter.type);
    });
  }
  if (given.length > parameters.length) return false;
  const order = argumentOrder(signature, names, given.length);
  return (
    order !== null &&
    parameters.every((parameter, index) => {
      const argument = given[order[index] as number];
      return argument ? isAssignable(argument.type, parameter.type) : parameter.optional === true;
    })
  );
}

function orderedTypings(signature: Signature, given: readonly Typing[], names: readonly string[] | null): readonly Typing[] {
  const order = argumentOrder(signature, names, given.length);
  return names && order ? order.flatMap((index) => (index < 0 ? [] : [given[index] as Typing])) : given;
}
