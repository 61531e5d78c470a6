import { getISO } from 'temporal-polyfill/fns/Calendar';
import * as Instant from 'temporal-polyfill/fns/Instant';
import * as PlainDateTime from 'temporal-polyfill/fns/PlainDateTime';
import * as ZonedDateTime from 'temporal-polyfill/fns/ZonedDateTime';
import { civilOf, dayNumber, daysInMonth } from './calendar.ts';

/** A calendar date without a zone; `day` is days since 1970-01-01. Years 1 to 9999. */
export type DateValue = { readonly kind: 'date'; readonly day: number };
/** A time of day in milliseconds; `offsetMs` east of UTC where one was written. */
export type TimeValue = { readonly kind: 'time'; readonly ms: number; readonly offsetMs: number | null };
/**
 * An instant in milliseconds since 1970-01-01T00:00Z, shown and computed in `zone` (IANA name or UTC offset). Instants lie
 * in the years 1 to 9999 of UTC, so that each can be written and read again.
 */
export type DateTimeValue = { readonly kind: 'date-time'; readonly ms: number; readonly zone: string };
/** FEEL's "days and time duration", in milliseconds. */
export type DaysDuration = { readonly kind: 'days-duration'; readonly ms: number };
/** FEEL's "years and months duration", in months. */
export type MonthsDuration = { readonly kind: 'months-duration'; readonly months: number };

export const DAY_MS = 86_400_000;
const FIRST_DAY = dayNumber(1, 1, 1);
const LAST_DAY = dayNumber(9999, 12, 31);
const FIRST_MS = FIRST_DAY * DAY_MS;
const END_MS = (LAST_DAY + 1) * DAY_MS;

export const makeDate = (day: number): DateValue | null =>
  Number.isInteger(day) && day >= FIRST_DAY && day <= LAST_DAY ? { kind: 'date', day } : null;

/** A date from its parts; null when there is no such day. */
export function dateOf(year: number, month: number, day: number): DateValue | null {
  const inRange = Number.isInteger(year) && year >= 1 && year <= 9999 && month >= 1 && month <= 12;
  if (!inRange || !Number.isInteger(month) || !Number.isInteger(day)) return null;
  return day < 1 || day > daysInMonth(year, month) ? null : { kind: 'date', day: dayNumber(year, month, day) };
}

export const makeTime = (ms: number, offsetMs: number | null): TimeValue | null =>
  ms >= 0 && ms < DAY_MS ? { kind: 'time', ms, offsetMs } : null;

export const makeDateTime = (ms: number, zone: string): DateTimeValue | null =>
  ms >= FIRST_MS && ms < END_MS ? { kind: 'date-time', ms, zone } : null;

/** The same instant, shown and computed in another zone. */
export const inZone = (value: DateTimeValue, zone: string): DateTimeValue => (value.zone === zone ? value : { ...value, zone });

export const daysDuration = (ms: number): DaysDuration | null =>
  Number.isSafeInteger(ms) ? { kind: 'days-duration', ms: ms === 0 ? 0 : ms } : null;

export const monthsDuration = (months: number): MonthsDuration | null =>
  Number.isSafeInteger(months) ? { kind: 'months-duration', months: months === 0 ? 0 : months } : null;

const two = (value: number): string => String(value).padStart(2, '0');

/** Reads `2027-03-12`. */
export function readDate(text: string): DateValue | null {
  const parts = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  return parts ? dateOf(Number(parts[1]), Number(parts[2]), Number(parts[3])) : null;
}

export function writeDate(value: DateValue): string {
  const { year, month, day } = civilOf(value.day);
  return `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}`;
}

const MAX_OFFSET_MS = 18 * 3_600_000;
const TIME = /^(\d{2}):(\d{2})(?::(\d{2})(?:\.(\d{1,9}))?)?(Z|[+-]\d{2}:\d{2}(?::\d{2})?)?$/;

/** An offset from UTC in milliseconds. Before zones were standardised offsets had seconds: `+01:05:21`. */
function readOffset(text: string | undefined): number | null {
  if (!text) return null;
  if (text === 'Z') return 0;
  const seconds = Number(text.slice(1, 3)) * 3600 + Number(text.slice(4, 6)) * 60 + Number(text.slice(7, 9));
  return (text[0] === '-' ? -seconds : seconds) * 1000;
}

/** Reads `09:30`, `09:30:15.250`, `09:30:00+01:00`. Fractions beyond milliseconds are cut off. */
export function readTime(text: string): TimeValue | null {
  const parts = TIME.exec(text);
  if (!parts) return null;
  const [hours, minutes, seconds] = [Number(parts[1]), Number(parts[2]), Number(parts[3] ?? 0)];
  const offsetMs = readOffset(parts[5]);
  if (hours > 23 || minutes > 59 || seconds > 59 || (offsetMs !== null && Math.abs(offsetMs) > MAX_OFFSET_MS)) return null;
  const fraction = Number((parts[4] ?? '').padEnd(3, '0').slice(0, 3));
  return { kind: 'time', ms: ((hours * 60 + minutes) * 60 + seconds) * 1000 + fraction, offsetMs };
}

function writeOffset(offsetMs: number): string {
  if (offsetMs === 0) return 'Z';
  const size = Math.abs(offsetMs) / 1000;
  const seconds = size % 60 === 0 ? '' : `:${two(size % 60)}`;
  return `${offsetMs < 0 ? '-' : '+'}${two(Math.floor(size / 3600))}:${two(Math.floor(size / 60) % 60)}${seconds}`;
}

function writeClock(ms: number): string {
  const seconds = Math.floor(ms / 1000);
  const fraction = ms % 1000;
  const clock = `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
  return fraction === 0 ? clock : `${clock}.${String(fraction).padStart(3, '0').replace(/0+$/, '')}`;
}

export const writeTime = (value: TimeValue): string =>
  writeClock(value.ms) + (value.offsetMs === null ? '' : writeOffset(value.offsetMs));

const DATE_TIME =
  /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(?::\d{2}(?:\.\d{1,9})?)?(Z|[+-]\d{2}:\d{2}(?::\d{2})?)?(?:\[([^\]]+)\]|@([A-Za-z0-9_+/-]+))?$/;

export function isZone(zone: string): boolean {
  try {
    Instant.toZonedDateTimeISO(Instant.fromEpochMilliseconds(0), zone);
    return true;
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}

/**
 * Reads an ISO 8601 date-time with an offset, an RFC 9557 zone (`[Europe/Rome]`), FEEL's `@Europe/Rome`, or none:
 * then it is a wall-clock time in `zone`. A wall-clock time that a zone change skips or repeats is read as RFC 5545
 * does ("compatible": the later of a gap, the earlier of a repeat).
 */
export function readDateTime(text: string, zone: string): DateTimeValue | null {
  // An instant as records are stored: no calendar is needed beyond the language's own, which checks the date's parts.
  if (STORED_INSTANT.test(text)) {
    const ms = Date.parse(text);
    if (!Number.isNaN(ms) && Number(text.slice(8, 10)) === new Date(ms).getUTCDate()) return makeDateTime(ms, 'UTC');
  }
  const parts = DATE_TIME.exec(text);
  if (!parts || readDate(text.slice(0, 10)) === null) return null;
  const named = parts[2] ?? parts[3];
  const wall = text.slice(0, 10 + /^T[\d:.]+/.exec(text.slice(10))![0].length);
  if (readTime(wall.slice(11)) === null) return null;
  if (named !== undefined && !isZone(named)) return null;
  if (parts[1]) {
    const ms = Instant.fromString(wall + parts[1]).epochMilliseconds;
    return makeDateTime(ms, named ?? (parts[1] === 'Z' ? 'UTC' : parts[1]));
  }
  return atWallClock(wall, named ?? zone);
}

const STORED_INSTANT = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d{3})?Z$/;

function atWallClock(wall: string, zone: string): DateTimeValue | null {
  if (/^[+-]\d{2}:\d{2}:\d{2}$/.test(zone)) return makeDateTime(Instant.fromString(wall + zone).epochMilliseconds, zone);
  return makeDateTime(PlainDateTime.toZonedDateTime(PlainDateTime.fromString(wall, getISO), zone).epochMilliseconds, zone);
}

/** Writes the instant in UTC, the form in which records are stored: `2027-03-12T09:30:00Z`. */
export function writeInstant(ms: number): string {
  const day = Math.floor(ms / DAY_MS);
  return `${writeDate({ kind: 'date', day })}T${writeClock(ms - day * DAY_MS)}Z`;
}

/** A zone that is an offset has it written out; what a named zone's offset is, depends on the instant. */
function offsetAt({ ms, zone }: DateTimeValue): number {
  if (zone === 'UTC') return 0;
  const fixed = /^[+-]\d{2}:\d{2}(?::\d{2})?$/.test(zone) ? readOffset(zone) : null;
  return fixed ?? ZonedDateTime.offsetNanoseconds(Instant.toZonedDateTimeISO(Instant.fromEpochMilliseconds(ms), zone)) / 1e6;
}

/** The wall clock of an instant in its zone. */
export function wallClockOf(value: DateTimeValue): { readonly day: number; readonly ms: number; readonly offsetMs: number } {
  const offsetMs = offsetAt(value);
  const local = value.ms + offsetMs;
  const day = Math.floor(local / DAY_MS);
  return { day, ms: local - day * DAY_MS, offsetMs };
}

/** Writes the wall clock with its offset: `2027-03-12T10:30:00+01:00`. */
export function writeDateTime(value: DateTimeValue): string {
  const wall = wallClockOf(value);
  return `${writeDate({ kind: 'date', day: wall.day })}T${writeClock(wall.ms)}${writeOffset(wall.offsetMs)}`;
}

/** As {@link writeDateTime}, with the name of the zone where it has one (RFC 9557): read back, it is the same value. */
export function writeZonedDateTime(value: DateTimeValue): string {
  const wall = wallClockOf(value);
  if (makeDate(wall.day) === null) return writeInstant(value.ms);
  const isNamed = value.zone !== 'UTC' && !/^[+-]/.test(value.zone);
  return `${writeDateTime(value)}${isNamed ? `[${value.zone}]` : ''}`;
}

/** The wall clock to the minute, or to the second where it has any, as inputs of a date and a time take it. */
export function writeWallClock(value: DateTimeValue): string {
  const wall = wallClockOf(value);
  return `${writeDate({ kind: 'date', day: wall.day })}T${writeClock(wall.ms).replace(/:00$/, '')}`;
}

/** The instant at which a date and a time of day meet in a zone. */
export function joinDateTime(date: DateValue, time: TimeValue, zone: string): DateTimeValue | null {
  if (time.offsetMs !== null) {
    const offsetZone = time.offsetMs === 0 ? 'UTC' : writeOffset(time.offsetMs);
    return makeDateTime(date.day * DAY_MS + time.ms - time.offsetMs, offsetZone);
  }
  return atWallClock(`${writeDate(date)}T${writeClock(time.ms)}`, zone);
}

const DURATION = /^(-)?P(?:(\d+)Y)?(?:(\d+)M)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)(?:\.(\d{1,9}))?S)?)?$/;

/** Reads `P1Y6M` or `P3DT4H`; ISO 8601 durations that mix the two kinds are none in FEEL. */
export function readDuration(text: string): DaysDuration | MonthsDuration | null {
  const parts = DURATION.exec(text);
  if (!parts || text.length > 60 || /[PT]$/.test(text)) return null;
  const number = (index: number): number => Number(parts[index] ?? 0);
  const sign = parts[1] ? -1 : 1;
  const hasMonths = parts[2] !== undefined || parts[3] !== undefined;
  const hasDays = [4, 5, 6, 7].some((index) => parts[index] !== undefined);
  if (hasMonths === hasDays) return null;
  if (hasMonths) return monthsDuration(sign * (number(2) * 12 + number(3)));
  const fraction = Number((parts[8] ?? '').padEnd(3, '0').slice(0, 3));
  const seconds = ((number(4) * 24 + number(5)) * 60 + number(6)) * 60 + number(7);
  return daysDuration(sign * (seconds * 1000 + fraction));
}

export function writeDuration(value: DaysDuration | MonthsDuration): string {
  const amount = value.kind === 'months-duration' ? value.months : value.ms;
  const sign = amount < 0 ? '-' : '';
  const size = Math.abs(amount);
  if (value.kind === 'months-duration') {
    const [years, months] = [Math.floor(size / 12), size % 12];
    return size === 0 ? 'P0M' : `${sign}P${years ? `${years}Y` : ''}${months ? `${months}M` : ''}`;
  }
  if (size === 0) return 'PT0S';
  const [days, hours] = [Math.floor(size / DAY_MS), Math.floor(size / 3_600_000) % 24];
  const [minutes, rest] = [Math.floor(size / 60_000) % 60, size % 60_000];
  const seconds = rest === 0 ? '' : `${rest / 1000}S`;
  const clock = `${hours ? `${hours}H` : ''}${minutes ? `${minutes}M` : ''}${seconds}`;
  return `${sign}P${days ? `${days}D` : ''}${clock ? `T${clock}` : ''}`;
}

/** Adds months, clamping to the last day of the month: 31 January plus one month is 28 or 29 February. */
export function addMonths(date: DateValue, months: number): DateValue | null {
  const { year, month, day } = civilOf(date.day);
  const index = year * 12 + month - 1 + months;
  const [newYear, newMonth] = [Math.floor(index / 12), (((index % 12) + 12) % 12) + 1];
  return Number.isSafeInteger(index) ? dateOf(newYear, newMonth, Math.min(day, daysInMonth(newYear, newMonth))) : null;
}

/** Adds months to the wall clock, keeping the time of day and the zone. */
export function addMonthsToDateTime(value: DateTimeValue, months: number): DateTimeValue | null {
  const wall = wallClockOf(value);
  const date = addMonths({ kind: 'date', day: wall.day }, months);
  return date && joinDateTime(date, { kind: 'time', ms: wall.ms, offsetMs: null }, value.zone);
}

/** Whole months from one date to another, towards zero. */
export function monthsBetween(from: DateValue, to: DateValue): number {
  const [a, b] = [civilOf(from.day), civilOf(to.day)];
  const months = (b.year - a.year) * 12 + b.month - a.month;
  if (months > 0 && b.day < a.day) return months - 1;
  return months < 0 && b.day > a.day ? months + 1 : months;
}

/** The day on which an instant falls in a zone; null beyond the years 1 to 9999. */
export const dayOfInstant = (ms: number, zone: string): DateValue | null =>
  makeDate(wallClockOf({ kind: 'date-time', ms, zone }).day);

/** The year in which an instant falls in a zone. */
export const yearOfInstant = (ms: number, zone: string): number => civilOf(wallClockOf({ kind: 'date-time', ms, zone }).day).year;
