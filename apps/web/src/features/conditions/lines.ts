import { itemsOf, type OutlineGroup, type OutlineItem, type OutlinePath } from '@ypomet/core';
import { type ConditionPlace, placeWithin } from './place.ts';

/** An item as a line of the outline. */
export type Line = {
  readonly path: OutlinePath;
  readonly item: OutlineItem;
  readonly place: ConditionPlace;
  /** What the groups around it are, the outermost first: their colours stand before the line. */
  readonly around: readonly OutlineGroup['which'][];
};

/** The lines of an outline, top to bottom. */
export function linesOf(item: OutlineItem, place: ConditionPlace): readonly Line[] {
  const visit = (own: OutlineItem, path: OutlinePath, at: ConditionPlace, around: Line['around']): readonly Line[] => {
    const inner = placeWithin(at, own);
    const within = own.kind === 'group' ? [...around, own.which] : [...around, 'all' as const];
    return [
      { path, item: own, place: at, around },
      ...itemsOf(own).flatMap((one, index) => visit(one, [...path, index], inner, within)),
    ];
  };
  return visit(item, [], place, []);
}
