import { fillGivenKeys } from './given-keys.ts';
import { fillOlder } from './older.ts';
import type { Workflow } from './workflow.ts';

/**
 * A definition that was stored when the model had less in it, with the defaults and keys of what came since. It was read in
 * full before it was stored, so nothing is looked at twice.
 */
export const openStoredWorkflow = (stored: Workflow): Workflow => fillOlder(fillGivenKeys(stored) as Workflow) as Workflow;
