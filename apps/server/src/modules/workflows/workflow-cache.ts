import { type CompiledWorkflow, openStoredWorkflow, prepareWorkflow, type Workflow } from '@ypomet/core';
import { LRUCache } from 'lru-cache';
import { findVersion, type Queries } from './repository.ts';

/** Characters of definitions whose compiled form is kept: a compiled definition takes several times its text. */
const MAX_CHARACTERS = 24_000_000;

/**
 * Compiled published versions. A version never changes, and names the versions of the workflows it refers to, so what is
 * made from them is the same in every process, for ever. Each part is compiled when a record first needs it; how much is
 * kept is bounded by size.
 */
export class WorkflowCache {
  private readonly compiled: LRUCache<string, CompiledWorkflow>;
  private readonly underWay = new Map<string, Promise<CompiledWorkflow | null>>();

  constructor(
    private readonly db: Queries,
    private readonly maxCharacters = MAX_CHARACTERS,
  ) {
    this.compiled = new LRUCache({ maxSize: maxCharacters });
  }

  /** A published version, compiled; null when there is none. */
  async find(key: string, version: number): Promise<CompiledWorkflow | null> {
    const id = `${key}/${version}`;
    const known = this.compiled.get(id);
    if (known) return known;
    const begun = this.underWay.get(id);
    if (begun) return begun;
    const loading = this.load(key, version).finally(() => this.underWay.delete(id));
    this.underWay.set(id, loading);
    return loading;
  }

  private async load(key: string, version: number): Promise<CompiledWorkflow | null> {
    const row = await findVersion(this.db, key, version);
    if (!row) return null;
    let size = row.definition.length;
    const neighbours = new Map<string, Workflow>();
    for (const [other, number] of Object.entries(row.refersTo)) {
      if (other === key || !row.definition.includes(`"${other}"`)) continue;
      const found = await findVersion(this.db, other, number);
      if (!found) continue;
      size += found.definition.length;
      neighbours.set(other, openDefinition(found.definition));
    }
    const compiled = prepareWorkflow(openDefinition(row.definition), (other) => neighbours.get(other) ?? null);
    this.compiled.set(`${key}/${version}`, compiled, { size: Math.min(size, this.maxCharacters) });
    return compiled;
  }

  /** How many compiled versions are kept now, and the characters of their definitions. */
  get kept(): { readonly count: number; readonly characters: number } {
    return { count: this.compiled.size, characters: this.compiled.calculatedSize };
  }
}

const openDefinition = (text: string): Workflow => openStoredWorkflow(JSON.parse(text) as Workflow);
