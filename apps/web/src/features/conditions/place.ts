import {
  checkExpression,
  type Environment,
  type ExplainedItem,
  explainExpression,
  explainOutline,
  type FindWorkflow,
  type Form,
  makeFrame,
  type OutlineItem,
  parseExpression,
  printExpression,
  type Scope,
  type Style,
  TYPES,
  type Wording,
  type Workflow,
  writeOutline,
} from '@ypomet/core';
import { isComplete } from './editing.ts';
import { type RowsInScope, rowsWithin, scopeWithin } from './subjects.ts';

/** Where a condition stands: what it can read, what that is called, and the record it is tried on. */
export type ConditionPlace = {
  readonly workflow: Workflow;
  readonly findWorkflow: FindWorkflow;
  readonly scope: Scope;
  readonly wording: Wording;
  readonly style: Style;
  readonly members: readonly { readonly id: string; readonly name: string }[];
  readonly environment: Environment;
  /** How the condition and each part of it stands for the rehearsal's record; null where that can't be said. */
  readonly explain: (item: OutlineItem) => ExplainedItem | null;
  /** The rows that it looks at one by one. */
  readonly rows: RowsInScope | null;
  /** Whether it can become a field of the workflow, under a name. */
  readonly mayBeNamed: boolean;
};

/** Explains items of an outline that is being written, each once: what isn't changed is the same object. */
export function explainsOn(scope: Scope, { frame }: Form): ConditionPlace['explain'] {
  const known = new WeakMap<OutlineItem, { readonly explained: ExplainedItem | null }>();
  return (item) => {
    const found = known.get(item) ?? { explained: explainOn(item, scope, frame) };
    known.set(item, found);
    return found.explained;
  };
}

function explainOn(item: OutlineItem, scope: Scope, { slots, environment }: Form['frame']): ExplainedItem | null {
  if (!isComplete(item)) return null;
  const parsed = parseExpression(printExpression(writeOutline(item)));
  const checked = parsed.ok ? checkExpression(parsed.value, scope, TYPES.boolean) : null;
  if (!checked || checked.diagnostics.length > 0) return null;
  return explainOutline(explainExpression(checked, makeFrame(slots, environment)));
}

/** The place within an item that looks at rows; the same place within any other. */
export function placeWithin(place: ConditionPlace, item: OutlineItem): ConditionPlace {
  const rows = rowsWithin(item);
  if (!rows) return place;
  return {
    ...place,
    scope: scopeWithin(place.scope, rows),
    wording: place.wording.within(rows.item, rows.table),
    explain: () => null,
    rows,
    mayBeNamed: false,
  };
}
