import type { CheckedExpression } from '../expressions/check.ts';
import type { CompiledExpression } from '../expressions/compiler.ts';
import { namesReadBy, referencesOf } from '../expressions/rewrite.ts';
import type { WorkflowScope } from '../expressions/workflow-scope.ts';
import type { TableField } from '../model/field.ts';

/** An order in which everything comes after what it reads, and the first cycle found, if any. */
export type DependencyOrder = { readonly order: readonly number[]; readonly cycle: readonly number[] | null };

/** Orders items by what they read (indexes of other items), keeping the given order where nothing else decides. */
export function orderByDependency(reads: readonly (readonly number[])[]): DependencyOrder {
  const order: number[] = [];
  const state = new Uint8Array(reads.length);
  const trail: number[] = [];
  let cycle: readonly number[] | null = null;
  const visit = (item: number): void => {
    if (state[item] === 2) return;
    if (state[item] === 1) {
      cycle ??= trail.slice(trail.indexOf(item));
      return;
    }
    state[item] = 1;
    trail.push(item);
    for (const read of reads[item] ?? []) visit(read);
    trail.pop();
    state[item] = 2;
    order.push(item);
  };
  for (let item = 0; item < reads.length; item++) visit(item);
  return { order, cycle };
}

/** The slots that expressions read. */
export function slotsRead(
  layout: WorkflowScope,
  expressions: readonly (CheckedExpression | null | undefined)[],
): readonly number[] {
  const slots = new Set<number>();
  for (const expression of expressions) {
    if (!expression) continue;
    for (const name of namesReadBy(expression)) {
      const entry = layout.scope.entries.get(name);
      if (entry) slots.add(entry.slot);
    }
  }
  return [...slots];
}

/** The order of a row's cells: each after the cells that its expressions read of the same row, but for those that are there before. */
export function orderRow(
  table: TableField,
  expressionsOf: (index: number) => readonly (CompiledExpression | null | undefined)[],
  isBefore: (index: number) => boolean = () => true,
): DependencyOrder {
  const places = new Map(table.fields.map((field, index) => [field.key, index]));
  const reads = table.fields.map((_, index) => {
    const parts = expressionsOf(index).flatMap((expression) => (expression?.checked ? referencesOf(expression.checked) : []));
    const cells = parts.flatMap(({ name, part }) => (name === 'row' && part !== null ? (places.get(part) ?? []) : []));
    return [...new Set(cells)].filter(isBefore);
  });
  return orderByDependency(reads);
}

/** For each slot the indexes of the steps that depend on it, directly or not, ascending; its own first. */
export function affectedSteps(
  steps: readonly { readonly slot: number; readonly reads: readonly number[] }[],
): ReadonlyMap<number, readonly number[]> {
  const readers = new Map<number, number[]>();
  steps.forEach((step, index) => {
    for (const slot of step.reads) {
      const list = readers.get(slot);
      if (list) list.push(index);
      else readers.set(slot, [index]);
    }
  });
  const affected = new Map<number, readonly number[]>();
  const own = new Map(steps.map(({ slot }, index) => [slot, index]));
  for (const slot of new Set([...own.keys(), ...readers.keys()])) {
    const reached = new Set<number>();
    const at = own.get(slot);
    if (at !== undefined) reached.add(at);
    const open = [slot];
    for (let next = open.pop(); next !== undefined; next = open.pop()) {
      for (const reader of readers.get(next) ?? []) {
        if (reached.has(reader)) continue;
        reached.add(reader);
        open.push((steps[reader] as { slot: number }).slot);
      }
    }
    affected.set(
      slot,
      [...reached].sort((a, b) => a - b),
    );
  }
  return affected;
}
