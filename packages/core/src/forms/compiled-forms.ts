import type { CompiledDecision } from '../decisions/compile-decision.ts';
import type { CompiledCondition } from '../expressions/compiler.ts';
import type { WorkflowScope } from '../expressions/workflow-scope.ts';
import type { Adjustment, Check } from '../model/flow.ts';
import { isEnterable, type Treatment } from '../model/treatment.ts';
import type { Workflow } from '../model/workflow.ts';
import type { CompiledField, CompiledSubField } from './compiled-field.ts';
import type { Derivation } from './derivation.ts';
import type { ReadersTable } from './readers.ts';

export type CompiledAdjustment = {
  readonly adjustment: Adjustment;
  /** Its place among the adjustments. */
  readonly place: number;
  readonly condition: CompiledCondition;
  /** The condition in the scope of each table whose sub-fields the adjustment covers, so that it may read `row`. */
  readonly rowConditions: ReadonlyMap<string, CompiledCondition>;
  /** What is decided where it holds. */
  readonly decided: Decided;
};

export type CompiledCheck = { readonly check: Check; readonly condition: CompiledCondition };

/** A treatment and what decided it: an adjustment, or null for the plan's cell. */
export type Decided = { readonly treatment: Treatment; readonly by: CompiledAdjustment | null };

/** What decides one field's (or sub-field's) treatment at one stage. */
export type Placement = {
  readonly planned: Treatment;
  /** What is decided while no adjustment holds. */
  readonly unadjusted: Decided;
  /** Adjustments of sections that hide, tried before the rest. */
  readonly hiding: readonly CompiledAdjustment[];
  /** Adjustments that cover it here, in listed order. */
  readonly adjustments: readonly CompiledAdjustment[];
};

/** What decides one cell of a table's rows. */
export type RowStep = {
  readonly of: CompiledSubField;
  readonly placement: Placement;
  readonly isFixed: boolean;
  readonly isLasting: boolean;
};

/** One step of evaluating a stage's form, in dependency order. */
export type FormStep =
  | {
      readonly kind: 'field';
      readonly slot: number;
      /** Of a field that nothing adjusts and nothing computes, and that has no rows: what is decided, once for all. */
      readonly plain: Decided | null;
      /** Whether it is at most read-only, whatever is decided: computed fields and notes. */
      readonly isFixed: boolean;
      readonly of: CompiledField;
      readonly placement: Placement;
      /** See {@link isLasting}; a table never is, as its rows can have cells that are worked out. */
      readonly isLasting: boolean;
      readonly reads: readonly number[];
      /** Of a table: its sub-fields in the order of their dependencies. */
      readonly rows: readonly RowStep[];
    }
  | { readonly kind: 'decision'; readonly slot: number; readonly decision: CompiledDecision; readonly reads: readonly number[] };

export type FieldStep = Extract<FormStep, { kind: 'field' }>;

/** A stage's form, compiled. */
export type StageForm = {
  readonly stage: string;
  readonly steps: readonly FormStep[];
  /**
   * The steps again, with those apart that depend on nothing: by slot what is decided for them. Most fields of a large form are
   * like this, and evaluating it whole then looks at none of their steps: memory takes longer than reckoning. `slots` are
   * theirs and those of lasting fields: their values are there before any condition is asked.
   */
  readonly plain: { readonly decided: readonly (Decided | undefined)[]; readonly slots: readonly number[] };
  readonly dependent: readonly FormStep[];
  readonly fieldSteps: ReadonlyMap<string, FieldStep>;
  /** For each slot the indexes of the steps that depend on it, directly or not, ascending. */
  readonly affected: ReadonlyMap<number, readonly number[]>;
  readonly checks: readonly CompiledCheck[];
};

/** Everything of a workflow that forms need. */
export type CompiledForms = {
  readonly definition: Workflow;
  readonly layout: WorkflowScope;
  readonly fields: readonly CompiledField[];
  readonly fieldByKey: ReadonlyMap<string, CompiledField>;
  readonly decisions: readonly CompiledDecision[];
  readonly adjustments: readonly CompiledAdjustment[];
  readonly checks: readonly CompiledCheck[];
  /** Those with a default. */
  readonly filled: readonly CompiledField[];
  /** The workflows whose records its hand-offs open. */
  readonly opens: readonly string[];
  /** Whether any field, or sub-field, points to other records. */
  readonly hasReferences: boolean;
  /** What follows from the values, whatever the stage. */
  readonly derivation: Derivation;
  readonly readers: ReadersTable;
  readonly stageForm: (stage: string) => StageForm;
};

/** Whether any treatment a placement can come to lets a participant enter the field. */
export const canBeEntered = (placement: Placement): boolean =>
  isEnterable(placement.planned) || placement.adjustments.some(({ adjustment }) => isEnterable(adjustment.treatment));

/**
 * Whether a field, or a cell, has its stored value whatever is decided for it: nobody can enter it here, and nothing works it
 * out. A condition may read what it shows itself then (semantics 3.3).
 */
export const isLasting = (of: { readonly computes: unknown; readonly fills: unknown }, placement: Placement): boolean =>
  !of.computes && !of.fills && !canBeEntered(placement);

/** Whether any treatment a placement can come to shows the field. */
export const canBeShown = (placement: Placement): boolean =>
  placement.planned !== 'hidden' || placement.adjustments.some(({ adjustment }) => adjustment.treatment !== 'hidden');

/** Computed fields are at most read-only; notes are shown or hidden. */
export const isFixed = (of: { readonly computes: unknown; readonly field: { readonly type: string } }): boolean =>
  of.computes !== null || of.field.type === 'note';

/** What is decided for a field that is fixed, or isn't. */
export const cappedTo = (isFixed: boolean, decided: Decided): Decided =>
  isFixed && isEnterable(decided.treatment) ? { ...decided, treatment: 'read-only' } : decided;
