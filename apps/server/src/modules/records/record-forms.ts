import type { FormDocument } from '@ypomet/contract';
import {
  type Actor,
  type CompiledWorkflow,
  enterInput,
  type Json,
  mayAct,
  type ProjectedForm,
  projectForm,
  projectOnlook,
  type WorkflowRecord,
} from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import { Lookups, namesIn } from './lookups.ts';

type Values = Readonly<Record<string, Json>>;
type FileName = { readonly name: string; readonly mediaType: string };

/** The forms of records, as actors may see them. */
export class RecordForms {
  constructor(private readonly context: ServerContext) {}

  /** The stage's form for whoever acts there, what an onlooker sees for everybody else. */
  async form(workflow: CompiledWorkflow, record: WorkflowRecord, values: Values, actor: Actor): Promise<FormDocument> {
    const stage = workflow.stages.get(record.stage)?.stage;
    if (!stage || !mayAct(stage, record, actor)) return this.shown(workflow, record, actor);
    const lookups = this.lookups(workflow, actor);
    return lookups.settle(() => named(acting(workflow, record, values, actor, lookups), lookups));
  }

  /** All that an actor may see of a record, to read. */
  async shown(workflow: CompiledWorkflow, record: WorkflowRecord, actor: Actor): Promise<FormDocument> {
    const lookups = this.lookups(workflow, actor);
    return lookups.settle(() => named(projectOnlook(workflow, record, actor, lookups.outside), lookups));
  }

  /** A file that a record shows an actor, by its contents; null when it shows none like that. */
  async findFile(workflow: CompiledWorkflow, record: WorkflowRecord, sha256: string, actor: Actor): Promise<FileName | null> {
    const asked = await this.form(workflow, record, {}, actor);
    return fileIn(asked.values as Json, sha256) ?? fileIn((await this.shown(workflow, record, actor)).values as Json, sha256);
  }

  private lookups(workflow: CompiledWorkflow, actor: Actor): Lookups {
    return new Lookups(this.context, this.context.database.pool, workflow, actor);
  }
}

function named(projected: ProjectedForm | null, lookups: Lookups): FormDocument {
  if (!projected) throw new ProblemError('thing/not-found');
  const names = namesIn(projected.definition.fields, projected.values, lookups.outside);
  return { ...projected, names } as unknown as FormDocument;
}

function acting(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  values: Values,
  actor: Actor,
  lookups: Lookups,
): ProjectedForm {
  const entered = enterInput(workflow, record, values, actor, lookups.outside);
  if (entered.ok) return projectForm(workflow, entered.value, record, actor);
  if (!lookups.isAsking) throw new ProblemError('hand-off/refused', { details: toDetails(entered.diagnostics) });
  // While something is still being asked for, a refusal may be one only for now.
  const untouched = enterInput(workflow, record, {}, actor, lookups.outside);
  if (!untouched.ok) throw new Error('a form refuses what nobody entered');
  return projectForm(workflow, untouched.value, record, actor);
}

function fileIn(json: Json, sha256: string): FileName | null {
  if (json === null || typeof json !== 'object') return null;
  if (!Array.isArray(json) && (json as { sha256?: Json }).sha256 === sha256 && 'mediaType' in json) return json as never;
  for (const inner of Object.values(json)) {
    const found = fileIn(inner as Json, sha256);
    if (found) return found;
  }
  return null;
}
