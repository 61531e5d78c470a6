function secondsOf(run: () => void): number {
  const start = process.hrtime.bigint();
  run();
  return Number(process.hrtime.bigint() - start) / 1e9;
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}

/** One of several whose speeds are compared: how many a run of it does. */
export type Runner = { readonly count: number; readonly run: () => void };

const ROUNDS = 7;

/**
 * How many a second each does: the medians of seven rounds, in each of which all run in turn. Where other programs take their
 * share of the machine now and then, they take it from all.
 */
export function rates(runners: readonly Runner[]): readonly number[] {
  const found = runners.map((): number[] => []);
  for (const { run } of [...runners, ...runners]) run();
  for (let round = 0; round < ROUNDS; round++)
    runners.forEach(({ count, run }, index) => {
      found[index]?.push(count / secondsOf(run));
    });
  return found.map(median);
}

/** How many a second, of `count` done by one run: the median of seven. */
export const rate = (count: number, run: () => void): number => rates([{ count, run }])[0] ?? 0;

/** Milliseconds of one of the `count` done by a run: the median of seven. */
export const milliseconds = (count: number, run: () => void): number => 1000 / rate(count, run);
