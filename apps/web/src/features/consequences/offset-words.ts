import type { Offset } from '@ypomet/core';

const UNITS: Readonly<Record<Offset['unit'], readonly [one: string, many: string]>> = {
  minutes: ['minute', 'minutes'],
  hours: ['hour', 'hours'],
  days: ['day', 'days'],
  'working-hours': ['working hour', 'working hours'],
  'working-days': ['working day', 'working days'],
};
export const OFFSET_UNITS = Object.entries(UNITS).map(([value, [, label]]) => ({ value: value as Offset['unit'], label }));

/** "2 working days before it is due", "when it is due". */
export function sayOffset({ count, unit, side }: Offset): string {
  if (count === 0) return unit.endsWith('days') ? 'on the day it is due' : 'when it is due';
  const [one, many] = UNITS[unit];
  return `${count} ${count === 1 ? one : many} ${side} it is due`;
}
