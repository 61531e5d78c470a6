/** The platform's formats are costly to make, so each is made once. */
const numbers = new Map<string, Intl.NumberFormat>();
export function numberFormat(locale: string, options: Intl.NumberFormatOptions = {}): Intl.NumberFormat {
  const key = `${locale}/${JSON.stringify(options)}`;
  const known = numbers.get(key) ?? new Intl.NumberFormat(locale, options);
  numbers.set(key, known);
  return known;
}

const dates = new Map<string, Intl.DateTimeFormat>();

/**
 * A format of days and times in the Gregorian calendar, which is the calendar of stored dates (ISO 8601). A locale's own
 * calendar (Buddhist, Persian, Islamic) would show another year than the one that is typed. Given instants are wall clocks in UTC.
 */
export function dateFormat(locale: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${locale}/${JSON.stringify(options)}`;
  const known = dates.get(key) ?? new Intl.DateTimeFormat(locale, { timeZone: 'UTC', calendar: 'gregory', ...options });
  dates.set(key, known);
  return known;
}
