import type { CompiledExpression, ExpressionCompiler } from '../expressions/compiler.ts';
import type { Scope } from '../expressions/scope.ts';
import { isAssignable, TYPES, type Type, termOfType } from '../expressions/types.ts';
import type { WorkflowScope } from '../expressions/workflow-scope.ts';
import type { Field, SubField } from '../model/field.ts';
import { findField } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import {
  type Block,
  expressionsIn,
  expressionsInLine,
  type Inline,
  parseLine,
  parseTemplate,
  type TemplateExpression,
  type TemplateFault,
  tableOfRows,
} from './parse-template.ts';

/** An expression of a template. `field`: whose labels, unit and places its value is written with. */
export type TemplatePart = {
  readonly expression: CompiledExpression;
  readonly reads: TemplateExpression['reads'];
  readonly field: Field | SubField | null;
  /** The table whose row is `row` there. */
  readonly table: string | null;
};

/** Expressions by where they begin in the text. */
type Parts = ReadonlyMap<number, TemplatePart>;
export type CompiledTemplate = { readonly text: string; readonly blocks: readonly Block[]; readonly parts: Parts };
/** A template of one line. */
export type CompiledLine = { readonly text: string; readonly children: readonly Inline[]; readonly parts: Parts };

/** What templates are compiled with. */
export type TemplateScope = {
  readonly layout: Pick<WorkflowScope, 'scope' | 'rowScopes'>;
  readonly definition: Workflow;
  readonly compiler: ExpressionCompiler;
};

/**
 * Compiles a template. Diagnostics go to the compiler under the template's path, with spans in the template. Codes:
 * `template/…`, and those of its expressions.
 */
export function compileTemplate(text: string, path: string, scope: TemplateScope): CompiledTemplate {
  const { blocks, faults } = parseTemplate(text);
  tell(faults, path, scope);
  if (scope.compiler.compiling === 'whole') checkForms(blocksInlines(blocks), path, scope);
  return { text, blocks, parts: compileParts(expressionsIn({ blocks }), path, scope) };
}

/** Compiles a template of one line: a subject, an address, a file name. */
export function compileLine(text: string, path: string, scope: TemplateScope): CompiledLine {
  const { children, faults } = parseLine(text);
  tell(faults, path, scope);
  if (scope.compiler.compiling === 'whole') checkForms(children, path, scope);
  return { text, children, parts: compileParts(expressionsInLine({ children }), path, scope) };
}

const tell = (faults: readonly TemplateFault[], path: string, { compiler }: TemplateScope): void => {
  for (const { code, start, end, found } of faults) compiler.diagnostics.push(diagnostic(code, path, { found }, { start, end }));
};

function compileParts(expressions: readonly TemplateExpression[], path: string, scope: TemplateScope): Parts {
  return new Map(expressions.map((one) => [one.start, compilePart(one, path, scope)]));
}

const expectedOf = (reads: TemplateExpression['reads']): Type | undefined =>
  reads === 'condition' ? TYPES.boolean : reads === 'number' ? TYPES.number : undefined;

function compilePart({ text, start, reads, table }: TemplateExpression, path: string, own: TemplateScope): TemplatePart {
  const { layout, compiler, definition } = own;
  const scope: Scope = (table === null ? undefined : layout.rowScopes.get(table)) ?? layout.scope;
  const before = compiler.diagnostics.length;
  const expression = compiler.compile(text === '' ? 'null' : text, path, scope, expectedOf(reads));
  if (reads === 'rows' && compiler.compiling === 'whole') checkRows(expression, text, path, own);
  for (let index = before; index < compiler.diagnostics.length; index++) {
    const { span, ...found } = compiler.diagnostics[index] as (typeof compiler.diagnostics)[number];
    compiler.diagnostics[index] = span ? { ...found, span: { start: span.start + start, end: span.end + start } } : found;
  }
  return { expression, reads, field: fieldOf(expression, definition, table), table };
}

/** A passage stands once for each row of a table field, or of some of its rows. */
function checkRows({ checked }: CompiledExpression, text: string, path: string, { layout, compiler }: TemplateScope): void {
  if (!checked) return;
  const { type } = checked.typing;
  const table = tableOfRows(text);
  const isRows = type.kind === 'list' && isAssignable(type.of.type, { kind: 'context', entries: {} });
  if (isRows && table !== null && layout.rowScopes.has(table)) return;
  compiler.diagnostics.push(diagnostic('template/rows', path, { found: termOfType(type) }, checked.node.span));
}

function checkForms(inlines: readonly Inline[], path: string, { compiler }: TemplateScope): void {
  for (const inline of inlines) {
    if (inline.kind !== 'plural' || inline.forms.some((form) => form !== '')) continue;
    const { start, text } = inline.expression;
    compiler.diagnostics.push(diagnostic('template/forms', path, {}, { start, end: start + text.length }));
  }
}

const blocksInlines = (blocks: readonly Block[]): readonly Inline[] =>
  blocks.flatMap((block): readonly Inline[] => {
    switch (block.kind) {
      case 'paragraph':
      case 'heading':
        return block.children;
      case 'list':
        return block.items.flat();
      case 'when':
        return blocksInlines([...block.then, ...block.otherwise]);
      case 'each':
        return blocksInlines(block.body);
      case 'fields':
        return [];
      default:
        return block satisfies never;
    }
  });

/** The field whose labels, unit and places a value is written with: that of a bare name, or of a table's column. */
function fieldOf({ checked }: CompiledExpression, workflow: Workflow, rowOf: string | null): Field | SubField | null {
  const node = checked?.node;
  if (node?.kind === 'name') return findField(workflow, node.name);
  if (node?.kind !== 'path' || node.of.kind !== 'name') return null;
  const table = findField(workflow, node.of.name === 'row' && rowOf !== null ? rowOf : node.of.name);
  return table?.type === 'table' ? (table.fields.find((field) => field.key === node.name) ?? null) : null;
}
