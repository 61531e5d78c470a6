import { walkDefinition } from './walk.ts';
import type { Workflow } from './workflow.ts';

const CALL = /\b(matches|replace|split)\s*\(/;

/** Whether an expression of a definition calls for patterns: without their engine nothing can be decided by it. */
export function decidesByPatterns(definition: Workflow): boolean {
  let found = false;
  walkDefinition(definition, {
    text: ({ text }) => {
      found ||= CALL.test(text);
      return text;
    },
  });
  return found;
}

/** Whether a field of a definition has a pattern: its values are held against it when they are checked. */
export const checksPatterns = ({ fields }: Workflow): boolean =>
  fields.some(
    (field) =>
      (field.type === 'text' && field.pattern !== null) ||
      (field.type === 'table' && field.fields.some((own) => own.type === 'text' && own.pattern !== null)),
  );
