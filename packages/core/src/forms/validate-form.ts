import { findPattern } from '../expressions/builtins/patterns.ts';
import type { Field, Limited, SubField } from '../model/field.ts';
import { isEmpty } from '../model/field-value.ts';
import { isOfKind, termOfFileKind } from '../model/file-kind.ts';
import { isEnterable } from '../model/treatment.ts';
import { type Diagnostic, type DiagnosticCode, type DiagnosticParams, diagnostic } from '../shared/diagnostic.ts';
import { compareExact, type Exact, placesOf, readExact } from '../values/exact.ts';
import { type DateValue, readDate } from '../values/temporal.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledField } from './compiled-field.ts';
import { type Decided, decidedOf, effectiveValueOf, type Form } from './evaluate-form.ts';

/** Something a participant must mend before a hand-off with full checking: a diagnostic with the field and row it concerns. */
export type Issue = Diagnostic & {
  readonly field: string | null;
  readonly row: string | null;
  readonly subField: string | null;
  /** The analyst's own words, shown instead of ours. */
  readonly ownMessage: string | null;
};

type Place = Pick<Issue, 'field' | 'row' | 'subField'>;
type Found = { readonly code: LimitCode; readonly params: DiagnosticParams };

/** Which of the analyst's own words stand for each code. */
const LIMITED_BY = {
  'form/required': 'required',
  'form/too-long': 'length',
  'form/too-short': 'length',
  'form/pattern': 'pattern',
  'form/below': 'range',
  'form/above': 'range',
  'form/before': 'range',
  'form/after': 'range',
  'form/scale': 'scale',
  'form/unknown-option': 'options',
  'form/retired-option': 'options',
  'form/too-few-rows': 'count',
  'form/too-many-rows': 'count',
  'form/too-many-files': 'count',
  'form/file-kind': 'kinds',
  'form/file-too-large': 'size',
} as const satisfies Partial<Record<DiagnosticCode, Limited>>;
type LimitCode = keyof typeof LIMITED_BY;

/** What is wrong with a form: required and empty, outside limits, and checks that don't hold (semantics 3.4). */
export function validateForm(form: Form): readonly Issue[] {
  const issues: Issue[] = [];
  for (const step of form.stageForm.steps) {
    if (step.kind !== 'field') continue;
    const decided = decidedOf(form, step.of);
    if (decided.treatment === 'hidden' || step.of.field.type === 'note') continue;
    validateField(form, step.of, decided, issues);
  }
  issues.sort(
    (a, b) => (form.forms.fieldByKey.get(a.field ?? '')?.slot ?? 0) - (form.forms.fieldByKey.get(b.field ?? '')?.slot ?? 0),
  );
  return [...issues, ...failedChecks(form)];
}

function validateField(form: Form, of: CompiledField, decided: Decided, issues: Issue[]): void {
  const { field } = of;
  const value = effectiveValueOf(form, of);
  const place: Place = { field: field.key, row: null, subField: null };
  if (decided.treatment === 'required' && isEmpty(value))
    issues.push(limitIssue(field, place, { code: 'form/required', params: { field: field.name } }));
  for (const found of limitsBroken(field, value, field.name)) issues.push(limitIssue(field, place, found));
  if (isEnterable(decided.treatment) && choosesRetired(field, value, form.given.stored[of.slot] ?? null)) {
    issues.push(limitIssue(field, place, { code: 'form/retired-option', params: { field: field.name } }));
  }
  if (field.type !== 'table' || !isList(value)) return;
  const stored = form.given.stored[of.slot] ?? null;
  const before = new Map((isList(stored) ? (stored as readonly ContextValue[]) : []).map((row) => [row.id, row]));
  for (const row of value as readonly ContextValue[]) {
    const treatments = form.rows.get(of.slot)?.get(row.id ?? '') ?? [];
    for (const sub of of.subFields) {
      const treatment = treatments[sub.index]?.treatment ?? 'hidden';
      if (treatment === 'hidden') continue;
      const own = row.entries[sub.field.key] ?? null;
      const at: Place = { field: field.key, row: row.id, subField: sub.field.key };
      if (treatment === 'required' && isEmpty(own))
        issues.push(limitIssue(sub.field, at, { code: 'form/required', params: { field: sub.field.name } }));
      for (const found of limitsBroken(sub.field, own, sub.field.name)) issues.push(limitIssue(sub.field, at, found));
      if (isEnterable(treatment) && choosesRetired(sub.field, own, before.get(row.id)?.entries[sub.field.key] ?? null))
        issues.push(limitIssue(sub.field, at, { code: 'form/retired-option', params: { field: sub.field.name } }));
    }
  }
}

/** A retired option stays readable where it was chosen before; it can't be newly chosen. */
function choosesRetired(field: Field | SubField, value: Value, before: Value): boolean {
  if (field.type !== 'choice' && field.type !== 'multi-choice') return false;
  const retired = new Set(field.options.filter((option) => option.retired).map((option) => option.code));
  const chosen = isList(value) ? value : [value];
  const had = isList(before) ? before : [before];
  return chosen.some((code) => retired.has(code as string) && !had.includes(code));
}

const limitIssue = (field: Field | SubField, place: Place, { code, params }: Found): Issue =>
  issue(place, code, params, field.messages[LIMITED_BY[code]] ?? null);

function issue(place: Place, code: DiagnosticCode, params: DiagnosticParams, ownMessage: string | null): Issue {
  const row = place.row === null ? '' : `[${place.row}]`;
  const path = `${place.field ?? ''}${row}${place.subField === null ? '' : `.${place.subField}`}`;
  return { ...diagnostic(code, path, params), ...place, ownMessage };
}

function failedChecks(form: Form): readonly Issue[] {
  return form.stageForm.checks.flatMap(({ check, condition }) =>
    condition.holds(form.frame)
      ? []
      : [issue({ field: check.field, row: null, subField: null }, 'form/check', { check: check.name }, check.message)],
  );
}

/** Limits of a field that a value breaks. Empty values break none. */
export function limitsBroken(field: Field | SubField, value: Value, name: string): readonly Found[] {
  if (isEmpty(value) && field.type !== 'table') return [];
  switch (field.type) {
    case 'text':
    case 'long-text':
      return textLimits(field, value as string, name);
    case 'number':
    case 'money':
      return numberLimits(field, value as Exact, name);
    case 'date':
      return dateLimits(field, value as DateValue, name);
    case 'choice':
      return optionLimits(field.options, [value as string], name);
    case 'multi-choice':
      return optionLimits(field.options, value as readonly string[], name);
    case 'file':
      return fileLimits(field, value as readonly ContextValue[], name);
    case 'table':
      return rowLimits(field, (value as readonly Value[] | null)?.length ?? 0, name);
    default:
      return [];
  }
}

function textLimits(
  field: Extract<Field | SubField, { type: 'text' | 'long-text' }>,
  value: string,
  name: string,
): readonly Found[] {
  const found: Found[] = [];
  const length = Array.from(value).length;
  if (field.maxLength !== null && length > field.maxLength)
    found.push({ code: 'form/too-long', params: { field: name, limit: field.maxLength, length } });
  if (field.minLength !== null && length < field.minLength)
    found.push({ code: 'form/too-short', params: { field: name, limit: field.minLength, length } });
  if (!fitsPattern(field, value)) found.push({ code: 'form/pattern', params: { field: name } });
  return found;
}

/** Whether a text has the form that its field asks for. Under a pattern that can't be used, a fault of the design, none has. */
export const fitsPattern = (field: Field | SubField, value: string): boolean =>
  field.type !== 'text' || field.pattern === null || findPattern(field.pattern)?.matcher(value).matches() === true;

function numberLimits(
  field: Extract<Field | SubField, { type: 'number' | 'money' }>,
  value: Exact,
  name: string,
): readonly Found[] {
  const found: Found[] = [];
  const min = field.min === null ? null : readExact(field.min);
  const max = field.max === null ? null : readExact(field.max);
  if (min && compareExact(value, min) < 0) found.push({ code: 'form/below', params: { field: name, limit: field.min ?? '' } });
  if (max && compareExact(value, max) > 0) found.push({ code: 'form/above', params: { field: name, limit: field.max ?? '' } });
  if ((value.big !== null || value.scale > field.scale) && placesOf(value) > field.scale)
    found.push({ code: 'form/scale', params: { field: name, scale: field.scale } });
  return found;
}

function dateLimits(field: Extract<Field | SubField, { type: 'date' }>, value: DateValue, name: string): readonly Found[] {
  const found: Found[] = [];
  const [min, max] = [field.min, field.max].map((limit) => (limit === null ? null : readDate(limit)));
  if (min && value.day < min.day) found.push({ code: 'form/before', params: { field: name, limit: field.min ?? '' } });
  if (max && value.day > max.day) found.push({ code: 'form/after', params: { field: name, limit: field.max ?? '' } });
  return found;
}

function optionLimits(
  options: readonly { readonly code: string; readonly retired: boolean }[],
  codes: readonly string[],
  name: string,
): readonly Found[] {
  return codes.some((code) => !options.some((option) => option.code === code))
    ? [{ code: 'form/unknown-option', params: { field: name } }]
    : [];
}

function fileLimits(
  field: Extract<Field | SubField, { type: 'file' }>,
  files: readonly ContextValue[],
  name: string,
): readonly Found[] {
  const found: Found[] = [];
  if (files.length > field.maxCount) found.push({ code: 'form/too-many-files', params: { field: name, limit: field.maxCount } });
  const limit = readExact(String(field.maxBytes)) as Exact;
  if (files.some((file) => compareExact(file.entries.bytes as Exact, limit) > 0)) {
    found.push({ code: 'form/file-too-large', params: { field: name, limit: field.maxBytes } });
  }
  if (
    files.some(({ entries }) => !isOfKind(field.kinds, { name: entries.name as string, mediaType: entries.mediaType as string }))
  )
    found.push({ code: 'form/file-kind', params: { field: name, kinds: field.kinds.map(termOfFileKind) } });
  return found;
}

function rowLimits(field: Extract<Field, { type: 'table' }>, rows: number, name: string): readonly Found[] {
  const found: Found[] = [];
  if (field.minRows !== null && rows > 0 && rows < field.minRows)
    found.push({ code: 'form/too-few-rows', params: { field: name, limit: field.minRows } });
  if (field.maxRows !== null && rows > field.maxRows)
    found.push({ code: 'form/too-many-rows', params: { field: name, limit: field.maxRows } });
  return found;
}
