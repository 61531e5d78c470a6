import type { Environment } from '../expressions/builtins/builtin.ts';
import { checkExpression } from '../expressions/check.ts';
import { explainExpression } from '../expressions/explain.ts';
import { makeFrame } from '../expressions/frame.ts';
import { pathOf } from '../expressions/outline/read.ts';
import { makeScope } from '../expressions/scope.ts';
import { childrenOf, type Node } from '../expressions/tree.ts';
import type { Value } from '../values/value.ts';

const NOTHING = makeScope({});

/** The value of an expression that reads nothing but the clock; undefined where it reads more, or is faulty. */
export function constantIn(node: Node, environment: Environment): Value | undefined {
  const checked = checkExpression(node, NOTHING);
  if (checked.diagnostics.length > 0) return undefined;
  return explainExpression(checked, makeFrame([], environment)).value;
}

/** The constants that what stands at a path is compared with anywhere in an expression, as they come. */
export function constantsBeside(node: Node, path: string, environment: Environment): readonly Value[] {
  const isSubject = (own: Node): boolean => pathOf(own)?.join('.') === path;
  const constantOf = (own: Node): readonly Value[] => {
    const value = constantIn(own, environment);
    return value === undefined || value === null ? [] : [value];
  };
  const own = ((): readonly Value[] => {
    switch (node.kind) {
      case 'compare':
        return isSubject(node.left) ? constantOf(node.right) : isSubject(node.right) ? constantOf(node.left) : [];
      case 'between':
        return isSubject(node.value) ? [...constantOf(node.low), ...constantOf(node.high)] : [];
      case 'in':
        return isSubject(node.value)
          ? node.tests.flatMap((test) => boundsIn(test.kind === 'compares' ? test.to : test.node, constantOf))
          : [];
      case 'call':
        return node.of[0] && isSubject(node.of[0]) ? node.of.slice(1).flatMap(constantOf) : [];
      default:
        return [];
    }
  })();
  return [...own, ...childrenOf(node).flatMap((child) => constantsBeside(child, path, environment))];
}

/** The ends of a range, the items of a list, or the value itself. */
function boundsIn(node: Node, constantOf: (node: Node) => readonly Value[]): readonly Value[] {
  if (node.kind === 'range') return [...constantOf(node.low), ...constantOf(node.high)];
  return node.kind === 'list' ? node.of.flatMap(constantOf) : constantOf(node);
}
