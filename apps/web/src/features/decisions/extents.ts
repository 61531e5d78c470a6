import type { Extent, Wording } from '@ypomet/core';

/** A stretch of a field's values in words: "empty", "to €20,000.00", "exactly …", "above …". */
export function extentWords(extent: Extent, path: readonly string[], wording: Wording): string {
  switch (extent.kind) {
    case 'empty':
      return 'empty';
    case 'other':
      return 'any other';
    case 'value': {
      const written = wording.format(extent.value, path);
      return typeof extent.value === 'object' ? `exactly ${written}` : written;
    }
    case 'range': {
      const { low, high, includesLow, includesHigh } = extent;
      const [from, to] = [low, high].map((end) => (end === null ? null : wording.format(end, path)));
      if (from === null && to === null) return 'any value';
      if (from === null) return includesHigh ? `to ${to}` : `below ${to}`;
      if (to === null) return includesLow ? `from ${from}` : `above ${from}`;
      return `${includesLow ? 'from' : 'above'} ${from} ${includesHigh ? 'to' : 'and below'} ${to}`;
    }
    default:
      return extent satisfies never;
  }
}
