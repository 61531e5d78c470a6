import { findPattern } from '../expressions/builtins/patterns.ts';
import type { Field, SubField } from '../model/field.ts';
import { joinPath, within } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { compareExact, readExact } from '../values/exact.ts';
import { readDate } from '../values/temporal.ts';

/**
 * What is wrong with fields taken alone: limits that no value can keep, patterns that can't be used, codes that no entered
 * text ever equals. Codes: `field/limits-cross`, `field/no-such-day`, `field/bad-pattern`, `field/code-form`.
 */
export function checkFields(workflow: Workflow): readonly Diagnostic[] {
  const ofFields = workflow.fields.flatMap((field) => [
    ...checkField(field, joinPath('fields', field.key)),
    ...(field.type === 'table'
      ? field.fields.flatMap((own) => checkField(own, joinPath('fields', field.key, 'fields', own.key)))
      : []),
  ]);
  const ofOutputs = workflow.decisionTables.flatMap((table) =>
    table.outputs.flatMap((output) =>
      checkCodes(output.values, output.name, joinPath('decisionTables', table.key, 'outputs', output.key, 'values')),
    ),
  );
  return [...ofFields, ...ofOutputs];
}

function checkField(field: Field | SubField, path: string): readonly Diagnostic[] {
  switch (field.type) {
    case 'text':
      return [...crossing(field, path, field.minLength, field.maxLength, (a, b) => a > b), ...checkPattern(field, path)];
    case 'long-text':
      return crossing(field, path, field.minLength, field.maxLength, (a, b) => a > b);
    case 'number':
    case 'money':
      return crossing(field, path, field.min, field.max, (a, b) => {
        const [low, high] = [readExact(a), readExact(b)];
        return low !== null && high !== null && compareExact(low, high) > 0;
      });
    case 'date':
      return [
        ...(['min', 'max'] as const).flatMap((end) =>
          field[end] !== null && readDate(field[end]) === null
            ? [diagnostic('field/no-such-day', `${path}.${end}`, { field: field.name, found: field[end] })]
            : [],
        ),
        ...crossing(field, path, field.min, field.max, (a, b) => a > b),
      ];
    case 'table':
      return crossing(field, path, field.minRows, field.maxRows, (a, b) => a > b);
    case 'choice':
    case 'multi-choice':
      return checkCodes(
        field.options.map((option) => option.code),
        field.name,
        `${path}.options`,
      );
    default:
      return [];
  }
}

function crossing<T extends string | number>(
  field: Field | SubField,
  path: string,
  low: T | null,
  high: T | null,
  crosses: (low: T, high: T) => boolean,
): readonly Diagnostic[] {
  if (low === null || high === null || !crosses(low, high)) return [];
  return [diagnostic('field/limits-cross', path, { field: field.name, low, high })];
}

function checkPattern(field: Extract<Field | SubField, { type: 'text' }>, path: string): readonly Diagnostic[] {
  if (field.pattern === null || findPattern(field.pattern)) return [];
  return [diagnostic('field/bad-pattern', `${path}.pattern`, { field: field.name, found: field.pattern.slice(0, 60) })];
}

/** Entered texts are trimmed and in NFC; a code that isn't would never be equal to one. */
const checkCodes = (codes: readonly string[], field: string, path: string): readonly Diagnostic[] =>
  codes.flatMap((code) =>
    code === code.normalize('NFC').trim() ? [] : [diagnostic('field/code-form', within(path, code), { field, code })],
  );
