import { canBeShown } from '../forms/compiled-forms.ts';
import type { Field, SubField } from '../model/field.ts';
import { joinPath } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { registerRightOf } from './permissions.ts';

/**
 * Warns where a stage shows a reference to roles that may not see the records of the other workflow: the reference, and
 * everything that is read through it, stays empty for them. Who submitted such a record, or has it assigned, sees it all the
 * same; nobody knows that at design. Nothing is said of stages without roles, or of workflows that aren't known.
 * Code: `readers/reference`.
 */
export function checkReferences(workflow: CompiledWorkflow): readonly Diagnostic[] {
  const { definition, forms } = workflow;
  return forms.fields.flatMap(({ field }) =>
    targetsOf(field).flatMap((target) => {
      const other = workflow.findWorkflow(target);
      if (!other) return [];
      const stages = definition.stages.flatMap(({ key, name, kind, roles }) => {
        const step = kind === 'junction' ? undefined : forms.stageForm(key).fieldSteps.get(field.key);
        const blind = step && canBeShown(step.placement) ? roles.filter((role) => !seesRecords(other, role)) : [];
        return blind.length > 0 ? [{ name, blind }] : [];
      });
      if (stages.length === 0) return [];
      const who = definition.roles.filter(({ key }) => stages.some(({ blind }) => blind.includes(key)));
      const params = { field: field.name, workflow: other.name, stages: stages.map(({ name }) => name) };
      return [diagnostic('readers/reference', joinPath('fields', field.key), { ...params, who: who.map(({ name }) => name) })];
    }),
  );
}

/** The workflows that a field's value, or the cells of its rows, refer to. */
const targetsOf = (field: Field): readonly string[] => {
  const parts: readonly (Field | SubField)[] = field.type === 'table' ? field.fields : [field];
  return [...new Set(parts.flatMap((part) => (part.type === 'reference' ? [part.workflow] : [])))];
};

/** Whether holders of a role see the records of a workflow, whoever submitted them: they act at a stage, or have its register. */
const seesRecords = (definition: Workflow, role: string): boolean =>
  definition.stages.some(({ kind, roles }) => kind !== 'intake' && roles.includes(role)) ||
  registerRightOf(definition, { roles: [role] }) !== 'none';
