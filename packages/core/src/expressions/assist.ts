import { listAllBuiltins } from './builtins/registry.ts';
import { PROPERTIES } from './builtins/temporal.ts';
import { type CheckedExpression, checkExpression } from './check.ts';
import { parseExpression } from './parse.ts';
import type { Scope } from './scope.ts';
import { childrenOf, type Node } from './tree.ts';
import { optionsOf, type Type, type Typing } from './types.ts';

/** A sub-expression under the pointer, and its type. */
export type Hovered = { readonly node: Node; readonly typing: Typing };

/** The innermost sub-expression at an offset of the text that a checked expression was read from. */
export function typeAt(checked: CheckedExpression, offset: number): Hovered | null {
  let found: Hovered | null = null;
  const visit = (node: Node): void => {
    if (offset < node.span.start || offset > node.span.end) return;
    const typing = checked.typings.get(node);
    if (typing) found = { node, typing };
    for (const child of childrenOf(node)) visit(child);
  };
  visit(checked.node);
  return found;
}

/** Something that can be written at a place: `text` replaces the span that was begun. */
export type Completion = {
  readonly kind: 'name' | 'part' | 'option' | 'function';
  readonly text: string;
  /** The type of a name or part; an option's label; nothing for a function, which its name tells. */
  readonly detail: Type | string | null;
};
export type Completions = {
  readonly span: { readonly start: number; readonly end: number };
  readonly items: readonly Completion[];
};

/**
 * What can be written at an offset of a text that need not be whole: parts after a dot, options in quotes after a choice
 * is compared, names and built-ins elsewhere. Those that begin with what was typed come first, then those that hold it.
 */
export function completionsAt(text: string, offset: number, scope: Scope): Completions {
  const before = text.slice(0, offset);
  const quoted = /([A-Za-z_][\w.]*)\s*(?:=|!=|in\s*\((?:\s*"[^"]*"\s*,)*)\s*"([^"]*)$/.exec(before);
  if (quoted) {
    const typed = quoted[2] ?? '';
    const options = optionsOf(typeOfText(quoted[1] ?? '', scope) ?? { kind: 'null' }) ?? [];
    const items = options.map(({ code, label }): Completion => ({ kind: 'option', text: code, detail: label }));
    return complete(items, typed, offset);
  }
  if (((before.match(/"/g) ?? []).length & 1) === 1) return complete([], '', offset);
  const path = /([A-Za-z_][\w.]*)\.(\w*)$/.exec(before);
  if (path) return complete(partsOf(typeOfText(path[1] ?? '', scope)), path[2] ?? '', offset);
  const typed = wordsBegun(before);
  const names = [...scope.entries].map(
    ([name, { typing }]): Completion => ({
      kind: 'name',
      text: name,
      detail: typing.type,
    }),
  );
  const functions = listAllBuiltins().map(
    ({ name }): Completion => ({
      kind: 'function',
      text: `${name}(`,
      detail: null,
    }),
  );
  return complete([...names, ...functions], typed, offset);
}

/** The word begun, with the words before it where these begin a built-in: `string le`. */
function wordsBegun(before: string): string {
  const words = /(?:[A-Za-z_]\w* ){0,3}[A-Za-z_]\w*$/.exec(before)?.[0] ?? '';
  for (let rest = words; rest.includes(' '); rest = rest.slice(rest.indexOf(' ') + 1)) {
    if (listAllBuiltins().some(({ name }) => name.startsWith(rest.toLowerCase()))) return rest;
  }
  return words.slice(words.lastIndexOf(' ') + 1);
}

function complete(items: readonly Completion[], typed: string, offset: number): Completions {
  const wanted = typed.toLowerCase();
  const rank = ({ text }: Completion): number => {
    const at = text.toLowerCase().indexOf(wanted);
    return at < 0 ? 2 : at === 0 ? 0 : 1;
  };
  const fitting = items.filter((item) => rank(item) < 2).sort((a, b) => rank(a) - rank(b));
  return { span: { start: offset - typed.length, end: offset }, items: fitting };
}

function typeOfText(text: string, scope: Scope): Type | null {
  const parsed = parseExpression(text);
  if (!parsed.ok) return null;
  const checked = checkExpression(parsed.value, scope);
  return checked.diagnostics.length > 0 ? null : checked.typing.type;
}

function partsOf(type: Type | null): readonly Completion[] {
  const item = type?.kind === 'list' ? type.of.type : type;
  if (!item) return [];
  const parts: Readonly<Record<string, Type>> =
    item.kind === 'context'
      ? Object.fromEntries(Object.entries(item.entries).map(([name, typing]) => [name, typing.type]))
      : (PROPERTIES[item.kind] ?? {});
  return Object.entries(parts).map(([text, own]) => ({ kind: 'part', text, detail: own }));
}
