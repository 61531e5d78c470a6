import { diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { checkInvariants } from './invariants.ts';
import { Workflow } from './workflow.ts';

/** Faults that are named at once: whoever has more mends these first. */
const MAX_FAULTS = 100;

/**
 * Reads a definition's shape from JSON: a draft may name what isn't there yet. Code: `workflow/shape`, with a path for each
 * of the first hundred things wrong.
 */
export function parseWorkflow(json: unknown): Result<Workflow> {
  const parsed = Workflow.safeParse(json);
  if (parsed.success) return success(parsed.data);
  const issues = parsed.error.issues.slice(0, MAX_FAULTS);
  return failure(issues.map((issue) => diagnostic('workflow/shape', issue.path.join('.'), { detail: issue.message })));
}

/**
 * Reads a definition from JSON: shape first, then that every key named exists and is unique.
 * Codes: those of {@link parseWorkflow} and {@link checkInvariants}.
 */
export function readWorkflow(json: unknown): Result<Workflow> {
  const parsed = parseWorkflow(json);
  if (!parsed.ok) return parsed;
  const faults = checkInvariants(parsed.value).slice(0, MAX_FAULTS);
  return faults.length === 0 ? parsed : failure(faults);
}
