import { itemsOf, type OutlinePath } from '../expressions/outline/edit-outline.ts';
import type { OutlineClause, OutlineGroup, OutlineItem } from '../expressions/outline/outline.ts';
import { writeOutline } from '../expressions/outline/write.ts';
import { printExpression } from '../expressions/print.ts';
import { cutOutlines, type OutlineContext, subjectText, typingOfSubject } from './cut-outline.ts';

/**
 * What a condition says that its author may not mean: twice the same; things of one field that never hold together; things of
 * which one always holds; "is not" that holds while the field is empty.
 */
export type Remark = {
  readonly code: 'twice' | 'never' | 'always' | 'holds-while-empty';
  /** Where the item stands that it is about. */
  readonly path: OutlinePath;
  /** The item it doesn't go together with. */
  readonly with: OutlinePath | null;
};

/**
 * Looks over a condition that is being written. Exact for clauses that compare one field with constants: what is said never to
 * hold, holds for no value. Of other clauses nothing is said, but that one stands there twice.
 */
export function remarksOn(root: OutlineItem, context: OutlineContext): readonly Remark[] {
  const found: Remark[] = [];
  const visit = (item: OutlineItem, path: OutlinePath): void => {
    if (item.kind === 'group') found.push(...inGroup(item, path, context));
    itemsOf(item).forEach((own, index) => visit(own, [...path, index]));
  };
  visit(root, []);
  return found;
}

function inGroup(group: OutlineGroup, path: OutlinePath, context: OutlineContext): readonly Remark[] {
  const texts = group.of.map((item) => printExpression(writeOutline(item)));
  const twice = texts.flatMap((text, index): readonly Remark[] => {
    const first = texts.indexOf(text);
    return first < index ? [{ code: 'twice', path: [...path, index], with: [...path, first] }] : [];
  });
  return [
    ...twice,
    ...together(group, path, context, new Set(twice.map((one) => one.path.at(-1)))),
    ...whileEmpty(group, path, context),
  ];
}

/** Clauses of one subject that exclude each other, or of which one always holds. */
function together(
  group: OutlineGroup,
  path: OutlinePath,
  context: OutlineContext,
  left: ReadonlySet<number | undefined>,
): readonly Remark[] {
  const bySubject = new Map<string, { readonly index: number; readonly clause: OutlineClause }[]>();
  group.of.forEach((item, index) => {
    if (item.kind !== 'clause' || left.has(index) || item.comparison === 'has-rows' || item.comparison === 'has-no-rows') return;
    const subject = subjectText(item.subject);
    bySubject.set(subject, [...(bySubject.get(subject) ?? []), { index, clause: item }]);
  });
  return [...bySubject.values()].flatMap((own): readonly Remark[] => {
    if (own.length < 2) return [];
    const cut = cutOutlines(
      own.map(({ clause }) => clause),
      context,
    );
    const atoms = cut?.subjects[0]?.atoms;
    if (!cut || !atoms) return [];
    const isAny = group.which !== 'all';
    const clashes = (of: readonly number[]): boolean =>
      atoms.every(({ value }) => {
        const truths = of.map((index) => cut.truth(index, [value]));
        return isAny ? truths.includes(true) : truths.some((truth) => truth !== true);
      });
    const code = isAny ? 'always' : 'never';
    const at = (index: number): OutlinePath => [...path, own[index]?.index ?? 0];
    for (let second = 1; second < own.length; second++) {
      for (let first = 0; first < second; first++)
        if (clashes([first, second])) return [{ code, path: at(second), with: at(first) }];
    }
    return own.length > 2 && clashes(own.map((_, index) => index)) ? [{ code, path: at(own.length - 1), with: null }] : [];
  });
}

/** "Is not" over what may be empty, unless it is asked beside it whether it is filled. */
function whileEmpty(group: OutlineGroup, path: OutlinePath, { scope }: OutlineContext): readonly Remark[] {
  const filled = new Set(
    group.which === 'all'
      ? group.of.flatMap((item) => (item.kind === 'clause' && item.comparison === 'is-filled' ? [subjectText(item.subject)] : []))
      : [],
  );
  return group.of.flatMap((item, index): readonly Remark[] => {
    if (item.kind !== 'clause' || item.comparison !== 'is-not' || item.values.length === 0) return [];
    if (filled.has(subjectText(item.subject)) || typingOfSubject(item.subject, scope)?.nullable !== true) return [];
    return [{ code: 'holds-while-empty', path: [...path, index], with: null }];
  });
}
