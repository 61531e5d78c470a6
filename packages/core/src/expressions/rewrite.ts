import { diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import type { CheckedExpression } from './check.ts';
import { printExpression } from './print.ts';
import { type Binding, childrenOf, type Node, withChildren } from './tree.ts';

/** A field an expression reads, and the sub-field or entry, if it reads just that: `objects`, `objects.material`. */
export type ReadReference = { readonly name: string; readonly part: string | null };

/** Visits every node that reads something of the scope: names, and parts through paths, loops and filters. */
function visitReads(checked: CheckedExpression, found: (node: Node, reference: ReadReference) => void): void {
  /** The scope name whose items or entries a source yields: follows `o.material` back to `objects.material`. */
  const rootOf = (node: Node, locals: ReadonlyMap<string, string | null>): string | null => {
    if (node.kind === 'filter') return rootOf(node.of, locals);
    if (node.kind !== 'name') return null;
    return checked.references.get(node)?.kind === 'slot' ? node.name : (locals.get(node.name) ?? null);
  };
  const visitLoop = (bindings: readonly Binding[], body: Node, outer: ReadonlyMap<string, string | null>): void => {
    let locals = outer;
    for (const binding of bindings) {
      visit(binding.source, locals);
      locals = new Map([...locals, [binding.name, rootOf(binding.source, locals)]]);
    }
    visit(body, locals);
  };
  const visit = (node: Node, locals: ReadonlyMap<string, string | null>): void => {
    switch (node.kind) {
      case 'name': {
        const reference = checked.references.get(node);
        const item = locals.get('item');
        if (reference?.kind === 'slot') found(node, { name: node.name, part: null });
        if (reference?.kind === 'entry' && item) found(node, { name: item, part: node.name });
        return;
      }
      case 'path': {
        const root = rootOf(node.of, locals);
        if (root) found(node, { name: root, part: node.name });
        visit(node.of, locals);
        return;
      }
      case 'for':
        visitLoop(node.bindings, node.returns, locals);
        return;
      case 'quantified':
        visitLoop(node.bindings, node.satisfies, locals);
        return;
      case 'filter':
        visit(node.of, locals);
        visit(node.where, new Map([...locals, ['item', rootOf(node.of, locals)]]));
        return;
      default:
        for (const child of childrenOf(node)) visit(child, locals);
    }
  };
  visit(checked.node, new Map());
}

/** What a checked expression reads of its scope, each once, in order of first occurrence. */
export function referencesOf(checked: CheckedExpression): readonly ReadReference[] {
  const references = new Map<string, ReadReference>();
  visitReads(checked, (_, reference) => {
    const key = reference.part === null ? reference.name : `${reference.name}.${reference.part}`;
    if (!references.has(key)) references.set(key, reference);
  });
  return [...references.values()];
}

/** The scope names an expression reads, sub-fields aside. */
export const namesReadBy = (checked: CheckedExpression): readonly string[] => [
  ...new Set(referencesOf(checked).map((reference) => reference.name)),
];

/** A key's new name; with `within`, of a sub-field of that table (`row` where the expression's rows are that table's). */
export type Renaming = { readonly from: string; readonly to: string; readonly within?: string };

/**
 * Renames a field key in a checked expression and gives its new text. Loop variables of the old name are left alone;
 * loop variables that would capture the new name get another. Code `expression/captured` where a filter would read the
 * new name as a part of its rows, or a part's new name where a field is meant: there is no text for that.
 */
export function renameInExpression(checked: CheckedExpression, renaming: Renaming): Result<string> {
  const { from, to, within } = renaming;
  const affected = new Set<Node>();
  visitReads(checked, (node, { name, part }) => {
    if (within === undefined ? name === from && part === null : name === within && part === from) affected.add(node);
  });
  if (affected.size === 0) return success(printExpression(checked.node));
  const captured = findCaptured(checked, renaming, affected);
  if (captured) return failure([diagnostic('expression/captured', '', { found: to }, captured.span)]);
  const rename = (node: Node): Node => {
    const changed = withChildren(node, childrenOf(node).map(rename));
    if (affected.has(node) && (changed.kind === 'name' || changed.kind === 'path')) return { ...changed, name: to };
    const binds = changed.kind === 'for' || changed.kind === 'quantified';
    return binds && within === undefined ? withFreshBindings(changed, checked, to) : changed;
  };
  return success(printExpression(rename(checked.node)));
}

/** A name that would mean something else after the renaming, because it stands in a filter over rows with such a part. */
function findCaptured(checked: CheckedExpression, { from, to, within }: Renaming, affected: ReadonlySet<Node>): Node | null {
  const hasPart = (filter: Extract<Node, { kind: 'filter' }>, part: string): boolean => {
    const type = checked.typings.get(filter.of)?.type;
    const item = type?.kind === 'list' ? type.of.type : null;
    return item?.kind === 'context' && Object.hasOwn(item.entries, part);
  };
  const visit = (node: Node, isInside: boolean): Node | null => {
    if (isInside && node.kind === 'name' && (within === undefined ? affected.has(node) : node.name === to && !affected.has(node)))
      return node;
    if (node.kind !== 'filter')
      return (
        childrenOf(node)
          .map((child) => visit(child, isInside))
          .find((found) => found !== null) ?? null
      );
    return visit(node.of, isInside) ?? visit(node.where, isInside || hasPart(node, within === undefined ? to : from));
  };
  return visit(checked.node, false);
}

type LoopNode = Extract<Node, { kind: 'for' | 'quantified' }>;

/** Gives a loop variable called `taken` another name, here and in the loop's body, so that it can't capture a field. */
function withFreshBindings(node: LoopNode, checked: CheckedExpression, taken: string): Node {
  if (!node.bindings.some((binding) => binding.name === taken)) return node;
  const fresh = `${taken}Item`;
  const swap = (inner: Node): Node => {
    if (inner.kind === 'name' && inner.name === taken && checked.references.get(inner)?.kind === 'local')
      return { ...inner, name: fresh };
    return withChildren(inner, childrenOf(inner).map(swap));
  };
  const bindings = node.bindings.map((binding) => (binding.name === taken ? { ...binding, name: fresh } : binding));
  return node.kind === 'for'
    ? { ...node, bindings, returns: swap(node.returns) }
    : { ...node, bindings, satisfies: swap(node.satisfies) };
}
