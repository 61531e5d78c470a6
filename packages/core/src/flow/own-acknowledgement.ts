import { ExpressionCompiler } from '../expressions/compiler.ts';
import { evaluateForm } from '../forms/evaluate-form.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import { type CompiledTemplate, compileTemplate } from '../templates/compile-template.ts';
import { fillTemplate } from '../templates/fill-template.ts';
import type { RichText } from '../templates/rich-text.ts';
import { fillingFor } from './acknowledge.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { type Actor, environmentOf, type Outside, readStoredValues, systemValues, type WorkflowRecord } from './record.ts';
import { Tracer } from './trace.ts';

/**
 * What is wrong with a text for whoever handed a record on that isn't part of the design, under the path `text`. Codes: those
 * of templates.
 */
export function checkAcknowledgement(workflow: CompiledWorkflow, text: string): readonly Diagnostic[] {
  const compiler = new ExpressionCompiler('whole');
  compileText(workflow, text, compiler);
  return compiler.diagnostics;
}

/** Such a text, filled in with what the actor may read of a record where it rests. */
export function fillAcknowledgement(
  workflow: CompiledWorkflow,
  text: string,
  record: WorkflowRecord,
  actor: Actor,
  outside: Outside,
): RichText {
  const { forms } = workflow;
  const { frame } = evaluateForm(forms, record.stage, {
    stored: readStoredValues(forms, record.values, outside),
    input: new Map(),
    due: new Set(),
    system: systemValues(forms, record, actor, outside),
    environment: environmentOf(outside),
  });
  const moment = { workflow, record, frame, outside, actor, tracer: new Tracer(false) };
  return fillTemplate(compileText(workflow, text, new ExpressionCompiler('as-needed')), fillingFor(moment));
}

const compileText = ({ forms, definition }: CompiledWorkflow, text: string, compiler: ExpressionCompiler): CompiledTemplate =>
  compileTemplate(text, 'text', { layout: forms.layout, definition, compiler });
