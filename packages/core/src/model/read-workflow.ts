import type { z } from 'zod';
import { diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { isTermCode, type Term, term } from '../shared/terms.ts';
import { fillGivenKeys } from './given-keys.ts';
import { checkInvariants } from './invariants.ts';
import { renameOlder } from './older.ts';
import { Workflow } from './workflow.ts';

/** What a schema found wrong, as a term: the model's own rules by their code, the rest by the schema's kind of issue. */
export function termOfIssue(issue: z.core.$ZodIssue): Term {
  if (isTermCode(issue.message)) return term(issue.message);
  switch (issue.code) {
    case 'invalid_type':
      return term('shape/type', { expected: issue.expected });
    case 'invalid_value':
      return term('shape/value', { values: issue.values.map(String).join(', ') });
    case 'too_small':
      return term('shape/too-little', { least: Number(issue.minimum) });
    case 'too_big':
      return term('shape/too-much', { most: Number(issue.maximum) });
    case 'unrecognized_keys':
      return term('shape/unknown', { names: issue.keys.join(', ') });
    default:
      return term('shape/form');
  }
}

/** Faults that are named at once: whoever has more mends these first. */
const MAX_FAULTS = 100;

/**
 * Reads a definition's shape from JSON: a draft may name what isn't there yet. Code: `workflow/shape`, with a path for each
 * of the first hundred things wrong.
 */
export function parseWorkflow(json: unknown): Result<Workflow> {
  const parsed = Workflow.safeParse(renameOlder(fillGivenKeys(json)));
  if (parsed.success) return success(parsed.data);
  const issues = parsed.error.issues.slice(0, MAX_FAULTS);
  return failure(issues.map((issue) => diagnostic('workflow/shape', issue.path.join('.'), { detail: termOfIssue(issue) })));
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
