import { writeExact } from './exact.ts';
import { writeDate, writeDateTime, writeDuration, writeTime } from './temporal.ts';
import { isList, type Value } from './value.ts';

/** A value as FEEL's `string()` writes it; nested texts in quotes. Null for null. */
export const writeText = (value: Value): string | null =>
  value === null ? null : typeof value === 'string' ? value : writeNested(value);

function writeNested(value: Value): string {
  if (value === null) return 'null';
  if (typeof value === 'boolean') return String(value);
  if (typeof value === 'string') return `"${value}"`;
  if (isList(value)) return `[${value.map(writeNested).join(', ')}]`;
  switch (value.kind) {
    case 'number':
      return writeExact(value);
    case 'date':
      return writeDate(value);
    case 'time':
      return writeTime(value);
    case 'date-time':
      return writeDateTime(value);
    case 'days-duration':
    case 'months-duration':
      return writeDuration(value);
    case 'range': {
      const [low, high] = [writeNested(value.low), writeNested(value.high)];
      return `${value.includesLow ? '[' : '('}${low}..${high}${value.includesHigh ? ']' : ')'}`;
    }
    case 'context':
      return `{${Object.entries(value.entries)
        .map(([key, entry]) => `${key}: ${writeNested(entry)}`)
        .join(', ')}}`;
    default:
      return value satisfies never;
  }
}
