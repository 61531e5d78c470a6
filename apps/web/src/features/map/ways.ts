import type { Workflow } from '@ypomet/core';

type Stage = Pick<Workflow['stages'][number], 'key' | 'name' | 'kind' | 'tracks'>;
type Track = Pick<Workflow['tracks'][number], 'key' | 'name'>;

/** What of a workflow the map shows. */
export type Mapped = {
  readonly stages: readonly Stage[];
  readonly tracks: readonly Track[];
  readonly handOffs: Workflow['handOffs'];
};

/** One way from a stage to another: a branch of a hand-off, or its otherwise. */
export type Way = {
  readonly id: string;
  readonly handOff: string;
  /** Null for otherwise, and for a hand-off without branches. */
  readonly branch: string | null;
  readonly from: string;
  readonly to: string;
  /** What it is called on the map: the branch's name, or the hand-off's where there is but one way. */
  readonly name: string;
  /** `along` a track to its next station; `forward` past stations or off the track; `return` to an earlier column. */
  readonly kind: 'along' | 'forward' | 'return';
};

/** Every way of a workflow, in the order in which they are tried. What leads back to its own stage is no way. */
export function waysOf({ stages, tracks, handOffs }: Mapped): readonly Way[] {
  const columns = new Map(stages.map((stage, index) => [stage.key, index]));
  const next = new Set(
    tracks.flatMap((track) => {
      const stations = stages.filter((stage) => stage.tracks.includes(track.key));
      return stations.slice(1).map((stage, index) => `${stations[index]?.key} ${stage.key}`);
    }),
  );
  return handOffs.flatMap((handOff) => {
    const { from, branches, otherwise } = handOff;
    const ends = [
      ...branches.map((branch) => ({ branch: branch.key as string | null, name: branch.name, to: branch.to })),
      ...(otherwise ? [{ branch: null, name: branches.length > 0 ? 'otherwise' : handOff.name, to: otherwise.to }] : []),
    ];
    return ends.flatMap(({ branch, name, to }): readonly Way[] => {
      const [start, end] = [columns.get(from), columns.get(to)];
      if (start === undefined || end === undefined || start === end) return [];
      const kind = next.has(`${from} ${to}`) ? 'along' : end < start ? 'return' : 'forward';
      return [{ id: `${handOff.key}/${branch ?? 'otherwise'}`, handOff: handOff.key, branch, from, to, name, kind }];
    });
  });
}

/** What the map points out: everything, or the ways of one stage, hand-off or branch; null for nothing. */
export type Focus =
  | { readonly kind: 'all' }
  | { readonly kind: 'stage'; readonly stage: string }
  /** `branch`: the one that is chosen, null for otherwise; absent where it is the whole hand-off. */
  | { readonly kind: 'hand-off'; readonly handOff: string; readonly branch?: string | null };

/** The ways that a focus points out. Of a stage those that leave it, and those that come back to it. */
export function waysIn(ways: readonly Way[], focus: Focus | null): readonly Way[] {
  if (focus === null) return [];
  switch (focus.kind) {
    case 'all':
      return ways.filter(({ kind }) => kind !== 'along');
    case 'stage':
      return ways.filter(({ from, to, kind }) => from === focus.stage || (to === focus.stage && kind === 'return'));
    case 'hand-off':
      return ways.filter(({ handOff }) => handOff === focus.handOff);
    default:
      return focus satisfies never;
  }
}

/** How many ways leave each stage that its track's line doesn't show: forward, and back. */
export function countHidden(ways: readonly Way[]): ReadonlyMap<string, { readonly forward: number; readonly back: number }> {
  const counts = new Map<string, { forward: number; back: number }>();
  for (const { from, kind } of ways) {
    if (kind === 'along') continue;
    const own = counts.get(from) ?? { forward: 0, back: 0 };
    counts.set(from, own);
    if (kind === 'return') own.back += 1;
    else own.forward += 1;
  }
  return counts;
}
