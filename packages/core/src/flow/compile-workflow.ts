import { type CompilationMemory, ExpressionCompiler } from '../expressions/compiler.ts';
import type { FindWorkflow } from '../expressions/workflow-scope.ts';
import { checkFields } from '../forms/check-fields.ts';
import { checkInvariants, checkNeighbours } from '../model/invariants.ts';
import type { Workflow } from '../model/workflow.ts';
import { isFault } from '../shared/codes.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import { checkConsequences } from './check-consequences.ts';
import { checkDisclosure } from './check-disclosure.ts';
import { checkDue } from './check-due.ts';
import { checkReferences } from './check-references.ts';
import { checkComputed, checkDefaults, checkSets } from './check-sets.ts';
import { checkTelling } from './check-telling.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { buildWorkflow } from './prepare-workflow.ts';

/** A workflow of which everything is compiled, with all that is wrong with it. */
export type ExaminedWorkflow = CompiledWorkflow & {
  /**
   * What is wrong with the definition, faults before warnings. While there are faults it can't be published; warnings are
   * accepted with a reason. The rest can still be rehearsed.
   */
  readonly diagnostics: readonly Diagnostic[];
};

/** Compiles a definition whole. Never fails: what is wrong is in `diagnostics`. Takes what `prepareWorkflow` takes. */
export function compileWorkflow(
  definition: Workflow,
  findWorkflow: FindWorkflow | null = null,
  memory: CompilationMemory | null = null,
): ExaminedWorkflow {
  const compiler = new ExpressionCompiler('whole', memory);
  const compiled = buildWorkflow(definition, findWorkflow, compiler);
  const disclosed = checkDisclosure(compiled);
  // Where trying values can find a confidential value out (`readers/searchable`), the weaker warning about the same condition
  // (`readers/tells`) is left out.
  const searchable = new Set(disclosed.flatMap(({ code, path }) => (code === 'readers/searchable' ? [path] : [])));
  const found = [
    ...checkInvariants(definition),
    ...(findWorkflow ? checkNeighbours(definition, compiled.findWorkflow) : []),
    ...checkFields(definition),
    ...compiler.diagnostics,
    ...checkSets(compiled),
    ...checkDefaults(compiled),
    ...checkComputed(compiled),
    ...checkConsequences(compiled),
    ...checkDue(compiled),
    ...disclosed,
    ...checkTelling(compiled).filter(({ path }) => !searchable.has(path)),
    ...checkReferences(compiled),
  ];
  return { ...compiled, diagnostics: [...found.filter(isFault), ...found.filter((one) => !isFault(one))] };
}
