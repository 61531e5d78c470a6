import { civilOf, dayNumber, weekdayOf, weekOf } from '../../values/calendar.ts';
import { type Exact, exactInteger, findInteger } from '../../values/exact.ts';
import {
  DAY_MS,
  type DateTimeValue,
  type DateValue,
  type DaysDuration,
  dateOf,
  dayOfInstant,
  joinDateTime,
  makeDate,
  makeDateTime,
  makeTime,
  monthsBetween,
  monthsDuration,
  readDate,
  readDateTime,
  readDuration,
  readTime,
  type TimeValue,
  wallClockOf,
} from '../../values/temporal.ts';
import type { Value } from '../../values/value.ts';
import { TYPES } from '../types.ts';
import { type Builtin, optional, parameter } from './builtin.ts';

const CONVERSION = '10.3.4.1';
const CLAUSE = '10.3.4.8';
const { text, number, date, time, dateTime, daysDuration, monthsDuration: months, any } = TYPES;

/** The calendar day a date or a date and time stands on. */
const dayOf = (value: Value): DateValue | null => {
  const temporal = value as DateValue | DateTimeValue;
  return temporal.kind === 'date' ? temporal : makeDate(wallClockOf(temporal).day);
};

const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];

const integer = (value: Value | undefined): number | null =>
  value === undefined || value === null ? null : findInteger(value as Exact);

const ofDay = (name: string, result: typeof text | typeof number, call: (day: number) => Value): Builtin => ({
  name,
  clause: CLAUSE,
  signatures: [
    { parameters: [parameter('date', date)], result },
    { parameters: [parameter('date', dateTime)], result },
  ],
  call: ([value]) => {
    const found = dayOf(value as Value);
    return found && call(found.day);
  },
});

function makeClock(given: readonly Value[]): Value {
  const [hour, minute, second] = [integer(given[0]), integer(given[1]), integer(given[2])];
  if (hour === null || minute === null || second === null || hour > 23 || minute > 59 || second > 59) return null;
  const offset = given[3] === undefined || given[3] === null ? null : (given[3] as DaysDuration).ms;
  return hour < 0 || minute < 0 || second < 0 ? null : makeTime(((hour * 60 + minute) * 60 + second) * 1000, offset);
}

function toTime(value: Value): Value {
  if (typeof value === 'string') return readTime(value);
  const temporal = value as TimeValue | DateTimeValue;
  if (temporal.kind === 'time') return temporal;
  const wall = wallClockOf(temporal);
  return makeTime(wall.ms, wall.offsetMs);
}

export const temporalBuiltins: readonly Builtin[] = [
  {
    name: 'date',
    clause: CONVERSION,
    partial: true,
    signatures: [
      { parameters: [parameter('from', text)], result: date },
      { parameters: [parameter('from', dateTime)], result: date },
      { parameters: [parameter('from', date)], result: date },
      { parameters: [parameter('year', number), parameter('month', number), parameter('day', number)], result: date },
    ],
    call: (given) => {
      const [from, month, day] = given;
      if (given.length === 1) return typeof from === 'string' ? readDate(from) : dayOf(from as Value);
      const parts = [integer(from), integer(month), integer(day)];
      return parts.includes(null) ? null : dateOf(...(parts as [number, number, number]));
    },
  },
  {
    name: 'time',
    clause: CONVERSION,
    partial: true,
    takesNull: true,
    signatures: [
      { parameters: [parameter('from', text)], result: time },
      { parameters: [parameter('from', dateTime)], result: time },
      { parameters: [parameter('from', time)], result: time },
      {
        parameters: [
          parameter('hour', number),
          parameter('minute', number),
          parameter('second', number),
          optional('offset', daysDuration),
        ],
        result: time,
      },
    ],
    call: (given) => (given[0] === null ? null : given.length === 1 ? toTime(given[0] as Value) : makeClock(given)),
  },
  {
    name: 'date and time',
    steps: 60,
    clause: CONVERSION,
    partial: true,
    signatures: [
      { parameters: [parameter('from', text)], result: dateTime },
      { parameters: [parameter('date', date), parameter('time', time)], result: dateTime },
      { parameters: [parameter('date', dateTime), parameter('time', time)], result: dateTime },
    ],
    call: ([from, clock], environment) =>
      typeof from === 'string'
        ? (readDateTime(from, environment.zone) ?? atMidnight(readDate(from), environment.zone))
        : joined(dayOf(from as Value), clock as TimeValue, environment.zone),
  },
  {
    name: 'duration',
    clause: CONVERSION,
    partial: true,
    signatures: [{ parameters: [parameter('from', text)], result: any }],
    call: ([from]) => readDuration(from as string),
  },
  {
    name: 'years and months duration',
    clause: CONVERSION,
    signatures: [
      { parameters: [parameter('from', date), parameter('to', date)], result: months },
      { parameters: [parameter('from', dateTime), parameter('to', dateTime)], result: months },
    ],
    call: ([from, to]) => {
      const [a, b] = [dayOf(from as Value), dayOf(to as Value)];
      return a && b && monthsDuration(monthsBetween(a, b));
    },
  },
  ofDay('day of year', number, (day) => exactInteger(day - dayNumber(civilOf(day).year, 1, 1) + 1)),
  ofDay('day of week', text, (day) => WEEKDAYS[weekdayOf(day) - 1] as string),
  ofDay('month of year', text, (day) => MONTHS[civilOf(day).month - 1] as string),
  ofDay('week of year', number, (day) => exactInteger(weekOf(day))),
  {
    name: 'now',
    clause: '10.3.4.8',
    signatures: [{ parameters: [], result: dateTime }],
    call: (_, environment) => makeDateTime(environment.now, environment.zone),
  },
  {
    name: 'today',
    clause: '10.3.4.8',
    signatures: [{ parameters: [], result: date }],
    call: (_, environment) => dayOfInstant(environment.now, environment.zone),
  },
];

const joined = (date: DateValue | null, time: TimeValue, zone: string): DateTimeValue | null =>
  date && joinDateTime(date, time, zone);
const atMidnight = (value: DateValue | null, zone: string): DateTimeValue | null =>
  value && joinDateTime(value, { kind: 'time', ms: 0, offsetMs: null }, zone);

/** What `value.name` reads of a temporal value (DMN 1.3, table 64); undefined when there is no such property. */
export function readProperty(value: Value, name: string): Value | undefined {
  if (value === null || typeof value !== 'object' || Array.isArray(value)) return undefined;
  const tagged = value as Extract<Value, { kind: string }>;
  if (tagged.kind === 'date') return civilProperty(tagged.day, name);
  if (tagged.kind === 'date-time') {
    const wall = wallClockOf(tagged);
    if (name === 'timezone') return tagged.zone;
    return civilProperty(wall.day, name) ?? clockProperty(wall.ms, wall.offsetMs, name);
  }
  if (tagged.kind === 'time') return clockProperty(tagged.ms, tagged.offsetMs, name);
  if (tagged.kind === 'months-duration') {
    if (name === 'years') return exactInteger(Math.trunc(tagged.months / 12));
    return name === 'months' ? exactInteger(tagged.months % 12) : undefined;
  }
  if (tagged.kind === 'days-duration') return durationProperty(tagged.ms, name);
  return undefined;
}

function civilProperty(day: number, name: string): Value | undefined {
  const civil = civilOf(day);
  if (name === 'year' || name === 'month' || name === 'day') return exactInteger(civil[name]);
  return name === 'weekday' ? exactInteger(weekdayOf(day)) : undefined;
}

function clockProperty(ms: number, offsetMs: number | null, name: string): Value | undefined {
  if (name === 'hour') return exactInteger(Math.floor(ms / 3_600_000));
  if (name === 'minute') return exactInteger(Math.floor(ms / 60_000) % 60);
  if (name === 'second') return exactInteger(Math.floor(ms / 1000) % 60);
  if (name === 'time offset') return offsetMs === null ? null : { kind: 'days-duration', ms: offsetMs };
  return name === 'timezone' ? null : undefined;
}

function durationProperty(ms: number, name: string): Value | undefined {
  if (name === 'days') return exactInteger(Math.trunc(ms / DAY_MS));
  if (name === 'hours') return exactInteger(Math.trunc(ms / 3_600_000) % 24);
  if (name === 'minutes') return exactInteger(Math.trunc(ms / 60_000) % 60);
  return name === 'seconds' ? exactInteger(Math.trunc(ms / 1000) % 60) : undefined;
}

/** Names and types of the properties above, for checking and completion. */
export const PROPERTIES: Readonly<Record<string, Readonly<Record<string, typeof number | typeof text | typeof daysDuration>>>> = {
  date: { year: number, month: number, day: number, weekday: number },
  time: { hour: number, minute: number, second: number, 'time offset': daysDuration, timezone: text },
  'date-time': {
    year: number,
    month: number,
    day: number,
    weekday: number,
    hour: number,
    minute: number,
    second: number,
    'time offset': daysDuration,
    timezone: text,
  },
  'days-duration': { days: number, hours: number, minutes: number, seconds: number },
  'months-duration': { years: number, months: number },
};
