import type { Span } from '../shared/diagnostic.ts';
import type { Exact } from '../values/exact.ts';
import type { DateTimeValue, DateValue, DaysDuration, MonthsDuration, TimeValue } from '../values/temporal.ts';

/** Where a node stands in its text. */
type At = { readonly span: Span };

export type ArithmeticOperator = '+' | '-' | '*' | '/' | '**';
export type ComparisonOperator = '=' | '!=' | '<' | '<=' | '>' | '>=';
export type TemporalLiteral = DateValue | TimeValue | DateTimeValue | DaysDuration | MonthsDuration;

export type Binding = { readonly name: string; readonly nameSpan: Span; readonly source: Node };

/**
 * One test of `in (…)` or of a decision table's cell. A bare expression tests equality, or membership of a list or range;
 * one that reads `?`, the value tested, is a condition of its own (OMG DMN 1.3, 7.3.13).
 */
export type UnaryTest =
  | ({ readonly kind: 'compares'; readonly operator: ComparisonOperator; readonly to: Node } & At)
  | ({ readonly kind: 'matches'; readonly node: Node } & At)
  | ({ readonly kind: 'holds'; readonly node: Node } & At);

/** The name of the value tested, within a test. */
export const TESTED = '?';

export type NullNode = { readonly kind: 'null' } & At;
export type BooleanNode = { readonly kind: 'boolean'; readonly value: boolean } & At;
export type NumberNode = { readonly kind: 'number'; readonly value: Exact } & At;
export type TextNode = { readonly kind: 'text'; readonly value: string } & At;
/** `@"2027-03-12"`: the literal's text is kept, its value too where it doesn't depend on a zone. */
export type TemporalNode = { readonly kind: 'temporal'; readonly text: string } & At;
export type NameNode = { readonly kind: 'name'; readonly name: string } & At;
export type PathNode = { readonly kind: 'path'; readonly of: Node; readonly name: string; readonly nameSpan: Span } & At;
export type NegateNode = { readonly kind: 'negate'; readonly of: Node } & At;
export type ArithmeticNode = {
  readonly kind: 'arithmetic';
  readonly operator: ArithmeticOperator;
  readonly left: Node;
  readonly right: Node;
} & At;
export type CompareNode = {
  readonly kind: 'compare';
  readonly operator: ComparisonOperator;
  readonly left: Node;
  readonly right: Node;
} & At;
export type BetweenNode = { readonly kind: 'between'; readonly value: Node; readonly low: Node; readonly high: Node } & At;
export type InNode = { readonly kind: 'in'; readonly value: Node; readonly tests: readonly UnaryTest[] } & At;
/** `and` of two or more. */
export type AllNode = { readonly kind: 'all'; readonly of: readonly Node[] } & At;
/** `or` of two or more. */
export type AnyNode = { readonly kind: 'any'; readonly of: readonly Node[] } & At;
export type IfNode = { readonly kind: 'if'; readonly test: Node; readonly then: Node; readonly otherwise: Node } & At;
export type QuantifiedNode = {
  readonly kind: 'quantified';
  readonly which: 'some' | 'every';
  readonly bindings: readonly Binding[];
  readonly satisfies: Node;
} & At;
export type ForNode = { readonly kind: 'for'; readonly bindings: readonly Binding[]; readonly returns: Node } & At;
export type FilterNode = { readonly kind: 'filter'; readonly of: Node; readonly where: Node } & At;
export type CallNode = {
  readonly kind: 'call';
  readonly name: string;
  readonly nameSpan: Span;
  readonly of: readonly Node[];
  /** Parameter names of a call with named arguments, in the order of `of`. */
  readonly parameters: readonly string[] | null;
} & At;
export type ListNode = { readonly kind: 'list'; readonly of: readonly Node[] } & At;
export type RangeNode = {
  readonly kind: 'range';
  readonly low: Node;
  readonly high: Node;
  readonly includesLow: boolean;
  readonly includesHigh: boolean;
} & At;

/** An expression's syntax tree. Stored form is the text; trees are made by {@link parseExpression}. */
export type Node =
  | NullNode
  | BooleanNode
  | NumberNode
  | TextNode
  | TemporalNode
  | NameNode
  | PathNode
  | NegateNode
  | ArithmeticNode
  | CompareNode
  | BetweenNode
  | InNode
  | AllNode
  | AnyNode
  | IfNode
  | QuantifiedNode
  | ForNode
  | FilterNode
  | CallNode
  | ListNode
  | RangeNode;

/** Characters of a text that an expression can come to; a longer one is null. */
export const MAX_TEXT_VALUE = 1_000_000;

/** Bounds on a single expression, so that every text is read and decided in bounded time. */
export const LIMITS = {
  textLength: 20_000,
  depth: 120,
  /** Maximum depth of the tree. Unlike `depth` it counts the levels that chains of operators make (`a + b + …`). */
  chain: 1_000,
  nodes: 5_000,
  listLength: 100_000,
  /** Parts of an expression evaluated, those of loops once for each item: about a tenth of a second's work. */
  steps: 2_000_000,
} as const;

/** A span for nodes that were made rather than read. */
export const NOWHERE: Span = { start: 0, end: 0 };

/** The direct sub-expressions of a node, left to right. */
export function childrenOf(node: Node): readonly Node[] {
  switch (node.kind) {
    case 'null':
    case 'boolean':
    case 'number':
    case 'text':
    case 'temporal':
    case 'name':
      return [];
    case 'path':
    case 'negate':
      return [node.of];
    case 'arithmetic':
    case 'compare':
      return [node.left, node.right];
    case 'between':
      return [node.value, node.low, node.high];
    case 'in':
      return [node.value, ...node.tests.map((test) => (test.kind === 'compares' ? test.to : test.node))];
    case 'all':
    case 'any':
    case 'call':
    case 'list':
      return node.of;
    case 'if':
      return [node.test, node.then, node.otherwise];
    case 'quantified':
      return [...node.bindings.map((binding) => binding.source), node.satisfies];
    case 'for':
      return [...node.bindings.map((binding) => binding.source), node.returns];
    case 'filter':
      return [node.of, node.where];
    case 'range':
      return [node.low, node.high];
    default:
      return node satisfies never;
  }
}

/** The same node with its children replaced, in the order of {@link childrenOf}. Unchanged children: the same node. */
export function withChildren(node: Node, children: readonly Node[]): Node {
  const before = childrenOf(node);
  if (before.every((child, index) => child === children[index])) return node;
  const at = (index: number): Node => children[index] as Node;
  switch (node.kind) {
    case 'null':
    case 'boolean':
    case 'number':
    case 'text':
    case 'temporal':
    case 'name':
      return node;
    case 'path':
    case 'negate':
      return { ...node, of: at(0) };
    case 'arithmetic':
    case 'compare':
      return { ...node, left: at(0), right: at(1) };
    case 'between':
      return { ...node, value: at(0), low: at(1), high: at(2) };
    case 'in':
      return {
        ...node,
        value: at(0),
        tests: node.tests.map((test, index) =>
          test.kind === 'compares' ? { ...test, to: at(index + 1) } : { ...test, node: at(index + 1) },
        ),
      };
    case 'all':
    case 'any':
    case 'call':
    case 'list':
      return { ...node, of: children };
    case 'if':
      return { ...node, test: at(0), then: at(1), otherwise: at(2) };
    case 'quantified':
      return { ...node, bindings: withSources(node.bindings, children), satisfies: at(node.bindings.length) };
    case 'for':
      return { ...node, bindings: withSources(node.bindings, children), returns: at(node.bindings.length) };
    case 'filter':
      return { ...node, of: at(0), where: at(1) };
    case 'range':
      return { ...node, low: at(0), high: at(1) };
    default:
      return node satisfies never;
  }
}

const withSources = (bindings: readonly Binding[], children: readonly Node[]): readonly Binding[] =>
  bindings.map((binding, index) => ({ ...binding, source: children[index] as Node }));
