import { writeExact } from '../values/exact.ts';
import type { UnaryTestsCell } from './parse.ts';
import type { Node, UnaryTest } from './tree.ts';

/** Binding strength of what a node prints as, weakest first; a child that binds weaker than its place gets brackets. */
const STRENGTH = { form: 0, or: 1, and: 2, comparison: 3, sum: 4, product: 5, power: 6, sign: 7, postfix: 8 } as const;

function strengthOf(node: Node): number {
  switch (node.kind) {
    case 'if':
    case 'for':
    case 'quantified':
      return STRENGTH.form;
    case 'any':
      return STRENGTH.or;
    case 'all':
      return STRENGTH.and;
    case 'compare':
    case 'between':
    case 'in':
      return STRENGTH.comparison;
    case 'arithmetic':
      return node.operator === '**'
        ? STRENGTH.power
        : node.operator === '*' || node.operator === '/'
          ? STRENGTH.product
          : STRENGTH.sum;
    case 'negate':
      return STRENGTH.sign;
    default:
      return STRENGTH.postfix;
  }
}

const at = (node: Node, strength: number): string => {
  const text = printExpression(node);
  return strengthOf(node) < strength ? `(${text})` : text;
};

/** A text literal with its escapes. */
export function printText(text: string): string {
  const escaped = text.replace(/[\\"\n\r\t]/g, (character) => {
    const letters: Record<string, string> = { '\n': 'n', '\r': 'r', '\t': 't' };
    return `\\${letters[character] ?? character}`;
  });
  return `"${escaped}"`;
}

/** The canonical text of an expression: parse(print(tree)) gives the same tree, spans aside. */
export function printExpression(node: Node): string {
  switch (node.kind) {
    case 'null':
      return 'null';
    case 'boolean':
      return String(node.value);
    case 'number':
      return writeExact(node.value);
    case 'text':
      return printText(node.value);
    case 'temporal':
      return `@${printText(node.text)}`;
    case 'name':
      return node.name;
    case 'path':
      return `${at(node.of, STRENGTH.postfix)}.${node.name}`;
    case 'negate':
      return `-${at(node.of, STRENGTH.sign)}`;
    case 'arithmetic': {
      const strength = strengthOf(node);
      return `${at(node.left, strength)} ${node.operator} ${at(node.right, strength + 1)}`;
    }
    case 'compare':
      return `${at(node.left, STRENGTH.comparison)} ${node.operator} ${at(node.right, STRENGTH.sum)}`;
    case 'between':
      return `${at(node.value, STRENGTH.comparison)} between ${at(node.low, STRENGTH.sum)} and ${at(node.high, STRENGTH.sum)}`;
    case 'in':
      return `${at(node.value, STRENGTH.comparison)} in ${printInTests(node.tests)}`;
    case 'all':
      return node.of.map((operand) => at(operand, STRENGTH.comparison)).join(' and ');
    case 'any':
      return node.of.map((operand) => at(operand, STRENGTH.and)).join(' or ');
    case 'if':
      return `if ${printExpression(node.test)} then ${printExpression(node.then)} else ${printExpression(node.otherwise)}`;
    case 'quantified':
      return `${node.which} ${printBindings(node.bindings)} satisfies ${printExpression(node.satisfies)}`;
    case 'for':
      return `for ${printBindings(node.bindings)} return ${printExpression(node.returns)}`;
    case 'filter':
      return `${at(node.of, STRENGTH.postfix)}[${printExpression(node.where)}]`;
    case 'call': {
      const values = node.of.map((value, index) =>
        node.parameters ? `${node.parameters[index]}: ${printExpression(value)}` : printExpression(value),
      );
      return `${node.name}(${values.join(', ')})`;
    }
    case 'list':
      return `[${node.of.map(printExpression).join(', ')}]`;
    case 'range':
      return `${node.includesLow ? '[' : '('}${printExpression(node.low)}..${printExpression(node.high)}${node.includesHigh ? ']' : ')'}`;
    default:
      return node satisfies never;
  }
}

const printBindings = (bindings: readonly { readonly name: string; readonly source: Node }[]): string =>
  bindings.map((binding) => `${binding.name} in ${printExpression(binding.source)}`).join(', ');

const printTest = (test: UnaryTest): string =>
  test.kind === 'compares' ? `${test.operator} ${at(test.to, STRENGTH.sum)}` : printExpression(test.node);

function printInTests(tests: readonly UnaryTest[]): string {
  const only = tests.length === 1 ? tests[0] : undefined;
  if (only && only.kind !== 'compares') {
    const bare =
      only.node.kind === 'list' || only.node.kind === 'range' || only.node.kind === 'name' || only.node.kind === 'path';
    return bare ? printExpression(only.node) : `(${printExpression(only.node)})`;
  }
  return `(${tests.map(printTest).join(', ')})`;
}

/** The canonical text of a decision table's input cell. */
export function printUnaryTests(cell: UnaryTestsCell): string {
  if (cell === null) return '-';
  const tests = cell.tests.map(printTest).join(', ');
  return cell.negated ? `not(${tests})` : tests;
}

/** The text of an expression on lines of about a width: groups and choices that are longer are broken before each of their parts. */
export function layOutExpression(node: Node, width = 72, indent = ''): string {
  const line = printExpression(node);
  if (indent.length + line.length <= width) return line;
  const inner = (part: Node, strength: number): string => {
    const text = layOutExpression(part, width, `${indent}  `);
    return strengthOf(part) < strength ? `(${text})` : text;
  };
  if (node.kind === 'all' || node.kind === 'any') {
    const [word, strength] = node.kind === 'all' ? ['and', STRENGTH.comparison] : ['or', STRENGTH.and];
    return node.of.map((part) => inner(part, strength)).join(`\n${indent}${word} `);
  }
  if (node.kind === 'if')
    return [`if ${inner(node.test, 0)}`, `then ${inner(node.then, 0)}`, `else ${inner(node.otherwise, 0)}`].join(`\n${indent}`);
  return line;
}
