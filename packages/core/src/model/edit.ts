import { z } from 'zod';
import { diagnostic } from '../shared/diagnostic.ts';
import { Key } from '../shared/identifiers.ts';
import { ownValue } from '../shared/json.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { ExpressionText, Treatment } from './field.ts';
import { findHandOff, findSubField } from './lookup.ts';
import { Workflow } from './workflow.ts';

const SubmitterCell = z.strictObject({ field: z.string().max(130), sees: z.enum(['hidden', 'shown']).nullable() });
const Cell = z.strictObject({ field: z.string().max(130), stage: Key, treatment: Treatment.nullable() });

/** One change to a draft. Undo, autosave and history all pass through these. */
export const Edit = z.discriminatedUnion('type', [
  /** Sets cells of the plan; null leaves the field's default. */
  z.strictObject({ type: z.literal('set-treatments'), cells: z.array(Cell).min(1).max(20_000) }),
  /** Sets cells of the plan's column *Submitter*; null leaves what the intake showed. */
  z.strictObject({ type: z.literal('set-submitter-sees'), cells: z.array(SubmitterCell).min(1).max(20_000) }),
  z.strictObject({ type: z.literal('set-branch-condition'), handOff: Key, branch: Key, when: ExpressionText }),
  z.strictObject({ type: z.literal('rename-branch'), handOff: Key, branch: Key, name: z.string().min(1).max(200) }),
  z.strictObject({ type: z.literal('set-branch-destination'), handOff: Key, branch: Key, to: Key }),
  z.strictObject({ type: z.literal('set-adjustment-condition'), adjustment: Key, when: ExpressionText }),
  /** The whole definition, as when a file is read in. */
  z.strictObject({ type: z.literal('replace-definition'), definition: Workflow }),
]);
export type Edit = z.infer<typeof Edit>;

/** The definition after an edit, and the edit that undoes it. */
export type Edited = { readonly definition: Workflow; readonly inverse: Edit };

/**
 * Applies one edit. Parts that don't change keep their identity.
 * Codes: `edit/unknown-target` when what is to be changed isn't there.
 */
export function applyEdit(definition: Workflow, edit: Edit): Result<Edited> {
  switch (edit.type) {
    case 'set-treatments':
      return setTreatments(definition, edit);
    case 'set-submitter-sees':
      return setSubmitterSees(definition, edit);
    case 'set-branch-condition':
      return editBranch(definition, edit, (branch) => ({
        after: { ...branch, when: edit.when },
        inverse: { ...edit, when: branch.when },
      }));
    case 'rename-branch':
      return editBranch(definition, edit, (branch) => ({
        after: { ...branch, name: edit.name },
        inverse: { ...edit, name: branch.name },
      }));
    case 'set-branch-destination':
      return editBranch(definition, edit, (branch) => ({
        after: { ...branch, to: edit.to },
        inverse: { ...edit, to: branch.to },
      }));
    case 'set-adjustment-condition':
      return setAdjustmentCondition(definition, edit);
    case 'replace-definition':
      return success({ definition: edit.definition, inverse: { type: 'replace-definition', definition } });
    default:
      return edit satisfies never;
  }
}

const unknownTarget = (path: string): Result<never> => failure([diagnostic('edit/unknown-target', path, { target: path })]);

function setTreatments(definition: Workflow, edit: Extract<Edit, { type: 'set-treatments' }>): Result<Edited> {
  const plan = { ...definition.plan };
  const before: z.infer<typeof Cell>[] = [];
  for (const { field, stage, treatment } of edit.cells) {
    const isKnown = definition.fields.some((own) => own.key === field) || findSubField(definition, field) !== null;
    if (!isKnown || !definition.stages.some((own) => own.key === stage)) return unknownTarget(`plan.${field}.${stage}`);
    const row = { ...(Object.hasOwn(plan, field) ? plan[field] : {}) };
    before.unshift({ field, stage, treatment: row[stage] ?? null });
    if (treatment === null) delete row[stage];
    else row[stage] = treatment;
    if (Object.keys(row).length === 0) delete plan[field];
    else plan[field] = row;
  }
  return success({ definition: { ...definition, plan }, inverse: { type: 'set-treatments', cells: before } });
}

function setSubmitterSees(definition: Workflow, edit: Extract<Edit, { type: 'set-submitter-sees' }>): Result<Edited> {
  const submitterSees = { ...definition.submitterSees };
  const before: z.infer<typeof SubmitterCell>[] = [];
  for (const { field, sees } of edit.cells) {
    const isKnown = definition.fields.some((own) => own.key === field) || findSubField(definition, field) !== null;
    if (!isKnown) return unknownTarget(`submitterSees.${field}`);
    before.unshift({ field, sees: ownValue(submitterSees, field) ?? null });
    if (sees === null) delete submitterSees[field];
    else submitterSees[field] = sees;
  }
  return success({ definition: { ...definition, submitterSees }, inverse: { type: 'set-submitter-sees', cells: before } });
}

type BranchOf = Workflow['handOffs'][number]['branches'][number];

function editBranch(
  definition: Workflow,
  target: { readonly handOff: string; readonly branch: string },
  change: (branch: BranchOf) => { readonly after: BranchOf; readonly inverse: Edit },
): Result<Edited> {
  const handOff = findHandOff(definition, target.handOff);
  const branch = handOff?.branches.find((own) => own.key === target.branch);
  if (!handOff || !branch) return unknownTarget(`handOffs.${target.handOff}.branches.${target.branch}`);
  const { after, inverse } = change(branch);
  const branches = handOff.branches.map((own) => (own === branch ? after : own));
  const handOffs = definition.handOffs.map((own) => (own === handOff ? { ...own, branches } : own));
  return success({ definition: { ...definition, handOffs }, inverse });
}

function setAdjustmentCondition(definition: Workflow, edit: Extract<Edit, { type: 'set-adjustment-condition' }>): Result<Edited> {
  const adjustment = definition.adjustments.find((own) => own.key === edit.adjustment);
  if (!adjustment) return unknownTarget(`adjustments.${edit.adjustment}`);
  const adjustments = definition.adjustments.map((own) => (own === adjustment ? { ...own, when: edit.when } : own));
  return success({ definition: { ...definition, adjustments }, inverse: { ...edit, when: adjustment.when } });
}
