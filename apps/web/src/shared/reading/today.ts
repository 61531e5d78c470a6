import { readDateTime, wallClockOf, writeDate, writeInstant } from '@ypomet/core';

/** The present day by a zone's clock, as ISO 8601. */
export function todayIn(zone: string): string {
  const now = readDateTime(writeInstant(Date.now()), zone);
  return now === null ? '' : writeDate({ kind: 'date', day: wallClockOf({ ...now, zone }).day });
}
