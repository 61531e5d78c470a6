/** Days and times as people of a locale write and read them. Stored they are ISO 8601: `2027-03-12`, `09:30`. */

type Part = 'day' | 'month' | 'year';

const formats = new Map<string, Intl.DateTimeFormat>();
function format(locale: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${locale} ${JSON.stringify(options)}`;
  const known = formats.get(key) ?? new Intl.DateTimeFormat(locale, { timeZone: 'UTC', ...options });
  formats.set(key, known);
  return known;
}

const ISO_DAY = /^(\d{4})-(\d{2})-(\d{2})$/;

/** The instant at which a day begins in UTC; null where there is no such day. */
function instantOf(year: number, month: number, day: number): Date | null {
  const date = new Date(0);
  date.setUTCFullYear(year, month - 1, day);
  return date.getUTCMonth() === month - 1 && date.getUTCDate() === day ? date : null;
}

const isoOf = (date: Date): string => date.toISOString().slice(0, 10);

/** A day as it is shown: "12 Mar 2027". What is no day is shown as it is. */
export function writeLocalDay(iso: string, locale: string): string {
  const match = ISO_DAY.exec(iso);
  const date = match && instantOf(Number(match[1]), Number(match[2]), Number(match[3]));
  return date ? format(locale, { day: 'numeric', month: 'short', year: 'numeric' }).format(date) : iso;
}

/** In which order a locale writes a date's numbers. */
export const orderOf = (locale: string): readonly Part[] =>
  format(locale, { day: '2-digit', month: '2-digit', year: 'numeric' })
    .formatToParts(0)
    .flatMap(({ type }) => (type === 'day' || type === 'month' || type === 'year' ? [type] : []));

const MONTHS = Array.from({ length: 12 }, (_, index) => index);

/** The number of a month by its name, or the beginning of it, in the locale or in English; 0 for none. */
function monthNamed(name: string, locale: string): number {
  const wanted = name.toLowerCase().replace(/\.$/, '');
  if (wanted.length < 3) return 0;
  const isNamed = (month: number, own: string): boolean =>
    (['long', 'short'] as const).some((width) =>
      format(own, { month: width, day: 'numeric' })
        .formatToParts(Date.UTC(2001, month, 15))
        .some((part) => part.type === 'month' && part.value.toLowerCase().replace(/\.$/, '').startsWith(wanted)),
    );
  return MONTHS.findIndex((month) => isNamed(month, locale) || isNamed(month, 'en')) + 1;
}

/** Years of two figures are those of this century. */
const fullYear = (year: string): number => (year.length <= 2 ? 2000 + Number(year) : Number(year));

/** Reads a day as somebody writes it: ISO 8601, numbers in the locale's order, or with the month's name. Null for none. */
export function readLocalDay(text: string, locale: string): string | null {
  const written = text.trim();
  const iso = ISO_DAY.exec(written);
  if (iso) return instantOf(Number(iso[1]), Number(iso[2]), Number(iso[3])) ? written : null;
  const numbers = /^(\d{1,4})\s*[./-]\s*(\d{1,2})\s*[./-]\s*(\d{1,4})\.?$/.exec(written);
  if (numbers) {
    const given = numbers.slice(1);
    const parts = Object.fromEntries(orderOf(locale).map((part, index) => [part, given[index] ?? '']));
    const date = instantOf(fullYear(parts.year ?? ''), Number(parts.month), Number(parts.day));
    return date && isoOf(date);
  }
  const words = written.split(/[\s,]+/).filter((word) => word !== '');
  const month = words.map((word) => monthNamed(word, locale)).find((number) => number > 0) ?? 0;
  const figures = words.flatMap((word) => /^(\d{1,4})(?:\.|st|nd|rd|th)?$/.exec(word)?.[1] ?? []);
  const [year, day] = [figures.find((one) => one.length === 4), figures.find((one) => one.length <= 2)];
  if (month === 0 || year === undefined || day === undefined || figures.length !== 2) return null;
  const date = instantOf(Number(year), month, Number(day));
  return date && isoOf(date);
}

/** Reads a time of day: "9:30", "09:30:15", "2.30 pm". Null for none. */
export function readLocalTime(text: string): string | null {
  const match = /^(\d{1,2})[:.](\d{2})(?::(\d{2}))?\s*(am|pm)?$/i.exec(text.trim());
  if (!match) return null;
  const half = match[4]?.toLowerCase();
  const written = Number(match[1]);
  if (half && (written < 1 || written > 12)) return null;
  const hour = half ? (written % 12) + (half === 'pm' ? 12 : 0) : written;
  if (hour > 23 || Number(match[2]) > 59 || Number(match[3] ?? 0) > 59) return null;
  return `${String(hour).padStart(2, '0')}:${match[2]}${match[3] ? `:${match[3]}` : ''}`;
}

/** A wall clock's `2027-03-12T09:30` as it is shown: "12 Mar 2027, 09:30". */
export function writeLocalClock(clock: string, locale: string): string {
  const [day = '', time] = clock.split('T');
  return time === undefined ? clock : `${writeLocalDay(day, locale)}, ${time.slice(0, 5)}`;
}

/** Reads a day with a time after it, as a wall clock's. Null for none. */
export function readLocalClock(text: string, locale: string): string | null {
  const match = /^(.*\S)\s*[T,\s]\s*(\d{1,2}[:.]\d{2}(?::\d{2})?(?:\s*[ap]m)?)$/i.exec(text.trim());
  const day = match && readLocalDay((match[1] ?? '').replace(/,$/, ''), locale);
  const time = match && readLocalTime(match[2] ?? '');
  return day && time ? `${day}T${time}` : null;
}

/** Names of the days of the week and of a month, for calendars. */
export const weekdayName = (day: Date, locale: string): string =>
  new Intl.DateTimeFormat(locale, { weekday: 'short' }).format(day);
export const monthName = (day: Date, locale: string): string =>
  new Intl.DateTimeFormat(locale, { month: 'long', year: 'numeric' }).format(day);

/** What parts groups of figures, and what stands before decimal places. */
export function numberMarks(locale: string): { readonly group: string; readonly decimal: string } {
  const parts = new Intl.NumberFormat(locale, { useGrouping: true }).formatToParts(1234567.5);
  const of = (type: string): string => parts.find((part) => part.type === type)?.value ?? '';
  return { group: of('group'), decimal: of('decimal') || '.' };
}
