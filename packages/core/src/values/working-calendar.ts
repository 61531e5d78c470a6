import { z } from 'zod';
import { weekdayOf } from './calendar.ts';
import { joinDateTime, makeDate, makeDateTime, readDate, wallClockOf } from './temporal.ts';

const MINUTE_MS = 60_000;
/** Counted in one go: some forty years of working days, or two and a half of working hours. */
export const MAX_WORKING_DAYS = 10_000;
export const MAX_WORKING_HOURS = 5000;
/** Days without working hours in a row after which counting ends: a calendar of holidays alone comes to nothing. */
const MAX_IDLE_DAYS = 4000;

const Clock = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$|^24:00$/, 'shape/clock');

/** When work is done on a day: `{"from": "09:00", "to": "17:00"}`. */
export const WorkingSpan = z.strictObject({ from: Clock, to: Clock });

export const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

const Day = z
  .array(WorkingSpan)
  .max(5)
  .default([])
  .refine((spans) => spans.every(({ from, to }, index) => from < to && (spans[index - 1]?.to ?? '') <= from), 'shape/spans');

const FIVE_DAYS = Object.fromEntries(
  WEEKDAYS.map((day, index) => [day, index < 5 ? [{ from: '09:00', to: '17:00' }] : []]),
) as Record<Weekday, z.infer<typeof WorkingSpan>[]>;

/** Hours and holidays in which working days and hours count, as a workspace keeps them. */
export const CalendarSettings = z.strictObject({
  week: z
    .strictObject({ monday: Day, tuesday: Day, wednesday: Day, thursday: Day, friday: Day, saturday: Day, sunday: Day })
    .refine((week) => Object.values(week).some((spans) => spans.length > 0), 'shape/no-working-day')
    .default(FIVE_DAYS),
  holidays: z
    .array(
      z.strictObject({
        date: z.string().refine((text) => readDate(text) !== null, 'shape/date'),
        name: z.string().max(200).default(''),
      }),
    )
    .max(1000)
    .default([]),
});
export type CalendarSettings = z.infer<typeof CalendarSettings>;

type Span = { readonly from: number; readonly to: number };

/** A calendar to count in: for each weekday, Monday first, its hours in minutes from midnight; holidays as days since 1970. */
export type WorkingCalendar = {
  readonly week: readonly (readonly Span[])[];
  readonly holidays: ReadonlySet<number>;
  /** When work usually begins, in minutes: the earliest beginning of the week. */
  readonly opens: number;
};

const minutesOf = (clock: string): number => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3));

/** Makes a calendar that can be counted in. */
export function makeCalendar({ week, holidays }: CalendarSettings): WorkingCalendar {
  const days = WEEKDAYS.map((day) => week[day].map(({ from, to }) => ({ from: minutesOf(from), to: minutesOf(to) })));
  return {
    week: days,
    holidays: new Set(holidays.flatMap(({ date }) => readDate(date)?.day ?? [])),
    opens: Math.min(...days.flatMap((spans) => spans.slice(0, 1).map(({ from }) => from))),
  };
}

/** Monday to Friday, nine to five, without holidays: what counts where a workspace has said nothing. */
export const ORDINARY_CALENDAR: WorkingCalendar = makeCalendar(CalendarSettings.parse({}));

const spansOf = ({ week, holidays }: WorkingCalendar, day: number): readonly Span[] =>
  holidays.has(day) ? [] : (week[weekdayOf(day) - 1] ?? []);

/** When work begins on a day, in minutes from midnight; on one without working hours, when it usually does. */
export const openingOn = (calendar: WorkingCalendar, day: number): number => spansOf(calendar, day)[0]?.from ?? calendar.opens;

/**
 * The day that lies so many working days after another: the next working day is one after it, and the one before it is -1.
 * None: the day itself if it is one, else the next. Null past {@link MAX_WORKING_DAYS}, or where there are none.
 */
export function addWorkingDays(calendar: WorkingCalendar, from: number, count: number): number | null {
  if (Math.abs(count) > MAX_WORKING_DAYS) return null;
  const by = count < 0 ? -1 : 1;
  let left = Math.abs(count);
  let idle = 0;
  for (let day = count === 0 ? from : from + by; idle < MAX_IDLE_DAYS; day += by) {
    if (spansOf(calendar, day).length === 0) {
      idle += 1;
      continue;
    }
    idle = 0;
    left -= 1;
    if (left <= 0) return day;
  }
  return null;
}

/** The instants between which work is done on a day. Hours that the change to summer time leaves out are none. */
function openOn(calendar: WorkingCalendar, day: number, zone: string): readonly Span[] {
  return spansOf(calendar, day).flatMap(({ from, to }) => {
    const [begins, ends] = [clockOn(day, from, zone), clockOn(day, to, zone)];
    return begins !== null && ends !== null && begins < ends ? [{ from: begins, to: ends }] : [];
  });
}

/**
 * Instants that were worked out before, by zone, day and minute: a wall clock takes about 60 microseconds to read, and thousands
 * of working hours need a thousand of them. A zone's are forgotten together once there are many.
 */
const instants = new Map<string, Map<number, number | null>>();
const MAX_INSTANTS = 20_000;
const MAX_ZONES = 20;

/** The instant of a time of day, in minutes; the 24th hour is the next day's first. Null outside the years 1 to 9999. */
export function clockOn(day: number, minutes: number, zone: string): number | null {
  const known = instants.get(zone) ?? new Map<number, number | null>();
  const key = day * 1441 + minutes;
  const before = known.get(key);
  if (before !== undefined) return before;
  if (instants.size > MAX_ZONES) instants.clear();
  if (known.size >= MAX_INSTANTS) known.clear();
  const at = workOutClock(day, minutes, zone);
  instants.set(zone, known.set(key, at));
  return at;
}

function workOutClock(day: number, minutes: number, zone: string): number | null {
  const [on, at] = minutes === 24 * 60 ? [day + 1, 0] : [day, minutes];
  const date = makeDate(on);
  return date && (joinDateTime(date, { kind: 'time', ms: at * MINUTE_MS, offsetMs: null }, zone)?.ms ?? null);
}

/**
 * The instant that lies so much working time after another, or before it where that is negative. Time outside working hours
 * counts nothing; exactly at closing is still that day. No time at all: the instant itself while work is done, else when it
 * begins next. Null past {@link MAX_WORKING_HOURS}, or where there are none.
 */
export function addWorkingTime(calendar: WorkingCalendar, fromMs: number, durationMs: number, zone: string): number | null {
  if (Math.abs(durationMs) > MAX_WORKING_HOURS * 60 * MINUTE_MS) return null;
  const start = makeDateTime(fromMs, zone);
  if (!start) return null;
  const by = durationMs < 0 ? -1 : 1;
  let left = Math.abs(durationMs);
  let idle = 0;
  for (let { day } = wallClockOf(start); idle < MAX_IDLE_DAYS; day += by) {
    const spans = openOn(calendar, day, zone);
    idle = spans.length === 0 ? idle + 1 : 0;
    for (const span of by > 0 ? spans : spans.toReversed()) {
      const near = by > 0 ? Math.max(span.from, fromMs) : Math.min(span.to, fromMs);
      const room = by > 0 ? span.to - near : near - span.from;
      if (room <= 0) continue;
      if (left <= room) return near + by * left;
      left -= room;
    }
  }
  return null;
}

/** The last second of a day, when a due date that is a day is over; null for a day outside the years 1 to 9999. */
export function endOfDay(day: number, zone: string): number | null {
  const nextDay = clockOn(day, 24 * 60, zone);
  if (nextDay !== null) return nextDay - 1000;
  // 9999-12-31 is the last day that can be written, so the day after it has no midnight to count back from.
  const lastMinute = clockOn(day, 24 * 60 - 1, zone);
  return lastMinute === null ? null : lastMinute + 59_000;
}
