import { isList, type Truth, type Value } from '../../values/value.ts';
import type { Explanation } from '../explain.ts';
import type { Node } from '../tree.ts';
import type { OutlineItem } from './outline.ts';
import { pathOf, readOutline } from './read.ts';

/** A value that a clause read. `path`: of a row's column, begins with the row's name. */
export type ReadValue = { readonly path: readonly string[]; readonly value: Value };

/** An item of an outline as it stood for a record: whether it held, what it read, and the same of what is in it. */
export type ExplainedItem = {
  readonly item: OutlineItem;
  readonly truth: Truth;
  readonly reads: readonly ReadValue[];
  /** Of a group its items; of "any row where" the condition as it stood for each of the first rows. */
  readonly of: readonly ExplainedItem[];
};

/** An explained condition as an outline. What explains is what decided: nothing is evaluated here. */
export function explainOutline(explanation: Explanation): ExplainedItem {
  return explained(readOutline(explanation.node), explanation);
}

const truthOf = (value: Value): Truth => (value === true || value === false ? value : null);

function explained(item: OutlineItem, explanation: Explanation): ExplainedItem {
  const made = (of: readonly ExplainedItem[], reads: readonly ReadValue[]): ExplainedItem => ({
    item,
    truth: truthOf(explanation.value),
    reads,
    of,
  });
  if (item.kind === 'group') {
    const inner = item.which === 'none' ? explanation.parts[0] : explanation;
    // "None of" one thing is its opposite; of several, the opposite of any of them.
    const parts = item.which === 'none' && inner?.node.kind !== 'any' ? [inner] : (inner?.parts ?? []);
    return made(
      item.of.flatMap((own, index) => {
        const part = parts[index];
        return part ? [explained(own, part)] : [];
      }),
      [],
    );
  }
  if (item.kind === 'rows')
    return made(
      explanation.parts.map((row) => explained(item.where, row)),
      [],
    );
  return made([], readsOf(explanation));
}

/** The names and paths that were read, each once, with their values. Rows aren't values to look at. */
function readsOf(explanation: Explanation): readonly ReadValue[] {
  const found = new Map<string, ReadValue>();
  const visit = ({ node, value, parts }: Explanation): void => {
    const path = pathOf(node);
    if (!path) {
      if (isLoop(node)) return;
      for (const part of parts) visit(part);
    } else if (!isRows(value)) found.set(path.join('.'), { path, value });
  };
  visit(explanation);
  return [...found.values()];
}

const isLoop = (node: Node): boolean => node.kind === 'quantified' || node.kind === 'for' || node.kind === 'filter';
const isRows = (value: Value): boolean =>
  isList(value) && value.some((item) => typeof item === 'object' && item !== null && !isList(item) && item.kind === 'context');
