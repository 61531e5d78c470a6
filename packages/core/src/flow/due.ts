import { type Frame, makeFrame } from '../expressions/frame.ts';
import type { Offset } from '../model/flow.ts';
import {
  type DateTimeValue,
  type DateValue,
  makeDateTime,
  readDate,
  readDateTime,
  wallClockOf,
  writeDate,
  writeInstant,
} from '../values/temporal.ts';
import {
  addWorkingDays,
  addWorkingTime,
  clockOn,
  endOfDay,
  openingOn,
  type WorkingCalendar,
} from '../values/working-calendar.ts';
import type { CompiledStage } from './compiled-workflow.ts';

const MINUTE_MS = 60_000;
const UNIT_MS = { minutes: MINUTE_MS, hours: 60 * MINUTE_MS, 'working-hours': 60 * MINUTE_MS } as const;

/** Where times of day and working days are counted. */
export type Counting = { readonly zone: string; readonly calendar: WorkingCalendar };

/**
 * Counts a stage's due date for a record as it is: a day (`2027-03-12`), an instant in UTC, or null where there is none. Its clock
 * is that of the arrival, so that a date in five days doesn't move on with every change of the record. While it is counted
 * `record.due` is empty, so that it never depends on itself; `put` puts what is known of it before the expressions.
 */
export function countDue(
  at: CompiledStage | undefined,
  { arrivedAt }: { readonly arrivedAt: string },
  frame: Frame,
  put: (due: string | null) => void,
): string | null {
  if (!at?.due) return null;
  put(null);
  const environment = { ...frame.environment, now: Date.parse(arrivedAt) };
  const due = dueOf(at, makeFrame(frame.slots, environment, frame.overruns));
  if (due !== null) put(due);
  return due;
}

function dueOf({ due, stage }: CompiledStage, frame: Frame): string | null {
  if (!due || stage.kind === 'end' || stage.kind === 'junction') return null;
  const value = due.evaluate(frame) as DateValue | DateTimeValue | null;
  if (value === null) return null;
  return value.kind === 'date' ? writeDate(value) : writeInstant(value.ms);
}

/** The instant at which something is due: that of a day is its last second, in the workspace's zone. Null where it can't be read. */
export function dueInstant(due: string, zone: string): number | null {
  const day = readDate(due);
  return day ? endOfDay(day.day, zone) : (readDateTime(due, zone)?.ms ?? null);
}

/**
 * The instant that lies an offset away from a due date. Whole days keep the time of day. Of a due date that is a day, days count
 * from that day: `at` says whether the moment is when work begins on it, as for reminders, or its last second. Null where the
 * calendar has no such day.
 */
export function offsetFrom(due: string, offset: Offset, at: 'opening' | 'end', counting: Counting): number | null {
  const ms = momentAway(due, offset, at, counting);
  return ms === null ? null : (makeDateTime(ms, counting.zone)?.ms ?? null);
}

function momentAway(due: string, offset: Offset, at: 'opening' | 'end', counting: Counting): number | null {
  const { zone, calendar } = counting;
  const instant = dueInstant(due, zone);
  if (instant === null) return null;
  const { unit, side } = offset;
  const count = side === 'before' ? -offset.count : offset.count;
  if (unit === 'minutes' || unit === 'hours') return instant + count * UNIT_MS[unit];
  // None: the moment itself, whether work is done then or not.
  if (unit === 'working-hours') return count === 0 ? instant : addWorkingTime(calendar, instant, count * UNIT_MS[unit], zone);
  const wall = wallClockOf({ kind: 'date-time', ms: instant, zone });
  const day = count === 0 ? wall.day : unit === 'days' ? wall.day + count : addWorkingDays(calendar, wall.day, count);
  if (day === null) return null;
  if (readDate(due)) return at === 'end' ? endOfDay(day, zone) : clockOn(day, openingOn(calendar, day), zone);
  const minutes = Math.floor(wall.ms / MINUTE_MS);
  const moment = clockOn(day, minutes, zone);
  return moment === null ? null : moment + (wall.ms - minutes * MINUTE_MS);
}

/** A due date as expressions read it. */
export function dueValue(due: string | null, zone: string): DateTimeValue | null {
  const instant = due === null ? null : dueInstant(due, zone);
  return instant === null ? null : makeDateTime(instant, zone);
}
