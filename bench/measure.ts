/** Seconds of each of `runs` runs, after two to warm up. */
export function timed(run: () => void, runs: number): readonly number[] {
  run();
  run();
  return Array.from({ length: runs }, () => {
    const start = process.hrtime.bigint();
    run();
    return Number(process.hrtime.bigint() - start) / 1e9;
  });
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}

/** How many a second, of `count` done by one run: the median of five. */
export const rate = (count: number, run: () => void): number => count / median(timed(run, 5));

/** Milliseconds of one of the `count` done by a run: the median of five. */
export const milliseconds = (count: number, run: () => void): number => 1000 / rate(count, run);
