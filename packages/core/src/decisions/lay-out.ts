import { type FindWorkflow, makeWorkflowScope, type WorkflowScope } from '../expressions/workflow-scope.ts';
import type { Workflow } from '../model/workflow.ts';
import { typeOfDecision } from './compile-decision.ts';

/** The names that a workflow's expressions can read, with the types its decision tables yield. */
export function layOutScope(definition: Workflow, findWorkflow: FindWorkflow): WorkflowScope {
  const types = new Map(definition.decisionTables.map((table) => [table.key, typeOfDecision(table)]));
  return makeWorkflowScope(definition, types, findWorkflow);
}
