import { readDateTime, type Type, writeLocalClock, writeLocalDay, writeLocalMoment, writeLocalTime } from '@ypomet/core';

type Place = { readonly locale: string; readonly zone: string };

/**
 * The text of a literal (`@"2027-03-12"`) as people write a day, a time or a moment; null for other types. A moment with an
 * offset is shown by the workspace's clock; one without is a time of that clock already.
 */
export function showTemporal(text: string, kind: Type['kind'] | undefined, { locale, zone }: Place): string | null {
  switch (kind) {
    case 'date':
      return writeLocalDay(text, locale);
    case 'time':
      return writeLocalTime(text, locale);
    case 'date-time': {
      const moment = /(Z|[+-]\d{2}:\d{2})$/.test(text) ? readDateTime(text, zone) : null;
      return moment ? writeLocalMoment(moment, { locale, zone }) : writeLocalClock(text, locale);
    }
    default:
      return null;
  }
}
