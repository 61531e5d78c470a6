import {
  DAY_MS,
  type DateTimeValue,
  joinDateTime,
  readDate,
  readDateTime,
  readTime,
  wallClockOf,
  writeDate,
  writeInstant,
} from '../values/temporal.ts';
import { type DayStyle, readLocalDay, writeLocalDay } from './days.ts';
import { plainText } from './plain-text.ts';
import { mapReading, NOTHING, oneOf, type Reading, reads, unread } from './reading.ts';
import { readLocalTime, writeLocalTime } from './times.ts';

/** A wall clock's `2027-03-12T09:30` as it is shown everywhere: "12 Mar 2027, 09:30". A text that is none stays as it is. */
export function writeLocalClock(clock: string, locale: string): string {
  const [day = '', time] = clock.split('T');
  return time === undefined ? clock : `${writeLocalDay(day, locale)}, ${writeLocalTime(time, locale)}`;
}

/** Milliseconds from 1970-01-01T00:00 to an instant's wall clock, as if that were in UTC. */
function wallMs(value: DateTimeValue): number {
  const { day, ms } = wallClockOf(value);
  return day * DAY_MS + ms;
}

/** Instants of one wall clock in a zone: two where clocks were put back over it, none where they were put forward. */
function instantsAt(clock: string, zone: string): readonly DateTimeValue[] {
  const [date, time] = [readDate(clock.slice(0, 10)), readTime(clock.slice(11))];
  const first = date && time && joinDateTime(date, time, zone);
  if (!first || wallMs(first) !== date.day * DAY_MS + time.ms) return [];
  // Clocks are put back by two hours at most, and by whole quarters of an hour (IANA time zone database).
  for (let quarter = 1; quarter <= MAX_QUARTERS_BACK; quarter++) {
    const later = { ...first, ms: first.ms + quarter * QUARTER_MS };
    if (wallMs(later) === wallMs(first)) return [first, later];
  }
  return [first];
}

const QUARTER_MS = 900_000;
const MAX_QUARTERS_BACK = 8;

/** An instant as it is shown everywhere, by a zone's clock. In an hour that the clocks repeat its offset from UTC is written too. */
export function writeLocalMoment(
  value: DateTimeValue,
  { locale, zone }: { readonly locale: string; readonly zone: string },
): string {
  const own = { ...value, zone };
  const clock = fullClock(own);
  const written = writeLocalClock(clock, locale);
  return instantsAt(clock, zone).length === 2 ? `${written} ${offsetText(own)}` : written;
}

function fullClock(value: DateTimeValue): string {
  const { day, ms } = wallClockOf(value);
  const two = (amount: number): string => String(amount).padStart(2, '0');
  const seconds = ms % 60_000;
  const rest =
    seconds === 0
      ? ''
      : `:${two(Math.floor(seconds / 1000))}${seconds % 1000 === 0 ? '' : `.${String(seconds % 1000).padStart(3, '0')}`}`;
  return `${writeDate({ kind: 'date', day })}T${two(Math.floor(ms / 3_600_000))}:${two(Math.floor(ms / 60_000) % 60)}${rest}`;
}

function offsetText(value: DateTimeValue): string {
  const minutes = Math.round(wallClockOf(value).offsetMs / 60_000);
  const size = Math.abs(minutes);
  return `${minutes < 0 ? '-' : '+'}${String(Math.floor(size / 60)).padStart(2, '0')}:${String(size % 60).padStart(2, '0')}`;
}

const ISO_CLOCK = /^(\d{4}-\d{2}-\d{2})[T ](\d{2}:\d{2}(?::\d{2}(?:\.\d{1,3})?)?)$/;
const INSTANT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(?::\d{2}(?:\.\d{1,9})?)?(?:Z|[+-]\d{2}:\d{2})$/;
const OFFSET = /\s*([+-]\d{2}:\d{2})$/;

/** Reads a wall clock, as `2027-03-12T09:30`: a day as {@link readLocalDay} reads it with a time behind it. */
export function readLocalClock(text: string, style: DayStyle): Reading<string> {
  const written = plainText(text);
  if (written === '') return NOTHING;
  const iso = ISO_CLOCK.exec(written);
  if (iso) {
    const isDay = readDate(iso[1] as string) !== null;
    return isDay && readTime(iso[2] as string) !== null ? reads(`${iso[1]}T${iso[2]}`) : unread('no-such-day');
  }
  for (const { day, time } of splitsOf(written)) {
    const clock = readLocalTime(time, style.locale);
    const date = readLocalDay(day, style);
    if (clock.kind !== 'value' || date.kind === 'nothing' || !isTimeBehind(time, day)) continue;
    if (date.kind === 'unread' && date.why === 'day') continue;
    return mapReading(date, (own) => `${own}T${clock.value}`);
  }
  return unread('moment');
}

/** Digits alone are a time only behind a whole day: in "12 Mar 2027" they are the year. */
const isTimeBehind = (time: string, day: string): boolean => !/^\d+$/.test(time) || /\d{4}/.test(day) || !/\d/.test(day);

/** The ways in which a text can be a day with a time behind it: parted at each comma and space, the longest day first. */
function splitsOf(written: string): readonly { readonly day: string; readonly time: string }[] {
  const places = [...written.matchAll(/[\s,،、(]+|(?<=[日일])(?=[^\s,])/gu)].map(({ index, 0: mark }) => ({
    index,
    end: index + mark.length,
  }));
  return places.reverse().flatMap(({ index, end }) => {
    const [day, time] = [written.slice(0, index), written.slice(end).replace(/\)$/, '')];
    return /\d/.test(time) ? [{ day: day.replace(/[\s,،、]+$/u, ''), time }] : [];
  });
}

export type MomentStyle = DayStyle & { readonly zone: string };

/**
 * Reads an instant by a zone's clock, as it is stored (`2027-03-12T08:30:00Z`). A time that the clocks skip on that day means
 * nothing; one that they repeat is asked about, unless its offset is written behind it, as {@link writeLocalMoment} does.
 */
export function readLocalMoment(text: string, { zone, ...style }: MomentStyle): Reading<string> {
  const written = plainText(text);
  if (INSTANT.test(written)) {
    const value = readDateTime(written, zone);
    return value === null ? unread('no-such-day') : reads(writeInstant(value.ms));
  }
  const offset = OFFSET.exec(written)?.[1];
  const clock = readLocalClock(offset === undefined ? written : written.replace(OFFSET, ''), style);
  if (clock.kind === 'nothing' || clock.kind === 'unread') return clock;
  const clocks = clock.kind === 'value' ? [clock.value] : clock.values;
  const instants = clocks.flatMap((own) => {
    const all = instantsAt(own, zone);
    const meant = offset === undefined ? all : all.filter((value) => offsetText(value) === offset);
    return meant.map(({ ms }) => writeInstant(ms));
  });
  return oneOf(instants, 'skipped');
}
