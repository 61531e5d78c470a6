import { diagnostic, type Span } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import type { CheckedExpression } from './check.ts';
import { childrenOf, type Node } from './tree.ts';
import { originsOf, TYPES, type Type, type Typing } from './types.ts';

/**
 * A field an expression reads, and the sub-field or entry, if it reads just that: `objects`, `objects.material`. `whole`:
 * the rows or the record as such go somewhere, so that everything in them is read.
 */
export type ReadReference = { readonly name: string; readonly part: string | null; readonly whole: boolean };

/** Built-ins that read of a list only how long it is. */
const COUNTING: ReadonlySet<string> = new Set(['count']);
/** Built-ins that give rows on as they are: what is read of them shows where they come out. */
const PASSING: ReadonlySet<string> = new Set([
  'append',
  'concatenate',
  'flatten',
  'insert before',
  'list replace',
  'remove',
  'reverse',
  'sublist',
  'union',
]);

/**
 * Visits every node that reads something of the scope: names, and parts of what comes from a name, whichever way it came
 * there (paths, loops, filters, lists, built-ins, choices). The static types say where rows and records come from.
 */
export function visitReads(checked: CheckedExpression, found: (node: Node, reference: ReadReference) => void): void {
  const items: (Typing | undefined)[] = [];
  const typeOf = (node: Node): Type | undefined => checked.typings.get(node)?.type;
  const itemOf = (node: Node): Typing | undefined => {
    const typing = checked.typings.get(node);
    return typing?.type.kind === 'list' ? typing.type.of : typing;
  };
  const readPart = (node: Node, origins: readonly string[], part: string): void => {
    for (const name of origins) found(node, { name, part, whole: false });
  };
  /** `isPassed`: whoever stands around takes only parts of it, or gives it on. */
  const visit = (node: Node, isPassed: boolean): void => {
    const type = typeOf(node);
    const isSource = node.kind === 'filter' || node.kind === 'if' || node.kind === 'list' || node.kind === 'for';
    const isPassing = isSource || (node.kind === 'call' && PASSING.has(node.name));
    if (type && !isPassed && !isPassing) for (const name of originsOf(type)) found(node, { name, part: null, whole: true });
    switch (node.kind) {
      case 'name': {
        const reference = checked.references.get(node);
        if (reference?.kind === 'slot') found(node, { name: node.name, part: null, whole: false });
        if (reference?.kind === 'entry') readPart(node, originsOf(items[reference.local]?.type ?? TYPES.null), node.name);
        return;
      }
      case 'path': {
        const of = typeOf(node.of);
        if (of) readPart(node, partOrigins(of, node.of, checked), node.name);
        visit(node.of, true);
        return;
      }
      case 'for':
      case 'quantified':
        for (const binding of node.bindings) visit(binding.source, true);
        visit(node.kind === 'for' ? node.returns : node.satisfies, node.kind === 'for' && isPassed);
        return;
      case 'filter':
        visit(node.of, isPassed);
        items[checked.localIndexes.get(node) as number] = itemOf(node.of);
        visit(node.where, false);
        return;
      case 'if':
        visit(node.test, false);
        visit(node.then, isPassed);
        visit(node.otherwise, isPassed);
        return;
      case 'list':
        for (const child of node.of) visit(child, isPassed);
        return;
      case 'call': {
        const passes = COUNTING.has(node.name) || (isPassed && PASSING.has(node.name));
        for (const child of node.of) visit(child, passes);
        return;
      }
      default:
        for (const child of childrenOf(node)) visit(child, false);
    }
  };
  visit(checked.node, false);
}

/** Where the entries a path reads can come from. Of a value of no known type: everything that is read to make it. */
function partOrigins(type: Type, node: Node, checked: CheckedExpression): readonly string[] {
  if ((type.kind === 'list' ? type.of.type : type).kind !== 'any') return originsOf(type);
  const origins = new Set<string>();
  const collect = (inner: Node): void => {
    const found = checked.typings.get(inner)?.type;
    for (const origin of found ? originsOf(found) : []) origins.add(origin);
    childrenOf(inner).forEach(collect);
  };
  collect(node);
  return [...origins];
}

type Reads = { readonly references: readonly ReadReference[]; readonly names: readonly string[] };
const readsOf = new WeakMap<CheckedExpression, Reads>();

/** Looked up for every stage that an expression matters to: worked out once. */
function findReads(checked: CheckedExpression): Reads {
  const known = readsOf.get(checked);
  if (known) return known;
  const references = new Map<string, ReadReference>();
  visitReads(checked, (_, reference) => {
    const key = reference.part === null ? reference.name : `${reference.name}.${reference.part}`;
    const found = references.get(key);
    if (!found || (reference.whole && !found.whole)) references.set(key, reference);
  });
  const list = [...references.values()];
  const reads = { references: list, names: [...new Set(list.map(({ name }) => name))] };
  readsOf.set(checked, reads);
  return reads;
}

/** What a checked expression reads of its scope, each once, in order of first occurrence. */
export const referencesOf = (checked: CheckedExpression): readonly ReadReference[] => findReads(checked).references;

/** The scope names an expression reads, sub-fields aside. */
export const namesReadBy = (checked: CheckedExpression): readonly string[] => findReads(checked).names;

/** A key's new name; with `within`, of a sub-field of that table (`row` where the expression's rows are that table's). */
export type Renaming = { readonly from: string; readonly to: string; readonly within?: string };

/** A part of a text to be replaced. */
export type Replacement = { readonly span: Span; readonly text: string };

/** A text with parts of it replaced; the parts don't overlap. */
export function replaceIn(text: string, replacements: readonly Replacement[]): string {
  let result = '';
  let end = 0;
  for (const { span, text: put } of [...replacements].sort((a, b) => a.span.start - b.span.start)) {
    result += text.slice(end, span.start) + put;
    end = span.end;
  }
  return result + text.slice(end);
}

/**
 * What to replace in an expression's text so that it reads a key by its new name; the rest of the text stays as it was
 * written. Loop variables of the old name are left alone; loop variables that would capture the new name get another. Code
 * `expression/captured` where a filter would read the new name as a part of its rows, or a part's new name where a field is
 * meant: there is no text for that. `foreign`: nodes that stand in another text.
 */
export function findRenames(
  checked: CheckedExpression,
  renaming: Renaming,
  foreign: ReadonlySet<Node> = new Set(),
): Result<readonly Replacement[]> {
  const { from, to, within } = renaming;
  const affected = new Set<Node>();
  visitReads(checked, (node, { name, part }) => {
    const isMeant = within === undefined ? name === from && part === null : name === within && part === from;
    if (isMeant && !foreign.has(node)) affected.add(node);
  });
  if (affected.size === 0) return success([]);
  const captured = findCaptured(checked, renaming, affected);
  if (captured) return failure([diagnostic('expression/captured', '', { found: to }, captured.span)]);
  const fresh = within === undefined ? freeName(to, checked) : '';
  const replacements: Replacement[] = [];
  const visit = (node: Node): void => {
    if (foreign.has(node)) return;
    if (affected.has(node) && node.kind === 'name') replacements.push({ span: node.span, text: to });
    else if (affected.has(node) && node.kind === 'path') replacements.push({ span: node.nameSpan, text: to });
    else if (within === undefined) {
      // A loop variable called like the new name would capture the field: it gets a name that nothing has.
      if (node.kind === 'name' && node.name === to && isLocal(node, checked)) replacements.push({ span: node.span, text: fresh });
      if (node.kind === 'for' || node.kind === 'quantified')
        for (const binding of node.bindings) if (binding.name === to) replacements.push({ span: binding.nameSpan, text: fresh });
    }
    childrenOf(node).forEach(visit);
  };
  visit(checked.node);
  return success(replacements);
}

const isLocal = (node: Node, checked: CheckedExpression): boolean => checked.references.get(node)?.kind === 'local';

/** A name made of another that nothing in an expression has: no field it reads, no loop variable, no part of rows. */
function freeName(name: string, checked: CheckedExpression): string {
  const taken = new Set<string>();
  const collect = (node: Node): void => {
    if (node.kind === 'name' || node.kind === 'path') taken.add(node.name);
    if (node.kind === 'for' || node.kind === 'quantified') for (const binding of node.bindings) taken.add(binding.name);
    childrenOf(node).forEach(collect);
  };
  collect(checked.node);
  for (const { type } of checked.typings.values())
    if (type.kind === 'context') for (const key of Object.keys(type.entries)) taken.add(key);
  let free = `${name}Item`;
  for (let number = 2; taken.has(free); number++) free = `${name}Item${number}`;
  return free;
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

/** Built-ins that read the clock, the workspace's zone or its calendar. */
const OF_THE_MOMENT: ReadonlySet<string> = new Set(['now', 'today', 'date and time', 'working days', 'working hours']);

/** Whether what a tree gives depends on when, or in what workspace, it is evaluated. */
export const readsTheMoment = (node: Node): boolean =>
  (node.kind === 'call' && OF_THE_MOMENT.has(node.name)) || childrenOf(node).some(readsTheMoment);
