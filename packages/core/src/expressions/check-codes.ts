import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { findSuggestion } from '../shared/suggestion.ts';
import type { Node } from './tree.ts';
import type { TypeOption } from './types.ts';

/** Text literals that a node can yield and that are none of the codes, each with the nearest code if there is one. */
export function strangersIn(node: Node, options: readonly TypeOption[]): readonly Diagnostic[] {
  if (node.kind === 'list') return node.of.flatMap((item) => strangersIn(item, options));
  if (node.kind === 'if') return [node.then, node.otherwise].flatMap((item) => strangersIn(item, options));
  if (node.kind !== 'text' || options.some((option) => option.code === node.value)) return [];
  const known = options.map((option) => option.code);
  const byLabel = options.find((option) => option.label.toLowerCase() === node.value.toLowerCase());
  const suggestion = byLabel?.code ?? findSuggestion(node.value, known);
  const found = node.value;
  return suggestion
    ? [diagnostic('expression/unknown-option-near', '', { found, suggestion }, node.span)]
    : [diagnostic('expression/unknown-option', '', { found, known }, node.span)];
}

/** Text literals that a node can yield, with the options they stand for. */
export function chosenIn(node: Node, options: readonly TypeOption[]): readonly (readonly [Node, TypeOption])[] {
  if (node.kind === 'list') return node.of.flatMap((item) => chosenIn(item, options));
  if (node.kind === 'if') return [node.then, node.otherwise].flatMap((item) => chosenIn(item, options));
  const option = node.kind === 'text' ? options.find(({ code }) => code === node.value) : undefined;
  return option ? [[node, option]] : [];
}

/** Texts that aren't known before they are made, so that they can't be known to be one of the codes. */
export function unknownTexts(node: Node, options: readonly TypeOption[], isText: (node: Node) => boolean): readonly Diagnostic[] {
  if (node.kind === 'if') return [node.then, node.otherwise].flatMap((item) => unknownTexts(item, options, isText));
  if (node.kind === 'text' || !isText(node)) return [];
  return [diagnostic('expression/not-an-option', '', { known: options.map((option) => option.code) }, node.span)];
}
