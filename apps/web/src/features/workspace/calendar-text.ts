import { CalendarSettings, readDate, WEEKDAYS, type Weekday } from '@ypomet/core';

type Span = CalendarSettings['week'][Weekday][number];
export type Typed = { readonly week: Readonly<Record<Weekday, string>>; readonly holidays: string };
export type CalendarRead =
  | { readonly ok: true; readonly calendar: CalendarSettings }
  | { readonly ok: false; readonly days: ReadonlyMap<Weekday, string>; readonly holidays: string | null };

const SPAN = /^(\d{1,2})(?:[:.](\d{2}))?\s*(?:-|–|to)\s*(\d{1,2})(?:[:.](\d{2}))?$/;
const two = (text: string | undefined): string => (text ?? '00').padStart(2, '0');

/** A day's hours as they are typed: `09:00–12:00, 13:00–17:00`; empty where nobody works. */
export const writeHours = (spans: readonly Span[]): string => spans.map(({ from, to }) => `${from}–${to}`).join(', ');

/** Reads `9-12, 13:00 to 17:30`; null where that are no hours. */
export function readHours(text: string): readonly Span[] | null {
  const parts = text
    .split(/[,;]/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
  const spans = parts.map((part): Span | null => {
    const found = SPAN.exec(part);
    return found && { from: `${two(found[1])}:${two(found[2])}`, to: `${two(found[3])}:${two(found[4])}` };
  });
  return spans.includes(null) ? null : (spans as readonly Span[]);
}

/** Holidays as they are typed, a line each: the date, then its name. */
export const writeHolidays = (holidays: CalendarSettings['holidays']): string =>
  holidays.map(({ date, name }) => `${date} ${name}`.trim()).join('\n');

export const toTyped = ({ week, holidays }: CalendarSettings): Typed => ({
  week: Object.fromEntries(WEEKDAYS.map((day) => [day, writeHours(week[day])])) as Record<Weekday, string>,
  holidays: writeHolidays(holidays),
});

/** Reads a calendar as it was typed, or says, by day, what can't be read. Days that come twice count once. */
export function readTyped({ week, holidays }: Typed): CalendarRead {
  const days = new Map<Weekday, string>();
  const hours = WEEKDAYS.map((day) => {
    const spans = readHours(week[day]);
    const isInOrder = spans?.every(({ from, to }, index) => from < to && (spans[index - 1]?.to ?? '') <= from);
    if (spans === null) days.set(day, 'Write hours like 09:00–12:00, 13:00–17:00.');
    else if (!isInOrder || spans.some(({ from, to }) => !isClock(from) || !isClock(to)))
      days.set(day, 'Each must end after it begins, one after another, within the day.');
    return [day, spans ?? []] as const;
  });
  const lines = holidays
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');
  const read = lines.map((line) => ({
    date: line.slice(0, 10),
    name: line
      .slice(10)
      .replace(/^[\s;,]+/, '')
      .slice(0, 200),
  }));
  // A digit too many is a slip of the keys, not the beginning of a name.
  const bad = read.findIndex(({ date }, index) => readDate(date) === null || !/^($|[\s;,])/.test((lines[index] ?? '').slice(10)));
  const isEmpty = days.size === 0 && hours.every(([, spans]) => spans.length === 0);
  if (isEmpty) days.set('monday', 'There must be working hours on at least one day.');
  const wrong =
    bad >= 0 ? `“${lines[bad]}” doesn’t begin with a date like 2026-12-25.` : read.length > 1000 ? 'At most 1,000 days.' : null;
  if (days.size > 0 || wrong !== null) return { ok: false, days, holidays: wrong };
  const byDate = new Map(read.map((one) => [one.date, one]));
  const sorted = [...byDate.values()].sort((a, b) => (a.date < b.date ? -1 : 1));
  return { ok: true, calendar: CalendarSettings.parse({ week: Object.fromEntries(hours), holidays: sorted }) };
}

const isClock = (text: string): boolean => /^([01]\d|2[0-3]):[0-5]\d$|^24:00$/.test(text);
