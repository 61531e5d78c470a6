/** Something that takes a stretch of a lane. */
export type Stretch = { readonly start: number; readonly end: number };

/**
 * Gives each stretch a lane, from 0 up, so that none lies on another: the shortest first, each in the first lane that is free
 * there, so that short ways lie inside of long ones. Stretches that only touch may share a lane unless `gap` keeps them apart.
 */
export function assignLanes(stretches: readonly Stretch[], gap = 0): readonly number[] {
  const lanes: Stretch[][] = [];
  const found = new Array<number>(stretches.length).fill(0);
  const order = stretches
    .map((stretch, index) => ({ stretch, index }))
    .sort((a, b) => a.stretch.end - a.stretch.start - (b.stretch.end - b.stretch.start) || a.stretch.start - b.stretch.start);
  for (const { stretch, index } of order) {
    const isFree = (lane: readonly Stretch[]): boolean =>
      lane.every((other) => stretch.end + gap <= other.start || other.end + gap <= stretch.start);
    let lane = lanes.findIndex(isFree);
    if (lane < 0) lane = lanes.push([]) - 1;
    lanes[lane]?.push(stretch);
    found[index] = lane;
  }
  return found;
}
