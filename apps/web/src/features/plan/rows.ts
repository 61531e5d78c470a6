import { type CompiledWorkflow, isComputed, namesReadBy, plannedTreatment, type Treatment, type Workflow } from '@ypomet/core';

export type PlanRow =
  | { readonly kind: 'section'; readonly key: string; readonly name: string }
  | { readonly kind: 'field'; readonly path: string; readonly name: string; readonly type: string; readonly isSub: boolean };

/** The plan's rows: sections with their fields, table fields with their sub-fields. */
export function planRows(workflow: Pick<Workflow, 'sections' | 'fields'>): readonly PlanRow[] {
  return workflow.sections.flatMap((section): readonly PlanRow[] => [
    { kind: 'section', key: section.key, name: section.name },
    ...workflow.fields
      .filter((field) => field.section === section.key)
      .flatMap((field): readonly PlanRow[] => [
        { kind: 'field', path: field.key, name: field.name, type: isComputed(field) ? 'computed' : field.type, isSub: false },
        ...(field.type === 'table'
          ? field.fields.map((sub) => ({
              kind: 'field' as const,
              path: `${field.key}.${sub.key}`,
              name: sub.name,
              type: sub.type as string,
              isSub: true,
            }))
          : []),
      ]),
  ]);
}

export const cellTreatment = (workflow: Workflow, path: string, stage: string): Treatment =>
  plannedTreatment(workflow, path, stage);

/** Whether the submitter sees a field of a record that others have: as the column says, else as an intake plans it. */
export function submitterSees(workflow: Workflow, path: string): boolean {
  const said = Object.hasOwn(workflow.submitterSees, path) ? workflow.submitterSees[path] : undefined;
  if (said) return said === 'shown';
  const intakes = workflow.stages.filter((stage) => stage.kind === 'intake');
  return intakes.some((stage) => plannedTreatment(workflow, path, stage.key) !== 'hidden');
}

/** Adjustments that cover a cell, by name. */
export function adjustmentsAt(workflow: Workflow, path: string, stage: string) {
  const section = workflow.fields.find((field) => field.key === path)?.section;
  return workflow.adjustments.filter(
    (adjustment) =>
      (adjustment.stages.length === 0 || adjustment.stages.includes(stage)) &&
      (adjustment.fields.includes(path) || (section !== undefined && adjustment.sections.includes(section))),
  );
}

/** The fields an expression of the definition reads, computed fields followed one step back. */
export function fieldsReadBy(compiled: CompiledWorkflow, names: readonly string[]): ReadonlySet<string> {
  const found = new Set<string>();
  for (const name of names) {
    const of = compiled.forms.fieldByKey.get(name);
    if (!of) continue;
    found.add(name);
    if (of.computes?.checked)
      for (const inner of namesReadBy(of.computes.checked)) if (compiled.forms.fieldByKey.has(inner)) found.add(inner);
  }
  return found;
}
