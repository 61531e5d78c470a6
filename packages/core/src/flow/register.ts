import type { CheckedExpression } from '../expressions/check.ts';
import { readsTheMoment, referencesOf } from '../expressions/rewrite.ts';
import type { Scope } from '../expressions/scope.ts';
import { childrenOf, type Node } from '../expressions/tree.ts';
import { makeWorkflowScope } from '../expressions/workflow-scope.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import { type CompiledForms, canBeShown, type Placement } from '../forms/compiled-forms.ts';
import type { Field, SubField } from '../model/field.ts';
import type { RegisterRight, Workflow } from '../model/workflow.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { readOnlyWorkflow, withoutExpressions } from './onlook.ts';
import { mayRead, registerRightOf } from './permissions.ts';
import type { Actor } from './record.ts';

/** A workflow's register as somebody may use it. */
export type Register = {
  readonly right: RegisterRight;
  /** The workflow with the fields that its reader can be shown, and nothing of how they come about; stages and roles by name. */
  readonly definition: Workflow;
  /**
   * The fields that records can be filtered, ordered and totalled by: those that every record shows its reader, and whose
   * stored value is what it shows. By another field, what comes back would tell what the field doesn't.
   */
  readonly searchable: readonly string[];
};

/** The register for somebody; null for whoever has no right to it. */
export function projectRegister(workflow: CompiledWorkflow, actor: Pick<Actor, 'roles'>): Register | null {
  const right = registerRightOf(workflow.definition, actor);
  return right === 'none' ? null : project(workflow, actor, right);
}

/**
 * A workflow's records as somebody finds them on the desk: by the fields that the stages of their roles show of every record,
 * or by all that a right to the whole register shows.
 */
export const projectDesk = (workflow: CompiledWorkflow, actor: Pick<Actor, 'roles'>): Register =>
  project(workflow, actor, registerRightOf(workflow.definition, actor) === 'all' ? 'all' : 'shown');

function project(workflow: CompiledWorkflow, actor: Pick<Actor, 'roles'>, right: RegisterRight): Register {
  const { definition, forms } = workflow;
  const sight = new Sight(workflow, actor, right);
  const searchable: string[] = [];
  const fields = forms.fields.flatMap((of): readonly Field[] => {
    const { field } = of;
    if (field.type === 'note' || !mayRead(forms, field.key, actor) || !sight.can(of)) return [];
    const open = { ...withoutExpressions(field), confidentialTo: [], treatment: 'read-only' as const };
    if (open.type !== 'table') {
      if (sight.always(of) && isSettled(forms, field.key)) searchable.push(field.key);
      return [open];
    }
    const own = of.subFields.filter((cell) => mayRead(forms, field.key, actor, cell.field.key) && sight.can(of, cell.field));
    if (own.length === 0) return [];
    const isWhole = own.every((cell) => sight.always(of, cell.field)) && isSettled(forms, field.key);
    if (isWhole) searchable.push(field.key);
    return [{ ...open, fields: own.map((cell) => withoutExpressions(cell.field)) }];
  });
  const stages = definition.stages.map((stage) => ({ ...stage, roles: [] }));
  const roles = definition.roles.map(({ key, name }) => ({ key, name, register: 'none' as const }));
  return { right, definition: { ...readOnlyWorkflow(definition, fields, stages), roles }, searchable };
}

/** What a condition over a register's records can read: the searchable fields, and `record`. */
export function registerScope({ definition, searchable }: Pick<Register, 'definition' | 'searchable'>): Scope {
  const known = new Set(searchable);
  const fields = definition.fields.filter(({ key }) => known.has(key));
  const { scope } = makeWorkflowScope({ ...definition, fields }, new Map(), () => null);
  return { entries: new Map([...scope.entries].filter(([name]) => known.has(name) || name === 'record')) };
}

/** Where a reader is shown what, whatever a record's values. */
class Sight {
  private readonly stages: readonly string[];

  constructor(
    private readonly workflow: CompiledWorkflow,
    actor: Pick<Actor, 'roles'>,
    private readonly right: RegisterRight,
  ) {
    this.stages = workflow.definition.stages
      .filter(({ kind, roles }) => kind !== 'junction' && roles.some((role) => actor.roles.includes(role)))
      .map(({ key }) => key);
  }

  /** Whether some record can show it. */
  can(of: CompiledField, part: SubField | null = null): boolean {
    return this.right === 'all' || this.placements(of, part).some((placements) => placements.every(canBeShown));
  }

  /** Whether every record shows it. */
  always(of: CompiledField, part: SubField | null = null): boolean {
    return this.right === 'all' || this.placements(of, part).some((placements) => placements.every(isAlwaysShown));
  }

  /** By stage, where the field stands, and its sub-field. */
  private placements({ field }: CompiledField, part: SubField | null): readonly (readonly Placement[])[] {
    return this.stages.flatMap((stage) => {
      const step = this.workflow.forms.stageForm(stage).fieldSteps.get(field.key);
      if (!step) return [];
      const cell = part && step.rows.find(({ of }) => of.field === part);
      return [[step.placement, ...(cell ? [cell.placement] : [])]];
    });
  }
}

const isAlwaysShown = ({ planned, hiding, adjustments }: Placement): boolean =>
  planned !== 'hidden' && hiding.length === 0 && adjustments.every(({ adjustment }) => adjustment.treatment !== 'hidden');

const known = new WeakMap<CompiledForms, Map<string, boolean>>();

/**
 * Whether what is stored of a field is what it shows at any time: it is entered, or follows from stored values alone, whenever
 * and by whomever it is looked at. So with decision tables, by their keys.
 */
function isSettled(forms: CompiledForms, key: string): boolean {
  const memo = known.get(forms) ?? new Map<string, boolean>();
  known.set(forms, memo);
  const found = memo.get(key);
  if (found !== undefined) return found;
  // A cycle is a fault of the design; here it ends.
  memo.set(key, false);
  const settled = followsFromStored(forms, key);
  memo.set(key, settled);
  return settled;
}

function followsFromStored(forms: CompiledForms, key: string): boolean {
  const settles = (checked: CheckedExpression | null | undefined): boolean =>
    !checked ||
    (!readsTheMoment(checked.node) &&
      referencesOf(checked).every(({ name, part }) => {
        // Of the row, or of the table itself, what isn't entered is looked at by itself.
        if (name === 'row' || name === key) return true;
        const isThrough = forms.fieldByKey.get(name)?.field.type === 'reference' && part !== null;
        return !isThrough && isSettled(forms, name);
      }));
  const of = forms.fieldByKey.get(key);
  if (!of) return forms.decisions.find(({ table }) => table.key === key)?.reads.every(settles) ?? false;
  const cells = of.subFields.map(({ computes }) => computes?.checked);
  return settles(of.computes?.checked) && cells.every((cell) => settles(cell) && !readsThrough(cell?.node));
}

/** Whether an expression over a row reads on through one of its references. */
const readsThrough = (node: Node | undefined): boolean =>
  node !== undefined &&
  ((node.kind === 'path' && node.of.kind === 'path' && node.of.of.kind === 'name' && node.of.of.name === 'row') ||
    childrenOf(node).some(readsThrough));
