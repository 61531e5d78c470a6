import type { CompiledExpression, ExpressionCompiler } from '../expressions/compiler.ts';
import type { Frame } from '../expressions/frame.ts';
import type { Scope } from '../expressions/scope.ts';
import type { Readers, ReadersTable } from '../forms/readers.ts';
import type { Field, SubField } from '../model/field.ts';
import { findField } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { formatValue, type Style } from './format-value.ts';

/** What a filled-in template is for; each medium escapes values in its own way. */
export type Medium = 'plain' | 'html' | 'header';

export type TemplatePart = { readonly expression: CompiledExpression; readonly field: Field | SubField | null };
export type CompiledTemplate = { readonly text: string; readonly parts: readonly (string | TemplatePart)[] };

/**
 * Compiles a text with `{{expressions}}`. Each expression's diagnostics go to the compiler under the template's path, with
 * spans in the template. Code: `template/open` where `{{` is never closed.
 */
export function compileTemplate(
  text: string,
  path: string,
  scope: Scope,
  workflow: Workflow,
  compiler: ExpressionCompiler,
): CompiledTemplate {
  const parts: (string | TemplatePart)[] = [];
  let end = 0;
  for (const match of text.matchAll(/\{\{(.*?)\}\}/gs)) {
    if (match.index > end) parts.push(text.slice(end, match.index));
    const written = match[1] as string;
    const before = compiler.diagnostics.length;
    const expression = compiler.compile(written.trim() === '' ? 'null' : written, path, scope);
    const start = match.index + 2;
    for (let index = before; index < compiler.diagnostics.length; index++) {
      const { span, ...found } = compiler.diagnostics[index] as (typeof compiler.diagnostics)[number];
      compiler.diagnostics[index] = span ? { ...found, span: { start: span.start + start, end: span.end + start } } : found;
    }
    parts.push({ expression, field: fieldOf(expression, workflow) });
    end = match.index + match[0].length;
  }
  const rest = text.slice(end);
  const open = rest.indexOf('{{');
  if (open >= 0) compiler.diagnostics.push(diagnostic('template/open', path, {}, { start: end + open, end: end + open + 2 }));
  if (rest !== '') parts.push(rest);
  return { text, parts };
}

/** The field whose labels, unit and places a value is written with: that of a bare name, or of a table's column. */
function fieldOf(expression: CompiledExpression, workflow: Workflow): Field | SubField | null {
  const node = expression.checked?.node;
  if (node?.kind === 'name') return findField(workflow, node.name);
  if (node?.kind !== 'path' || node.of.kind !== 'name') return null;
  const table = findField(workflow, node.of.name);
  return table?.type === 'table' ? (table.fields.find((field) => field.key === node.name) ?? null) : null;
}

const ESCAPES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

const ESCAPE: Readonly<Record<Medium, (text: string) => string>> = {
  plain: (text) => text,
  html: (text) => text.replace(/[&<>"']/g, (character) => ESCAPES[character] as string),
  /** A header is one line: a value can't begin another. */
  header: (text) => text.replace(/\s+/g, ' ').trim(),
};

/** What a template is filled in with, and for whom: `mayRead` says whether whoever gets the text is among some readers. */
export type Filling = {
  readonly frame: Frame;
  readonly style: Style;
  readonly medium: Medium;
  readonly readers: ReadersTable;
  readonly mayRead: (readers: Readers) => boolean;
};

/** Fills in a template. What is made from a confidential value stays empty unless whoever gets the text may read all of it. */
export function fillTemplate(template: CompiledTemplate, { frame, style, medium, readers, mayRead }: Filling): string {
  const inMedium = ESCAPE[medium];
  const fill = ({ expression, field }: TemplatePart): string => {
    const needed = readers.ofExpression(expression.checked);
    return needed.length === 0 || mayRead(needed) ? inMedium(formatValue(expression.evaluate(frame), field, style)) : '';
  };
  const text = template.parts.map((part) => (typeof part === 'string' ? part : fill(part))).join('');
  return medium === 'header' ? inMedium(text) : text;
}
