import { type CompiledWorkflow, compileWorkflow, type Workflow } from '@ypomet/core';
import type { Drizzle } from '../../db/database.ts';
import { findVersion, listPublished } from './repository.ts';

const MAX_CACHED = 200;

/**
 * Compiled published versions. A version never changes, so what is cached stays right; which version is the newest is
 * asked for each time. Other workflows are read through references by their newest definitions at compile time.
 */
export class WorkflowCache {
  private readonly compiled = new Map<string, CompiledWorkflow>();

  constructor(private readonly db: Drizzle) {}

  /** A published version, compiled; null when there is none. */
  async find(key: string, version: number): Promise<CompiledWorkflow | null> {
    const id = `${key}/${version}`;
    const known = this.compiled.get(id);
    if (known) return known;
    const definition = await findVersion(this.db, key, version);
    if (!definition) return null;
    const compiled = compileWorkflow(definition.definition, await this.finder());
    if (this.compiled.size >= MAX_CACHED) this.compiled.delete(this.compiled.keys().next().value as string);
    this.compiled.set(id, compiled);
    return compiled;
  }

  /** Finds the newest published definition of any workflow, for reading through references. */
  async finder(): Promise<(key: string) => Workflow | null> {
    const published = await listPublished(this.db);
    const byKey = new Map(published.map(({ definition }) => [definition.key, definition]));
    return (key) => byKey.get(key) ?? null;
  }
}
