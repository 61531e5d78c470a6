import { type Diagnostic, type DiagnosticCode, type DiagnosticParams, diagnostic, type Span } from '../shared/diagnostic.ts';
import { findSuggestion } from '../shared/suggestion.ts';
import { term } from '../shared/terms.ts';
import { arithmeticType, currenciesIn } from './arithmetic-types.ts';
import type { Signature } from './builtins/builtin.ts';
import { findBuiltin } from './builtins/registry.ts';
import { PROPERTIES } from './builtins/temporal.ts';
import { callFault, findSignature, literalOf, patternFault, resultOf } from './check-call.ts';
import { chosenIn, strangersIn, unknownTexts } from './check-codes.ts';
import type { Reference, Scope, ScopeEntry } from './scope.ts';
import {
  type ArithmeticNode,
  type Binding,
  type CallNode,
  type CompareNode,
  type FilterNode,
  type Node,
  type PathNode,
  TESTED,
  type UnaryTest,
} from './tree.ts';
import {
  areComparable,
  areOrdered,
  currencyOf,
  isAssignable,
  joinTypes,
  listOf,
  MIXED,
  optionsOf,
  TYPES,
  type Type,
  type TypeOption,
  type Typing,
  termOfType,
  typeOfTemporalLiteral,
  typing,
} from './types.ts';

/** A tree with the type of every node and what every name and call was resolved to. */
export type CheckedExpression = {
  readonly node: Node;
  readonly typing: Typing;
  readonly typings: ReadonlyMap<Node, Typing>;
  readonly references: ReadonlyMap<Node, Reference>;
  readonly signatures: ReadonlyMap<Node, Signature>;
  /** For each binding, filter and test the index of its item among a frame's locals. */
  readonly localIndexes: ReadonlyMap<Binding | Node | UnaryTest, number>;
  /** The option each text literal stands for, where it is compared with a choice or yields one. */
  readonly chosen: ReadonlyMap<Node, TypeOption>;
  readonly diagnostics: readonly Diagnostic[];
};

type Local = { readonly name: string; readonly typing: Typing; readonly index: number; readonly isItem: boolean };

const ANY: Typing = typing(TYPES.any, true);

/**
 * Types a tree in a scope. Errors are diagnostics `expression/…` with a span; the tree can be compiled when there are none.
 * `expected` is the type the whole must have, if any.
 */
export function checkExpression(node: Node, scope: Scope, expected?: Type): CheckedExpression {
  const checker = new Checker(scope);
  const result = checker.check(node);
  if (expected && !isAssignable(result.type, expected)) {
    checker.report('expression/wrong-result', node.span, { expected: termOfType(expected), found: termOfType(result.type) });
  }
  if (expected?.kind === 'choice') checker.requireCodes(node, expected.options);
  // Unknown codes in a list are found when the value is stored; known ones are marked, so that renaming an option finds them.
  if (expected?.kind === 'list' && expected.of.type.kind === 'choice') checker.markCodes(node, expected.of.type.options);
  return checker.finish(node, result);
}

class Checker {
  private readonly typings = new Map<Node, Typing>();
  private readonly references = new Map<Node, Reference>();
  private readonly signatures = new Map<Node, Signature>();
  private readonly diagnostics: Diagnostic[] = [];
  private readonly chosen = new Map<Node, TypeOption>();
  private locals: readonly Local[] = [];
  private readonly localIndexes = new Map<Binding | Node | UnaryTest, number>();

  constructor(private readonly scope: Scope) {}

  finish(node: Node, result: Typing): CheckedExpression {
    const { typings, references, signatures, localIndexes, chosen, diagnostics } = this;
    return { node, typing: result, typings, references, signatures, localIndexes, chosen, diagnostics };
  }

  report(code: DiagnosticCode, span: Span, params: DiagnosticParams = {}): Typing {
    return this.reportFound(diagnostic(code, '', params, span));
  }

  private reportAll(found: readonly Diagnostic[]): void {
    this.diagnostics.push(...found);
  }

  private reportFound(found: Diagnostic): Typing {
    this.diagnostics.push(found);
    return ANY;
  }

  check(node: Node): Typing {
    const result = this.infer(node);
    this.typings.set(node, result);
    return result;
  }

  private infer(node: Node): Typing {
    switch (node.kind) {
      case 'null':
        return typing(TYPES.null, true);
      case 'boolean':
        return typing(TYPES.boolean, false);
      case 'number':
        return typing(TYPES.number, false);
      case 'text':
        return typing(TYPES.text, false);
      case 'temporal':
        return typing(typeOfTemporalLiteral(node.text), false);
      case 'name':
        return this.checkName(node);
      case 'path':
        return this.checkPath(node);
      case 'negate':
        return this.checkNegate(node.of);
      case 'arithmetic':
        return this.checkArithmetic(node);
      case 'compare':
        return this.checkCompare(node);
      case 'between':
        return this.checkBetween(node.value, [node.low, node.high]);
      case 'in':
        return this.checkIn(node.value, node.tests);
      case 'all':
      case 'any':
        return this.checkTruths(node.of);
      case 'if':
        return this.checkIf(node.test, node.then, node.otherwise);
      case 'quantified':
        return this.checkQuantified(node.bindings, node.satisfies);
      case 'for':
        return this.withBindings(node.bindings, () => {
          const item = this.check(node.returns);
          return typing(listOf(item.type, item.nullable), this.anyNullable(node.bindings.map((binding) => binding.source)));
        });
      case 'filter':
        return this.checkFilter(node);
      case 'call':
        return this.checkCall(node);
      case 'list':
        return this.checkList(node.of);
      case 'range':
        return this.checkRange(node.low, node.high);
      default:
        return node satisfies never;
    }
  }

  private anyNullable(nodes: readonly Node[]): boolean {
    return nodes.some((node) => this.typings.get(node)?.nullable ?? true);
  }

  private checkName(node: Extract<Node, { kind: 'name' }>): Typing {
    for (let index = this.locals.length - 1; index >= 0; index--) {
      const local = this.locals[index] as Local;
      if (local.isItem && local.typing.type.kind === 'context' && Object.hasOwn(local.typing.type.entries, node.name)) {
        this.references.set(node, { kind: 'entry', local: local.index });
        return local.typing.type.entries[node.name] as Typing;
      }
      if (local.name === node.name) {
        this.references.set(node, { kind: 'local', local: local.index });
        return local.typing;
      }
    }
    const entry: ScopeEntry | undefined = this.scope.entries.get(node.name);
    if (!entry) return this.unknownName(node.name, node.span);
    this.references.set(node, { kind: 'slot', slot: entry.slot });
    return entry.typing;
  }

  private unknownName(name: string, span: Span): Typing {
    const known = [...this.scope.entries.keys(), ...this.locals.map((local) => local.name)];
    for (const local of this.locals) {
      if (local.isItem && local.typing.type.kind === 'context') known.push(...Object.keys(local.typing.type.entries));
    }
    const suggestion = findSuggestion(name, known);
    return suggestion
      ? this.report('expression/unknown-name-near', span, { found: name, suggestion })
      : this.report('expression/unknown-name', span, { found: name });
  }

  private checkPath(node: PathNode): Typing {
    const of = this.check(node.of);
    if (of.type.kind === 'any') return ANY;
    const item = of.type.kind === 'list' ? of.type.of : of;
    const entry = this.findEntry(item.type, node.name);
    if (!entry) {
      const known = item.type.kind === 'context' ? Object.keys(item.type.entries) : Object.keys(PROPERTIES[item.type.kind] ?? {});
      if (known.length === 0) {
        return this.report('expression/no-parts', node.nameSpan, { found: node.name, type: termOfType(item.type) });
      }
      const suggestion = findSuggestion(node.name, known);
      return suggestion
        ? this.report('expression/unknown-part-near', node.nameSpan, { found: node.name, suggestion })
        : this.report('expression/unknown-part', node.nameSpan, { found: node.name, known });
    }
    const result = typing(entry.type, entry.nullable || item.nullable);
    return of.type.kind === 'list' ? typing({ kind: 'list', of: result }, of.nullable) : result;
  }

  private findEntry(type: Type, name: string): Typing | null {
    if (type.kind === 'context') return Object.hasOwn(type.entries, name) ? (type.entries[name] as Typing) : null;
    const properties = Object.hasOwn(PROPERTIES, type.kind) ? PROPERTIES[type.kind] : undefined;
    const property = properties && Object.hasOwn(properties, name) ? properties[name] : undefined;
    return property ? typing(property, name === 'time offset' || name === 'timezone') : null;
  }

  private checkNegate(of: Node): Typing {
    const operand = this.check(of);
    const kinds = ['number', 'days-duration', 'months-duration', 'any', 'null'];
    if (kinds.includes(operand.type.kind)) return operand;
    return this.report('expression/operand', of.span, {
      operator: '-',
      expected: term('type/number-or-duration'),
      found: termOfType(operand.type),
    });
  }

  private checkArithmetic(node: ArithmeticNode): Typing {
    const [left, right] = [this.check(node.left), this.check(node.right)];
    if (left.type.kind === 'any' || right.type.kind === 'any') return ANY;
    const nullable = left.nullable || right.nullable || node.operator === '/' || node.operator === '**';
    if (left.type.kind === 'null' || right.type.kind === 'null') {
      return typing(left.type.kind === 'null' ? right.type : left.type, true);
    }
    const isSum = node.operator === '+' || node.operator === '-';
    if (isSum && !this.requireOneCurrency(left.type, right.type, node.span, node.operator)) return ANY;
    const result = arithmeticType(left.type, node.operator, right.type);
    if (result) return typing(result, nullable);
    return this.report('expression/operands', node.span, {
      operator: node.operator,
      left: termOfType(left.type),
      right: termOfType(right.type),
    });
  }

  private checkCompare(node: CompareNode): Typing {
    const [left, right] = [this.check(node.left), this.check(node.right)];
    const isEquality = node.operator === '=' || node.operator === '!=';
    this.requireComparable(left, right, node.right, node.left, isEquality, node.span, node.operator);
    return typing(TYPES.boolean, !isEquality && (left.nullable || right.nullable));
  }

  /** Amounts of two currencies can neither be added nor compared. */
  private requireOneCurrency(left: Type, right: Type, span: Span, operator: string): boolean {
    const currencies = [left, right].map(currencyOf).filter((currency) => currency !== undefined);
    if (new Set(currencies).size <= 1 && !currencies.includes(MIXED)) return true;
    this.report('expression/currencies', span, { operator, currencies: [...new Set(currencies)] });
    return false;
  }

  /** Equality or order of two typed nodes, and the codes of a choice where one side is a literal. */
  private requireComparable(
    left: Typing,
    right: Typing,
    rightNode: Node,
    leftNode: Node | null,
    isEquality: boolean,
    span: Span,
    operator: string,
  ): void {
    if (isEquality && this.isNeverNull(left, right)) {
      this.report('expression/never-null', span, { operator });
      return;
    }
    const fits = isEquality ? areComparable(left.type, right.type) : areOrdered(left.type, right.type);
    if (fits && !this.requireOneCurrency(left.type, right.type, span, operator)) return;
    if (!fits) {
      this.report('expression/not-comparable', span, {
        operator,
        left: termOfType(left.type),
        right: termOfType(right.type),
      });
      return;
    }
    const options = optionsOf(left.type);
    if (options) this.checkCodes(rightNode, options);
    const otherOptions = optionsOf(right.type);
    if (otherOptions && leftNode) this.checkCodes(leftNode, otherOptions);
  }

  /** A table compared with null: no rows are the empty list, so that it never is. */
  private isNeverNull(left: Typing, right: Typing): boolean {
    const isTable = (one: Typing): boolean => !one.nullable && one.type.kind === 'list' && one.type.of.type.kind === 'context';
    return (isTable(left) && right.type.kind === 'null') || (isTable(right) && left.type.kind === 'null');
  }

  /** Every text that the node can yield is one of the codes, and known to be. */
  requireCodes(node: Node, options: readonly TypeOption[]): void {
    this.checkCodes(node, options);
    this.reportAll(unknownTexts(node, options, (one) => this.typings.get(one)?.type.kind === 'text'));
  }

  private checkCodes(node: Node, options: readonly TypeOption[]): void {
    this.reportAll(strangersIn(node, options));
    this.markCodes(node, options);
  }

  /** Records the option that each text literal stands for, among the literals that the node can yield. */
  markCodes(node: Node, options: readonly TypeOption[]): void {
    for (const [literal, option] of chosenIn(node, options)) this.chosen.set(literal, option);
  }

  private checkBetween(value: Node, ends: readonly Node[]): Typing {
    const of = this.check(value);
    let nullable = of.nullable;
    for (const end of ends) {
      const found = this.check(end);
      nullable ||= found.nullable;
      this.requireComparable(of, found, end, null, false, end.span, 'between');
    }
    return typing(TYPES.boolean, nullable);
  }

  private checkIn(value: Node, tests: readonly UnaryTest[]): Typing {
    const of = this.check(value);
    for (const test of tests) this.checkTest(value, of, test);
    return typing(TYPES.boolean, true);
  }

  private checkTest(value: Node, of: Typing, test: UnaryTest): void {
    this.localIndexes.set(test, this.locals.length);
    this.withLocal(TESTED, of, false, () => this.checkTestOf(value, of, test));
  }

  private checkTestOf(value: Node, of: Typing, test: UnaryTest): void {
    if (test.kind === 'holds') {
      this.requireBoolean(test.node, this.check(test.node));
      return;
    }
    if (test.kind === 'compares') {
      const to = this.check(test.to);
      const isEquality = test.operator === '=' || test.operator === '!=';
      this.requireComparable(of, to, test.to, null, isEquality, test.span, test.operator);
      return;
    }
    const found = this.check(test.node);
    if (found.type.kind === 'range') {
      if (areOrdered(of.type, found.type.of)) return;
    } else if (found.type.kind === 'list' && of.type.kind !== 'list') {
      const item = found.type.of.type;
      if (areComparable(of.type, item.kind === 'range' ? item.of : item)) {
        this.checkCodesOf(value, of, test.node, item);
        return;
      }
    } else if (areComparable(of.type, found.type)) {
      this.checkCodesOf(value, of, test.node, found.type);
      return;
    }
    this.report('expression/not-comparable', test.span, {
      operator: 'in',
      left: termOfType(of.type),
      right: termOfType(found.type),
    });
  }

  private checkCodesOf(value: Node, of: Typing, tested: Node, item: Type): void {
    const options = optionsOf(of.type);
    if (options) this.checkCodes(tested, options);
    else if (item.kind === 'choice') this.checkCodes(value, item.options);
  }

  private checkTruths(nodes: readonly Node[]): Typing {
    let nullable = false;
    for (const node of nodes) {
      this.requireBoolean(node, this.check(node));
      nullable ||= this.typings.get(node)?.nullable ?? true;
    }
    return typing(TYPES.boolean, nullable);
  }

  private requireBoolean(node: Node, found: Typing): void {
    if (isAssignable(found.type, TYPES.boolean)) return;
    this.report('expression/not-a-condition', node.span, { found: termOfType(found.type) });
  }

  private checkIf(test: Node, then: Node, otherwise: Node): Typing {
    this.requireBoolean(test, this.check(test));
    const [a, b] = [this.check(then), this.check(otherwise)];
    const joined = joinTypes(a.type, b.type);
    if (joined) return typing(joined, a.nullable || b.nullable);
    return this.report('expression/branches-differ', otherwise.span, {
      then: termOfType(a.type),
      otherwise: termOfType(b.type),
    });
  }

  private checkQuantified(bindings: readonly Binding[], satisfies: Node): Typing {
    return this.withBindings(bindings, () => {
      this.requireBoolean(satisfies, this.check(satisfies));
      return typing(TYPES.boolean, this.anyNullable([satisfies, ...bindings.map((binding) => binding.source)]));
    });
  }

  private withLocal<T>(name: string, item: Typing, isItem: boolean, run: () => T): T {
    const before = this.locals;
    this.locals = [...before, { name, typing: item, index: before.length, isItem }];
    const result = run();
    this.locals = before;
    return result;
  }

  private withBindings<T>(bindings: readonly Binding[], run: () => T): T {
    const [first, ...rest] = bindings;
    if (!first) return run();
    const source = this.check(first.source);
    const item = this.itemOf(source, first.source);
    this.localIndexes.set(first, this.locals.length);
    return this.withLocal(first.name, item, false, () => this.withBindings(rest, run));
  }

  private itemOf(source: Typing, node: Node): Typing {
    if (source.type.kind === 'list') return source.type.of;
    if (
      source.type.kind === 'range' &&
      node.kind === 'range' &&
      (source.type.of.kind === 'number' || source.type.of.kind === 'date')
    ) {
      return typing(source.type.of, false);
    }
    if (source.type.kind === 'any' || source.type.kind === 'null') return ANY;
    return this.report('expression/not-a-list', node.span, { found: termOfType(source.type) });
  }

  private checkFilter(node: FilterNode): Typing {
    const { of, where } = node;
    this.localIndexes.set(node, this.locals.length);
    const list = this.check(of);
    const item = list.type.kind === 'list' ? list.type.of : this.itemOf(list, of);
    const test = this.withLocal('item', item, true, () => this.check(where));
    if (test.type.kind === 'number') return typing(item.type, true);
    this.requireBoolean(where, test);
    return typing({ kind: 'list', of: item }, list.nullable);
  }

  private checkList(nodes: readonly Node[]): Typing {
    let type: Type | null = TYPES.null;
    let nullable = false;
    for (const node of nodes) {
      const item = this.check(node);
      nullable ||= item.nullable;
      type = type && joinTypes(type, item.type);
    }
    return typing(listOf(nodes.length === 0 ? TYPES.any : (type ?? TYPES.any), nullable), false);
  }

  private checkRange(low: Node, high: Node): Typing {
    const [a, b] = [this.check(low), this.check(high)];
    if (!areOrdered(a.type, b.type)) {
      return this.report('expression/not-comparable', high.span, {
        operator: '..',
        left: termOfType(a.type),
        right: termOfType(b.type),
      });
    }
    return typing({ kind: 'range', of: a.type.kind === 'null' ? b.type : a.type }, false);
  }

  private checkCall(node: CallNode): Typing {
    const builtin = findBuiltin(node.name);
    const given = node.of.map((argument) => this.check(argument));
    if (!builtin) return this.report('expression/unknown-function', node.nameSpan, { found: node.name });
    const signature = findSignature(node, builtin.signatures, given);
    if (!signature) return this.reportFound(callFault(node, builtin.signatures, given));
    this.signatures.set(node, signature);
    this.checkCallCodes(node, given);
    const fault = patternFault(node);
    if (fault) return this.reportFound(fault);
    const literal = literalOf(node);
    if (literal && 'code' in literal) return this.reportFound(literal);
    const result = literal ?? resultOf(signature, node, given);
    if (currencyOf(result) === MIXED) return this.reportMixed(node);
    return typing(result, builtin.partial === true || this.anyNullable(node.of));
  }

  private reportMixed(node: CallNode): Typing {
    const currencies = currenciesIn(node, this.typings);
    return this.report('expression/currencies', node.span, { operator: `${node.name}()`, currencies });
  }

  private checkCallCodes(node: CallNode, given: readonly Typing[]): void {
    const first = given[0]?.type;
    const options = first && optionsOf(first.kind === 'list' ? first.of.type : first);
    const second = node.of[1];
    if (options && second && (node.name === 'list contains' || node.name === 'index of')) this.checkCodes(second, options);
  }
}
