import { type Explanation, isList, type Node, printExpression, type Value, writeText } from '@ypomet/core';
import type { ReactNode } from 'react';
import classes from './ExplainedCondition.module.css';

/** A condition as text in which every field read carries the value it had, and every clause whether it held. */
export function ExplainedCondition({ explanation }: { readonly explanation: Explanation }) {
  return <code className={`${classes.code} mono`}>{show(explanation)}</code>;
}

const JOINED = { all: ' and ', any: ' or ' } as const;

function show(explanation: Explanation): ReactNode {
  const { node, parts } = explanation;
  if (node.kind === 'all' || node.kind === 'any') {
    return parts.map((part, index) => (
      <span key={String(index)}>
        {index > 0 && JOINED[node.kind]}
        {needsBrackets(part.node) ? <>({show(part)})</> : show(part)}
      </span>
    ));
  }
  if (node.kind === 'call' && node.name === 'not' && parts[0]) return <>not({show(parts[0])})</>;
  return (
    <span className={classes.clause} data-truth={String(explanation.value)}>
      {readsOf(explanation).length > 0 ? withValues(explanation) : printExpression(node)}
    </span>
  );
}

const needsBrackets = (node: Node): boolean => node.kind === 'all' || node.kind === 'any';

/** A comparison with the values of the names in it: `totalValue 62400 > 50000`. */
function withValues(explanation: Explanation): ReactNode {
  const { node, parts } = explanation;
  const [left, right] = parts;
  if (node.kind === 'compare' && left && right) {
    return (
      <>
        {operand(left)} {node.operator} {operand(right)}
      </>
    );
  }
  return (
    <>
      {printExpression(node)}
      {readsOf(explanation).map((read) => (
        <span key={printExpression(read.node)} className={classes.value} title={printExpression(read.node)}>
          {brief(read.value)}
        </span>
      ))}
    </>
  );
}

const operand = (part: Explanation): ReactNode =>
  part.node.kind === 'name' || part.node.kind === 'path' ? (
    <>
      {printExpression(part.node)} <span className={classes.value}>{brief(part.value)}</span>
    </>
  ) : (
    printExpression(part.node)
  );

function readsOf(explanation: Explanation): readonly Explanation[] {
  if (explanation.node.kind === 'quantified' || explanation.node.kind === 'for') return [];
  if (explanation.node.kind === 'name' || explanation.node.kind === 'path')
    return isList(explanation.value) && explanation.value.some((item) => typeof item === 'object') ? [] : [explanation];
  return explanation.parts.flatMap(readsOf);
}

const brief = (value: Value): string =>
  value === null ? 'empty' : isList(value) ? `${value.length} items` : (writeText(value) ?? '').slice(0, 40);
