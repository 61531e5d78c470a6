import { compareExact, type Exact, POWERS } from '../values/exact.ts';
import type { Truth } from '../values/value.ts';
import type { Frame } from './frame.ts';
import type { ComparisonOperator } from './tree.ts';

/**
 * A number against a literal, by far the most frequent comparison. The literal is scaled once per scale met, so that
 * the usual case is one comparison of two integers.
 */
export function compileNumberTest(
  operator: ComparisonOperator,
  left: (frame: Frame) => Exact | null,
  literal: Exact,
): (frame: Frame) => Truth {
  const scaled = POWERS.map((_, scale) => scaleLiteral(literal, scale));
  const difference = (value: Exact): number => {
    const target = value.big === null ? (scaled[value.scale] as number) : Number.NaN;
    return Number.isNaN(target) ? compareExact(value, literal) : value.coefficient - target;
  };
  switch (operator) {
    case '=':
      return (frame) => {
        const value = left(frame);
        return value === null ? false : difference(value) === 0;
      };
    case '!=':
      return (frame) => {
        const value = left(frame);
        return value === null ? true : difference(value) !== 0;
      };
    case '<':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : difference(value) < 0;
      };
    case '<=':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : difference(value) <= 0;
      };
    case '>':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : difference(value) > 0;
      };
    case '>=':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : difference(value) >= 0;
      };
    default:
      return operator satisfies never;
  }
}

function scaleLiteral(literal: Exact, scale: number): number {
  if (literal.big !== null || scale < literal.scale) return Number.NaN;
  const scaled = literal.coefficient * (POWERS[scale - literal.scale] as number);
  return Number.isSafeInteger(scaled) ? scaled : Number.NaN;
}

/** As {@link compileNumberTest}, for a field: reads its slot itself, written out so that a comparison is one call. */
export function compileSlotTest(operator: ComparisonOperator, slot: number, literal: Exact): (frame: Frame) => Truth {
  const scaled = POWERS.map((_, scale) => scaleLiteral(literal, scale));
  switch (operator) {
    case '=':
      return (frame) => {
        const value = frame.slots[slot] as Exact | null;
        if (value === null) return false;
        const target = value.big === null ? (scaled[value.scale] as number) : Number.NaN;
        return Number.isNaN(target) ? compareExact(value, literal) === 0 : value.coefficient === target;
      };
    case '!=':
      return (frame) => {
        const value = frame.slots[slot] as Exact | null;
        if (value === null) return true;
        const target = value.big === null ? (scaled[value.scale] as number) : Number.NaN;
        return Number.isNaN(target) ? compareExact(value, literal) !== 0 : value.coefficient !== target;
      };
    case '<':
      return (frame) => {
        const value = frame.slots[slot] as Exact | null;
        if (value === null) return null;
        const target = value.big === null ? (scaled[value.scale] as number) : Number.NaN;
        return Number.isNaN(target) ? compareExact(value, literal) < 0 : value.coefficient < target;
      };
    case '<=':
      return (frame) => {
        const value = frame.slots[slot] as Exact | null;
        if (value === null) return null;
        const target = value.big === null ? (scaled[value.scale] as number) : Number.NaN;
        return Number.isNaN(target) ? compareExact(value, literal) <= 0 : value.coefficient <= target;
      };
    case '>':
      return (frame) => {
        const value = frame.slots[slot] as Exact | null;
        if (value === null) return null;
        const target = value.big === null ? (scaled[value.scale] as number) : Number.NaN;
        return Number.isNaN(target) ? compareExact(value, literal) > 0 : value.coefficient > target;
      };
    case '>=':
      return (frame) => {
        const value = frame.slots[slot] as Exact | null;
        if (value === null) return null;
        const target = value.big === null ? (scaled[value.scale] as number) : Number.NaN;
        return Number.isNaN(target) ? compareExact(value, literal) >= 0 : value.coefficient >= target;
      };
    default:
      return operator satisfies never;
  }
}
