import { expect, test } from '@jest/globals';
import { EMPTY_SCOPE, ENVIRONMENT } from '@ypomet/testkit/evaluate';
import fc from 'fast-check';
import { listAllBuiltins } from '../expressions/builtins/registry.ts';
import { checkExpression } from '../expressions/check.ts';
import { compileExpression } from '../expressions/compile.ts';
import { explainExpression } from '../expressions/explain.ts';
import { makeFrame } from '../expressions/frame.ts';
import { parseExpression } from '../expressions/parse.ts';
import { writeZonedDateTime } from '../values/temporal.ts';
import { writeText } from '../values/text.ts';
import { isList, type Value } from '../values/value.ts';
import { ORDINARY_CALENDAR } from '../values/working-calendar.ts';
import { dueInstant, dueValue, offsetFrom } from './due.ts';

// Tries dates, times and durations at the ends of their ranges: the years 1 and 9999, the widest offsets, the largest amounts. Nothing throws.

const ZONES = [
  'UTC',
  'Europe/Vienna',
  'Pacific/Kiritimati',
  'Pacific/Niue',
  'Asia/Kolkata',
  'Africa/Monrovia',
  '+18:00',
  '-18:00',
];
const DATES = ['0001-01-01', '0001-01-02', '1582-10-15', '1893-04-01', '2024-02-29', '9999-12-30', '9999-12-31'];
const TIMES = ['00:00:00', '00:00:00+18:00', '12:00:00', '23:59:59.999', '23:59:59-18:00'];

/** Literals of each type at the ends of its range. */
const ENDS: Readonly<Record<string, readonly string[]>> = {
  date: DATES.map((day) => `@"${day}"`),
  time: TIMES.map((time) => `@"${time}"`),
  'date-time': [
    ...DATES.flatMap((day) => [`@"${day}T00:00:00Z"`, `@"${day}T23:59:59"`]),
    ...ZONES.slice(0, 6).map((zone) => `date and time("9999-12-31T23:59:59@${zone === 'UTC' ? 'Etc/UTC' : zone}")`),
    'now()',
  ],
  'days-duration': ['@"P0D"', '@"P1D"', '-@"P1D"', '@"P3652058D"', '@"-P999999999D"', '@"PT0.001S"'],
  'months-duration': ['@"P0M"', '@"P1M"', '@"-P1M"', '@"P9998Y"', '@"-P999999999Y"'],
  number: ['0', '-1', '1', '0.5', '10000', '-10000', '99999999999999999999999999999999999', '1e6144', '-1e-6176'],
  text: ['""', '"x"', ...DATES.map((day) => `"${day}"`), '"9999-12-31T23:59:59-18:00"', '"P99999999999Y"'],
  boolean: ['true', 'false'],
};
const OPERATORS = ['+', '-', '*', '/', '<', '<=', '=', 'in'];
const anyValue = fc.constantFrom(...Object.values(ENDS).flat());
const calls = listAllBuiltins().flatMap(({ name, signatures }) =>
  signatures
    .filter(({ parameters }) => parameters.some(({ type }) => /date|time|duration/.test(type.kind)) || name.startsWith('date'))
    .map(({ parameters }) =>
      fc
        .tuple(...parameters.map(({ type }) => fc.constantFrom(...(ENDS[type.kind] ?? ['null']))))
        .map((given) => `${name}(${given.join(', ')})`),
    ),
);
const expression = fc.oneof(
  ...calls,
  fc.tuple(anyValue, fc.constantFrom(...OPERATORS), anyValue).map(([a, operator, b]) => `${a} ${operator} ${b}`),
  fc
    .tuple(
      fc.constantFrom(...(ENDS['date-time'] ?? [])),
      fc.constantFrom('year', 'hour', 'weekday', 'date', 'time', 'time offset', 'timezone'),
    )
    .map(([at, part]) => `${at}.${part}`),
);

/** Writes a value as text, which must not throw either. */
function write(value: Value): void {
  if (isList(value)) value.forEach(write);
  else if (value !== null && typeof value === 'object' && value.kind === 'date-time') writeZonedDateTime(value);
  writeText(value);
}

test('every function and operator of dates and times has a value there, or is unknown', () => {
  let decided = 0;
  fc.assert(
    fc.property(expression, fc.constantFrom(...ZONES), (text, zone) => {
      const parsed = parseExpression(text);
      const checked = parsed.ok ? checkExpression(parsed.value, EMPTY_SCOPE) : null;
      if (!checked || checked.diagnostics.length > 0) return;
      const environment = { ...ENVIRONMENT, zone };
      const value = compileExpression(checked)(makeFrame([], environment));
      expect(explainExpression(checked, makeFrame([], environment)).value).toEqual(value);
      write(value);
      if (value !== null) decided += 1;
    }),
    { numRuns: 6000 },
  );
  expect(decided).toBeGreaterThan(1000);
});

test('a due date at either end is due at a moment that can be written, or at none; so are its reminders', () => {
  const moments = DATES.flatMap((day) => [day, `${day}T00:00:00Z`, `${day}T23:59:59Z`]);
  const units = ['minutes', 'hours', 'days', 'working-days', 'working-hours'] as const;
  for (const zone of ZONES)
    for (const due of moments) {
      const isWithin = (ms: number | null): boolean => ms === null || /^\d{4}-/.test(new Date(ms).toISOString());
      expect(isWithin(dueInstant(due, zone))).toBe(true);
      write(dueValue(due, zone));
      for (const unit of units)
        for (const side of ['before', 'after'] as const)
          for (const count of [0, 1, 10_000]) {
            const moment = offsetFrom(due, { count, unit, side }, 'end', { zone, calendar: ORDINARY_CALENDAR });
            expect(isWithin(moment)).toBe(true);
          }
    }
});
