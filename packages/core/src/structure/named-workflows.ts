import type { Workflow } from '../model/workflow.ts';

/** Returns the keys of the workflows that a definition names: those its references point to and those its follow-ups open. Each once. */
export function workflowsNamedBy({ fields, handOffs }: Pick<Workflow, 'fields' | 'handOffs'>): readonly string[] {
  const all = fields.flatMap((field) => [field, ...(field.type === 'table' ? field.fields : [])]);
  const keys = [
    ...all.flatMap((field) => (field.type === 'reference' ? [field.workflow] : [])),
    ...handOffs.flatMap(({ followUps }) => followUps.map((followUp) => followUp.workflow)),
  ];
  return [...new Set(keys)];
}
