import { compareExact, type Exact, POWERS } from '../values/exact.ts';
import type { Truth } from '../values/value.ts';
import type { Frame } from './frame.ts';
import type { ComparisonOperator } from './tree.ts';

/**
 * The sign of a number's difference from a literal, by far the most frequent comparison. As a rule it is one subtraction of
 * two integers: the literal is brought to the number's scale. Nothing but the literal is kept for each comparison: with
 * thousands of them, memory takes longer than reckoning.
 */
function differenceFrom(value: Exact, literal: Exact): number {
  const shift = value.scale - literal.scale;
  if (value.big === null && literal.big === null && shift >= 0) {
    const target = literal.coefficient * (POWERS[shift] as number);
    if (target <= Number.MAX_SAFE_INTEGER && target >= -Number.MAX_SAFE_INTEGER) return value.coefficient - target;
  }
  return compareExact(value, literal);
}

/** A number against a literal. */
export function compileNumberTest(
  operator: ComparisonOperator,
  left: (frame: Frame) => Exact | null,
  literal: Exact,
): (frame: Frame) => Truth {
  switch (operator) {
    case '=':
      return (frame) => {
        const value = left(frame);
        return value !== null && differenceFrom(value, literal) === 0;
      };
    case '!=':
      return (frame) => {
        const value = left(frame);
        return value === null || differenceFrom(value, literal) !== 0;
      };
    case '<':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : differenceFrom(value, literal) < 0;
      };
    case '<=':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : differenceFrom(value, literal) <= 0;
      };
    case '>':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : differenceFrom(value, literal) > 0;
      };
    case '>=':
      return (frame) => {
        const value = left(frame);
        return value === null ? null : differenceFrom(value, literal) >= 0;
      };
    default:
      return operator satisfies never;
  }
}
