import type { FollowUp } from '../model/consequence.ts';
import { joinPath } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';

/** Follow-ups that open each other go no deeper (semantics 5). */
export const MAX_OPENING_DEPTH = 8;

/** Maximum number of records that a chain of follow-ups may open in its last step, where each step may open one for each row. */
const MAX_OPENED = 10_000;

/** Rows that a table without a limit of its own can hold. */
const MAX_ROWS = 10_000;

/** One follow-up as the graph of openings sees it: the hand-off that opens, and the hand-off by which the record is entered. */
export type Opening = {
  readonly key: string;
  readonly handOff: string;
  readonly workflow: string;
  readonly entry: string;
  /** Records that it opens at most at once: one, or as many as its table may have rows. */
  readonly atMost: number;
};

/** What a workflow opens elsewhere. */
export type Openings = { readonly key: string; readonly name: string; readonly opens: readonly Opening[] };

/** The parts of a definition that say what it opens. */
type OpeningParts = Pick<Workflow, 'key' | 'name'> & {
  readonly fields: readonly { readonly key: string; readonly maxRows?: number | null }[];
  readonly handOffs: readonly {
    readonly key: string;
    readonly followUps: readonly Pick<FollowUp, 'key' | 'workflow' | 'handOff' | 'perRow'>[];
  }[];
};

/** Returns what a definition opens elsewhere, in the order of its hand-offs. */
export const openingsOf = ({ key, name, fields, handOffs }: OpeningParts): Openings => ({
  key,
  name,
  opens: handOffs.flatMap((handOff) =>
    handOff.followUps.map(({ key: followUp, workflow, handOff: entry, perRow }) => {
      const table = fields.find((field) => field.key === perRow);
      const atMost = perRow === null ? 1 : (table?.maxRows ?? MAX_ROWS);
      return { key: followUp, handOff: handOff.key, workflow, entry, atMost };
    }),
  ),
});

/** A chain of openings that is wrong: the workflows along it, from its first to its last. */
type Found = {
  readonly code: 'follow-up/circle' | 'follow-up/too-deep' | 'follow-up/too-many';
  readonly names: readonly string[];
};

/** The deepest chain, and the chain with the most records, that ends by opening records through a given hand-off. */
type Before = { readonly names: readonly string[]; readonly records: number };

/**
 * Checks the follow-ups of a definition against those of all workflows that are published or published along with it:
 * chains that come back to where they began, that are deeper than `MAX_OPENING_DEPTH`, or that can open more than
 * `MAX_OPENED` records. Chains that begin in other workflows and lead through this one count too, since publishing it would
 * break those. Codes: `follow-up/circle`, `follow-up/too-deep`, `follow-up/too-many`.
 */
export function checkOpenings(definition: Workflow, others: readonly Openings[]): readonly Diagnostic[] {
  const own = openingsOf(definition);
  const graph = new Map(others.map((one) => [one.key, one]));
  graph.set(own.key, own);
  return own.opens.flatMap((opening) => {
    const found = chainThrough(own, opening, graph);
    if (!found) return [];
    const path = joinPath('handOffs', opening.handOff, 'followUps', opening.key);
    const followUp = definition.handOffs
      .find(({ key }) => key === opening.handOff)
      ?.followUps.find(({ key }) => key === opening.key)?.name;
    return [diagnostic(found.code, path, { followUp: followUp ?? opening.key, names: [...found.names], limit: limitOf(found) })];
  });
}

const limitOf = ({ code }: Found): number => (code === 'follow-up/too-many' ? MAX_OPENED : MAX_OPENING_DEPTH);

function chainThrough(own: Openings, first: Opening, graph: ReadonlyMap<string, Openings>): Found | null {
  const before = chainBefore(own, first.handOff, graph);
  let isNew = makeMemory();
  const walk = (opening: Opening, way: readonly string[], records: number): Found | null => {
    const target = graph.get(opening.workflow);
    const names = [...way, target?.name ?? opening.workflow];
    const opened = records * opening.atMost;
    if (opening.workflow === own.key) return { code: 'follow-up/circle', names };
    if (names.length > MAX_OPENING_DEPTH + 1) return { code: 'follow-up/too-deep', names };
    if (opened > MAX_OPENED) return { code: 'follow-up/too-many', names };
    if (!isNew(names.length, opening.workflow, opening.entry, opened)) return null;
    for (const next of target?.opens ?? []) {
      const found = next.handOff === opening.entry ? walk(next, names, opened) : null;
      if (found) return found;
    }
    return null;
  };
  // First the chain that begins in this workflow. Only if it is sound is it checked together with the chains that lead into it.
  const found = walk(first, [own.name], 1);
  isNew = makeMemory();
  return found ?? walk(first, before.names, before.records);
}

/**
 * Returns a function that says whether an entry is reached with more records than by any chain of the same length before. If
 * not, whatever follows from it was looked at already; so even workflows that all open each other are walked quickly.
 */
function makeMemory(): (length: number, workflow: string, entry: string, records: number) => boolean {
  const most = new Map<string, number>();
  return (length, workflow, entry, records) => {
    const place = JSON.stringify([length, workflow, entry]);
    if ((most.get(place) ?? 0) >= records) return false;
    most.set(place, records);
    return true;
  };
}

/** Searches backwards from a hand-off for the workflows that open records through it. Without any, the chain is this workflow alone. */
function chainBefore(own: Openings, handOff: string, graph: ReadonlyMap<string, Openings>): Before {
  const entering = [...graph.values()].flatMap((from) => from.opens.map((opening) => ({ from, opening })));
  let names: readonly string[] = [own.name];
  let records = 1;
  const isNew = makeMemory();
  const walk = (key: string, entry: string, way: readonly string[], opened: number): void => {
    if (way.length > MAX_OPENING_DEPTH + 1 || !isNew(way.length, key, entry, opened)) return;
    if (way.length > names.length) names = way;
    records = Math.max(records, Math.min(opened, MAX_OPENED + 1));
    for (const { from, opening } of entering)
      if (opening.workflow === key && opening.entry === entry && from.key !== own.key)
        walk(from.key, opening.handOff, [from.name, ...way], opened * opening.atMost);
  };
  walk(own.key, handOff, [own.name], 1);
  return { names, records };
}
