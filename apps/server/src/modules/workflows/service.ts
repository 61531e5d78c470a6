import type { DraftDocument, VersionSummary, WorkflowSummary } from '@ypomet/contract';
import { applyEdit, compileWorkflow, type Edit, type Workflow, writeWorkflow } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import {
  findWorkflowRow,
  insertVersion,
  insertWorkflow,
  listVersions,
  listWorkflowRows,
  lockWorkflowRow,
  type Transaction,
  updateDraft,
  type WorkflowRow,
} from './repository.ts';

/** PostgreSQL's text of an instant as ISO 8601. */
const toInstant = (text: string): string => new Date(text).toISOString();

const differs = (row: WorkflowRow): boolean => row.publishedRevision === null || row.revision !== row.publishedRevision;

const toDraft = (row: WorkflowRow): DraftDocument => ({
  definition: row.definition,
  revision: row.revision,
  publishedVersion: row.publishedVersion,
  differs: differs(row),
});

/** Drafts and versions. Every change names the revision it was made on; a stale one changes nothing. */
export class WorkflowService {
  constructor(private readonly context: ServerContext) {}

  private get db() {
    return this.context.database.drizzle;
  }

  async list(): Promise<WorkflowSummary[]> {
    const rows = await listWorkflowRows(this.db);
    return rows.map(({ row, open }) => ({
      key: row.key,
      name: row.definition.name,
      description: row.definition.description,
      draftRevision: row.revision,
      draftChangedAt: toInstant(row.changedAt),
      draftDiffers: differs(row),
      publishedVersion: row.publishedVersion,
      stages: row.definition.stages.length,
      fields: row.definition.fields.length,
      recordsOpen: open,
    }));
  }

  async draft(key: string): Promise<DraftDocument> {
    const row = await findWorkflowRow(this.db, key);
    if (!row) throw new ProblemError('thing/not-found');
    return toDraft(row);
  }

  async create(definition: Workflow): Promise<DraftDocument> {
    const isNew = await insertWorkflow(this.db, definition);
    if (!isNew) throw new ProblemError('workflow/exists', { path: 'key' });
    return this.draft(definition.key);
  }

  /** Applies edits in order, all or none. */
  async edit(key: string, revision: number, edits: readonly Edit[], by: string): Promise<DraftDocument> {
    return this.change(key, revision, by, (definition) => {
      let current = definition;
      const applied = edits.map((edit) => {
        const result = applyEdit(current, edit);
        if (!result.ok) throw new ProblemError('edit/refused', { details: toDetails(result.diagnostics) });
        current = result.value.definition;
        return { edit, inverse: result.value.inverse };
      });
      return { definition: current, applied };
    });
  }

  async replace(key: string, revision: number, definition: Workflow, by: string): Promise<DraftDocument> {
    if (definition.key !== key)
      throw new ProblemError('request/invalid', { path: 'key', detail: 'The definition’s key is that of another workflow.' });
    return this.edit(key, revision, [{ type: 'replace-definition', definition }], by);
  }

  async export(key: string): Promise<string> {
    return writeWorkflow((await this.draft(key)).definition);
  }

  async versions(key: string): Promise<VersionSummary[]> {
    const rows = await listVersions(this.db, key);
    return rows.map(({ number, publishedAt, publishedBy, recordsOpen }) => ({
      number,
      publishedAt: toInstant(publishedAt),
      publishedBy,
      recordsOpen,
    }));
  }

  async version(key: string, number: number) {
    const rows = await listVersions(this.db, key);
    const found = rows.find((row) => row.number === number);
    if (!found) throw new ProblemError('thing/not-found');
    return { ...found, publishedAt: toInstant(found.publishedAt) };
  }

  /** Publishes the draft. Faults stand in the way; the version is immutable from then on. */
  async publish(key: string, revision: number, by: string): Promise<VersionSummary> {
    const findWorkflow = await this.context.workflows.finder();
    const number = await this.db.transaction(async (transaction) => {
      const row = await this.lock(transaction, key, revision);
      const { diagnostics } = compileWorkflow(row.definition, findWorkflow);
      if (diagnostics.length > 0) throw new ProblemError('workflow/invalid', { details: toDetails(diagnostics) });
      // The server doesn't open follow-ups yet: better refused here than dropped when a record is handed on.
      if (row.definition.handOffs.some((handOff) => handOff.followUps.length > 0)) {
        throw new ProblemError('workflow/invalid', {
          path: 'handOffs',
          detail: 'Follow-ups can’t be run yet. Remove them to publish.',
        });
      }
      return insertVersion(transaction, row, by);
    });
    const [summary] = (await this.versions(key)).filter((version) => version.number === number);
    if (!summary) throw new Error(`version ${number} of ${key} is gone`);
    return summary;
  }

  private async lock(transaction: Transaction, key: string, revision: number): Promise<WorkflowRow> {
    const row = await lockWorkflowRow(transaction, key);
    if (!row) throw new ProblemError('thing/not-found');
    if (row.revision !== revision) throw new ProblemError('revision/stale', { path: `revision ${row.revision}` });
    return row;
  }

  private change(
    key: string,
    revision: number,
    by: string,
    make: (definition: Workflow) => {
      readonly definition: Workflow;
      readonly applied: readonly { readonly edit: Edit; readonly inverse: Edit }[];
    },
  ): Promise<DraftDocument> {
    return this.db.transaction(async (transaction) => {
      const row = await this.lock(transaction, key, revision);
      const { definition, applied } = make(row.definition);
      await updateDraft(transaction, key, definition, revision + 1, applied, by);
      return toDraft({ ...row, definition, revision: revision + 1 });
    });
  }
}
