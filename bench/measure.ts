/** Seconds of each of `runs` runs, after one to warm up. */
export function timed(run: () => void, runs: number): readonly number[] {
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
