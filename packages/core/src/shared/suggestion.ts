/** Edit distance (insert, delete, replace, swap of neighbours) between two short words, cut off above `limit`. */
function distance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1;
  let before: number[] = [];
  let above = Array.from({ length: b.length + 1 }, (_, index) => index);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      let best = Math.min((above[j] ?? 0) + 1, (row[j - 1] ?? 0) + 1, (above[j - 1] ?? 0) + cost);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) {
        best = Math.min(best, (before[j - 2] ?? 0) + 1);
      }
      row.push(best);
    }
    before = above;
    above = row;
  }
  return above[b.length] ?? limit + 1;
}

/** The known word nearest to a misspelt one, or null when none is near: a third of its letters at most. */
export function findSuggestion(word: string, known: Iterable<string>): string | null {
  if (word.length > 80) return null;
  const limit = Math.max(1, Math.floor(word.length / 3));
  const lower = word.toLowerCase();
  let best: string | null = null;
  let bestDistance = limit + 1;
  for (const candidate of known) {
    const found = candidate.toLowerCase() === lower ? 0 : distance(lower, candidate.toLowerCase(), limit);
    if (found < bestDistance) {
      best = candidate;
      bestDistance = found;
    }
  }
  return best;
}
