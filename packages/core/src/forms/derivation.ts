import type { CompiledDecision } from '../decisions/compile-decision.ts';
import type { Frame } from '../expressions/frame.ts';
import type { WorkflowScope } from '../expressions/workflow-scope.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledField, CompiledSubField } from './compiled-field.ts';
import { affectedSteps, orderByDependency, orderRow, slotsRead } from './dependency-order.ts';

/** Something that follows from values: a computed field, a table's computed cells (in the order of their row), a decision. */
type DerivedStep =
  | { readonly kind: 'field'; readonly of: CompiledField }
  | { readonly kind: 'rows'; readonly of: CompiledField; readonly cells: readonly CompiledSubField[] }
  | { readonly kind: 'decision'; readonly slot: number; readonly decision: CompiledDecision };

/** All that follows from a record's values, whatever the stage, each after what it reads. */
export type Derivation = {
  readonly steps: readonly DerivedStep[];
  /** For each slot the indexes of the steps that follow from it, ascending. */
  readonly affected: ReadonlyMap<number, readonly number[]>;
  readonly rowSlot: number;
};

type Parts = {
  readonly layout: WorkflowScope;
  readonly fields: readonly CompiledField[];
  readonly decisions: readonly CompiledDecision[];
};

/** Puts all that follows from values into one order. A cycle is found, and said, by the stages' forms. */
export function compileDerivation({ layout, fields, decisions }: Parts): Derivation {
  const unordered: { readonly slot: number; readonly reads: readonly number[]; readonly step: DerivedStep | null }[] = [];
  for (const of of fields) {
    const cells = computedCells(of);
    const expressions = [of.computes, ...cells.map((cell) => cell.computes)].map((one) => one?.checked);
    const step: DerivedStep | null = of.computes ? { kind: 'field', of } : cells.length > 0 ? { kind: 'rows', of, cells } : null;
    unordered.push({ slot: of.slot, reads: step ? slotsRead(layout, expressions) : [], step });
  }
  decisions.forEach((decision, index) => {
    const slot = fields.length + index;
    unordered.push({ slot, reads: slotsRead(layout, decision.reads), step: { kind: 'decision', slot, decision } });
  });
  const { order } = orderByDependency(unordered.map(({ reads }) => reads.filter((slot) => slot < unordered.length)));
  const ordered = order.flatMap((slot) => {
    const found = unordered[slot];
    return found?.step ? [{ ...found, step: found.step }] : [];
  });
  return { steps: ordered.map(({ step }) => step), affected: affectedSteps(ordered), rowSlot: layout.rowSlot };
}

function computedCells(of: CompiledField): readonly CompiledSubField[] {
  if (of.field.type !== 'table' || !of.subFields.some((cell) => cell.computes)) return [];
  const { order } = orderRow(of.field, (index) => [of.subFields[index]?.computes]);
  return order.map((index) => of.subFields[index] as CompiledSubField).filter((cell) => cell.computes !== null);
}

/**
 * Brings up to date what follows from a slot's value (`null`: from all values), in place: computed fields, computed cells
 * of every row, decision tables. `slots` are the frame's own.
 */
export function derive(derivation: Derivation, slots: Value[], frame: Frame, changed: number | null): void {
  const indexes = changed === null ? derivation.steps.keys() : (derivation.affected.get(changed) ?? []);
  for (const index of indexes) {
    const step = derivation.steps[index] as DerivedStep;
    switch (step.kind) {
      case 'decision':
        slots[step.slot] = step.decision.evaluate(frame);
        break;
      case 'field':
        slots[step.of.slot] = step.of.computes?.evaluate(frame) ?? null;
        break;
      case 'rows':
        slots[step.of.slot] = deriveRows(derivation, step.cells, slots[step.of.slot] ?? null, slots, frame);
        break;
      default:
        step satisfies never;
    }
  }
}

function deriveRows(
  derivation: Derivation,
  cells: readonly CompiledSubField[],
  rows: Value,
  slots: Value[],
  frame: Frame,
): Value {
  if (!isList(rows)) return [];
  const derived = (rows as readonly ContextValue[]).map((row): ContextValue => {
    const entries = { ...row.entries };
    const own = { ...row, entries };
    slots[derivation.rowSlot] = own;
    for (const { field, computes } of cells) entries[field.key] = computes?.evaluate(frame) ?? null;
    return own;
  });
  slots[derivation.rowSlot] = null;
  return derived;
}
