import { readDate } from '@ypomet/core';
import { formatInstant } from './instants.ts';

type Place = { readonly zone: string; readonly locale: string };

/** A due date as people read it: "4 Dec 2026", or with the time where it has one. */
export function formatDue(due: string, place: Place): string {
  if (readDate(due) === null) return formatInstant(due, place);
  return new Intl.DateTimeFormat(place.locale, { dateStyle: 'medium', timeZone: 'UTC' }).format(new Date(`${due}T00:00:00Z`));
}
