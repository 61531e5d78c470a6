import type { CompiledExpression, ExpressionCompiler } from '../expressions/compiler.ts';
import type { Frame } from '../expressions/frame.ts';
import { namesReadBy } from '../expressions/rewrite.ts';
import type { Scope } from '../expressions/scope.ts';
import type { Field, SubField } from '../model/field.ts';
import { findField } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import { formatValue, type Style } from './format-value.ts';

/** What a filled-in template is for; each medium escapes values in its own way. */
export type Medium = 'plain' | 'html' | 'header';

type TemplatePart = {
  readonly expression: CompiledExpression;
  readonly field: Field | SubField | null;
  /** For each confidential field that the expression reads: the roles that may read it. */
  readonly readers: readonly (readonly string[])[];
};
export type CompiledTemplate = { readonly text: string; readonly parts: readonly (string | TemplatePart)[] };

/** Compiles a text with `{{expressions}}`. Each expression's diagnostics go to the compiler under the template's path. */
export function compileTemplate(
  text: string,
  path: string,
  scope: Scope,
  workflow: Workflow,
  compiler: ExpressionCompiler,
): CompiledTemplate {
  const parts = text.split(/\{\{(.*?)\}\}/s).map((part, index) => {
    if (index % 2 === 0) return part;
    const expression = compiler.compile(part.trim() === '' ? 'null' : part, path, scope);
    return { expression, field: fieldOf(expression, workflow), readers: readersOf(expression, workflow) };
  });
  return { text, parts: parts.filter((part) => part !== '') };
}

/** The field whose labels, unit and places a value is written with: that of a bare name, or of a table's column. */
function fieldOf(expression: CompiledExpression, workflow: Workflow): Field | SubField | null {
  const node = expression.checked?.node;
  if (node?.kind === 'name') return findField(workflow, node.name);
  if (node?.kind !== 'path' || node.of.kind !== 'name') return null;
  const table = findField(workflow, node.of.name);
  return table?.type === 'table' ? (table.fields.find((field) => field.key === node.name) ?? null) : null;
}

function readersOf({ checked }: CompiledExpression, workflow: Workflow): readonly (readonly string[])[] {
  const names = checked ? namesReadBy(checked) : [];
  return workflow.fields
    .filter((field) => field.confidentialTo.length > 0 && names.includes(field.key))
    .map((field) => field.confidentialTo);
}

const ESCAPES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

const ESCAPE: Readonly<Record<Medium, (text: string) => string>> = {
  plain: (text) => text,
  html: (text) => text.replace(/[&<>"']/g, (character) => ESCAPES[character] as string),
  /** A header is one line: a value can't begin another. */
  header: (text) => text.replace(/\s+/g, ' ').trim(),
};

/**
 * Fills in a template. What reads a confidential field stays empty unless `mayRead` says of its reader roles that whoever
 * gets the text has one.
 */
export function fillTemplate(
  template: CompiledTemplate,
  frame: Frame,
  style: Style,
  medium: Medium,
  mayRead: (readers: readonly string[]) => boolean,
): string {
  const inMedium = ESCAPE[medium];
  const fill = ({ expression, field, readers }: TemplatePart): string =>
    readers.every(mayRead) ? inMedium(formatValue(expression.evaluate(frame), field, style)) : '';
  const text = template.parts.map((part) => (typeof part === 'string' ? part : fill(part))).join('');
  return medium === 'header' ? inMedium(text) : text;
}
