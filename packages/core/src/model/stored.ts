import { fillGivenKeys } from './given-keys.ts';
import type { Workflow } from './workflow.ts';

/**
 * A definition that was stored when the model had less in it, with the defaults and keys of what came since. It was read in
 * full before it was stored, so nothing is looked at twice.
 */
export function openStoredWorkflow(stored: Workflow): Workflow {
  const keyed = fillGivenKeys(stored) as Workflow;
  return keyed.submitterSees === undefined ? { ...keyed, submitterSees: {} } : keyed;
}
