import type { CheckedExpression } from '../expressions/check.ts';
import type { Node } from '../expressions/tree.ts';
import type { SubField } from '../model/field.ts';
import { placesOf } from '../values/exact.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';

/**
 * Returns the most decimal places that the value of an expression can have: `Infinity` for a quotient or a root, whose places
 * have no bound, and null where nothing is known about them. `columns`: the sub-fields that `row` means in a computed cell.
 */
export function placesAtMost(
  node: Node,
  checked: CheckedExpression,
  forms: CompiledWorkflow['forms'],
  columns: readonly SubField[] = [],
): number | null {
  const of = (inner: Node): number | null => placesAtMost(inner, checked, forms, columns);
  const most = (parts: readonly (number | null)[]): number | null =>
    parts.reduce((a, b) => (a === null || b === null ? null : Math.max(a, b)), 0);
  switch (node.kind) {
    case 'null':
      return 0;
    case 'number':
      return placesOf(node.value);
    case 'name': {
      const field = checked.references.get(node)?.kind === 'slot' ? forms.fieldByKey.get(node.name)?.field : undefined;
      return field?.type === 'number' || field?.type === 'money' ? field.scale : null;
    }
    case 'path': {
      const table = node.of.kind === 'name' ? forms.fieldByKey.get(node.of.name)?.field : undefined;
      const isRow = node.of.kind === 'name' && node.of.name === 'row';
      const listed = isRow ? columns : table?.type === 'table' ? table.fields : [];
      const own = listed.find((field) => field.key === node.name);
      return own?.type === 'number' || own?.type === 'money' ? own.scale : null;
    }
    case 'negate':
    case 'filter':
      return of(node.of);
    case 'list':
      return most(node.of.map(of));
    case 'if':
      return most([of(node.then), of(node.otherwise)]);
    case 'arithmetic': {
      const [left, right] = [of(node.left), of(node.right)];
      if (node.operator === '+' || node.operator === '-') return most([left, right]);
      if (node.operator !== '*') return Number.POSITIVE_INFINITY;
      return left !== null && right !== null ? left + right : null;
    }
    case 'call':
      return placesOfCall(node, of, most);
    default:
      return null;
  }
}

const ROUNDING: ReadonlySet<string> = new Set([
  'decimal',
  'round up',
  'round down',
  'round half up',
  'round half down',
  'floor',
  'ceiling',
]);
const ENDLESS: ReadonlySet<string> = new Set(['mean', 'median', 'stddev', 'sqrt', 'log', 'exp']);
const WHOLE: ReadonlySet<string> = new Set(['count', 'string length', 'day of year', 'week of year']);
const KEEPING: ReadonlySet<string> = new Set([
  'sum',
  'min',
  'max',
  'abs',
  'concatenate',
  'append',
  'sublist',
  'reverse',
  'union',
]);

function placesOfCall(
  node: Extract<Node, { kind: 'call' }>,
  of: (node: Node) => number | null,
  most: (parts: readonly (number | null)[]) => number | null,
): number | null {
  if (WHOLE.has(node.name)) return 0;
  if (ENDLESS.has(node.name)) return Number.POSITIVE_INFINITY;
  if (KEEPING.has(node.name)) return most(node.of.map(of));
  if (!ROUNDING.has(node.name) || node.parameters) return null;
  const scale = node.of[1];
  if (!scale) return 0;
  return scale.kind === 'number' && scale.value.big === null && scale.value.scale === 0
    ? Math.max(0, scale.value.coefficient)
    : null;
}
