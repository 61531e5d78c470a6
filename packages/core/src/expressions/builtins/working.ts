import { approximate, type Exact, findInteger } from '../../values/exact.ts';
import { type DateTimeValue, type DateValue, makeDate, makeDateTime, wallClockOf } from '../../values/temporal.ts';
import { isList, type Value } from '../../values/value.ts';
import { addWorkingDays, addWorkingTime, clockOn } from '../../values/working-calendar.ts';
import { TYPES } from '../types.ts';
import { type Builtin, parameter } from './builtin.ts';

const { number, date, dateTime } = TYPES;
const CLAUSE = 'Ypomet';
const HOUR_MS = 3_600_000;
/** Counting goes day by day, and through at most this many idle days: steps of a call, and for each day and hour counted (measured). */
const STEPS = 400;
const STEPS_A_DAY = 10;
const STEPS_AN_HOUR = 150;

/** Steps of counting as many as the one number among the arguments says; whichever is named first. */
const stepsFor =
  (each: number) =>
  (given: readonly Value[]): number => {
    const n = given.find((value) => value !== null && typeof value === 'object' && !isList(value) && value.kind === 'number');
    const count = n === undefined ? 0 : Math.abs(approximate(n as Exact));
    return STEPS + (Number.isFinite(count) ? Math.ceil(count * each) : 0);
  };

/** Days and hours counted in the workspace's working calendar. DMN has no such functions: these are the profile's own. */
export const workingBuiltins: readonly Builtin[] = [
  {
    name: 'working days',
    clause: CLAUSE,
    partial: true,
    steps: stepsFor(STEPS_A_DAY),
    signatures: [
      { parameters: [parameter('from', date), parameter('n', number)], result: date },
      { parameters: [parameter('from', dateTime), parameter('n', number)], result: dateTime },
    ],
    call: ([from, n], { calendar, zone }) => {
      const count = findInteger(n as Exact);
      if (count === null) return null;
      const value = from as DateValue | DateTimeValue;
      if (value.kind === 'date') {
        const day = addWorkingDays(calendar, value.day, count);
        return day === null ? null : makeDate(day);
      }
      // The same time of day, as the workspace's clocks show it.
      const wall = wallClockOf({ ...value, zone });
      const day = addWorkingDays(calendar, wall.day, count);
      const at = day === null ? null : clockOn(day, Math.floor(wall.ms / 60_000), zone);
      return at === null ? null : makeDateTime(at + (wall.ms % 60_000), zone);
    },
  },
  {
    name: 'working hours',
    clause: CLAUSE,
    partial: true,
    steps: stepsFor(STEPS_AN_HOUR),
    signatures: [{ parameters: [parameter('from', dateTime), parameter('n', number)], result: dateTime }],
    call: ([from, n], { calendar, zone }) => {
      const ms = Math.round(approximate(n as Exact) * HOUR_MS);
      const at = Number.isFinite(ms) ? addWorkingTime(calendar, (from as DateTimeValue).ms, ms, zone) : null;
      return at === null ? null : makeDateTime(at, zone);
    },
  },
];
