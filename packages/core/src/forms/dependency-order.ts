/** An order in which everything comes after what it reads, and the first cycle found, if any. */
export type DependencyOrder = { readonly order: readonly number[]; readonly cycle: readonly number[] | null };

/** Orders items by what they read (indexes of other items), keeping the given order where nothing else decides. */
export function orderByDependency(reads: readonly (readonly number[])[]): DependencyOrder {
  const order: number[] = [];
  const state = new Uint8Array(reads.length);
  const trail: number[] = [];
  let cycle: readonly number[] | null = null;
  const visit = (item: number): void => {
    if (state[item] === 2) return;
    if (state[item] === 1) {
      cycle ??= trail.slice(trail.indexOf(item));
      return;
    }
    state[item] = 1;
    trail.push(item);
    for (const read of reads[item] ?? []) visit(read);
    trail.pop();
    state[item] = 2;
    order.push(item);
  };
  for (let item = 0; item < reads.length; item++) visit(item);
  return { order, cycle };
}
