import { limitsBroken } from '../forms/validate-form.ts';
import type { Field } from '../model/field.ts';
import { readFieldValue, readGivenValue } from '../model/field-value.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import type { Json } from '../shared/json.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { findProperty } from '../values/write-json.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import type { RecordEvent, WebConsequence } from './events.ts';
import type { Outside, WorkflowRecord } from './record.ts';
import { TakingIn } from './take-in.ts';

/** A record with what a web endpoint answered, and the event that says so; null where nothing changed. */
export type AnswerTaken = { readonly record: WorkflowRecord; readonly event: RecordEvent | null };

/**
 * Takes values from a web endpoint's answer into a record (semantics 5, what comes back): read like entered values, into
 * fields that nobody enters at the stage the record is at by now; what is computed follows; the record doesn't move. One
 * that doesn't fit, and nothing is taken. `answer`: numbers as decimal text. Codes: `answer/…`, `value/…`, `form/…`.
 */
export function takeAnswer(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  { delivery, outlet, answers }: Pick<WebConsequence, 'delivery' | 'outlet' | 'answers'>,
  answer: Json,
  outside: Outside,
): Result<AnswerTaken> {
  const taking = new TakingIn(workflow, record, { id: '', name: outlet, email: null, roles: [] }, outside);
  const refused: Diagnostic[] = [];
  for (const { name, field: key } of answers) {
    const of = workflow.forms.fieldByKey.get(key);
    if (!of) continue;
    if (!taking.isOpenTo(of)) {
      refused.push(diagnostic('answer/entered', key, { field: of.field.name }));
      continue;
    }
    const given = findProperty(answer, name);
    if (given === undefined) {
      refused.push(diagnostic('answer/missing', key, { field: of.field.name, name }));
      continue;
    }
    const read = readAnswered(of.field, given, outside);
    if (!read.ok) {
      refused.push(
        diagnostic('answer/unfit', key, { field: of.field.name, name, expected: read.diagnostic.params.expected ?? '' }),
      );
      continue;
    }
    const [broken] = limitsBroken(of.field, read.value, of.field.name);
    if (broken) refused.push(diagnostic(broken.code, key, broken.params));
    taking.put(of, read.value);
  }
  if (refused.length > 0) return failure(refused);
  const { record: after, changed } = taking.finish();
  const event: RecordEvent | null = changed.length === 0 ? null : { type: 'answered', delivery, outlet, changed };
  return success({ record: after, event });
}

/** What kinds of fields an answer can go to. */
export const canBeAnswered = ({ type }: Pick<Field, 'type'>): boolean =>
  !['table', 'file', 'sign-off', 'note', 'reference', 'member'].includes(type);

/** A property of an answer as the field's own JSON: other programs write numbers and texts for each other. */
function readAnswered(field: Field, json: Json, outside: Outside): ReturnType<typeof readFieldValue> {
  const own = typeof json === 'number' || (field.type !== 'yes-no' && typeof json === 'boolean') ? String(json) : json;
  const read = readFieldValue(field, own, outside);
  return read.ok ? readGivenValue(field, read.value, outside) : read;
}
