import { Decimal as DecimalPackage } from 'decimal.js';

/**
 * Exact decimals as FEEL prescribes: IEEE 754 decimal128, 34 significant digits, round half even.
 * A number is a scaled integer (`coefficient / 10^scale`) while that integer is safe, and a `decimal.js` value beyond.
 */
export type Exact = {
  readonly kind: 'number';
  readonly coefficient: number;
  readonly scale: number;
  readonly big: DecimalPackage | null;
};

/** Number of significant digits that a decimal128 holds. */
export const PRECISION = 34;

/** decimal128: precision 34, emax 6144, smallest subnormal 1e-6176 (IEEE 754-2019, table 3.6). */
const Big = DecimalPackage.clone({
  precision: PRECISION,
  rounding: DecimalPackage.ROUND_HALF_EVEN,
  maxE: 6144,
  minE: -6176,
  toExpNeg: -7000,
  toExpPos: 7000,
});

/** Whether a sum or product of safe integers is one itself: beyond, a double would have been rounded. */
const isSafe = (integer: number): boolean => integer <= Number.MAX_SAFE_INTEGER && integer >= -Number.MAX_SAFE_INTEGER;

const MAX_SCALE = 15;
export const POWERS: readonly number[] = Array.from({ length: MAX_SCALE + 1 }, (_, power) => 10 ** power);

const small = (coefficient: number, scale: number): Exact => ({
  kind: 'number',
  coefficient: coefficient === 0 ? 0 : coefficient,
  scale,
  big: null,
});

function large(big: DecimalPackage): Exact | null {
  if (!big.isFinite()) return null;
  const places = big.decimalPlaces();
  if (places <= MAX_SCALE && big.e < 16) {
    const coefficient = big.times(POWERS[places] as number).toNumber();
    if (Number.isSafeInteger(coefficient)) return small(coefficient, places);
  }
  return { kind: 'number', coefficient: Number.NaN, scale: 0, big };
}

const toBig = (value: Exact): DecimalPackage => value.big ?? new Big(value.coefficient).div(POWERS[value.scale] as number);

export const ZERO = small(0, 0);
export const ONE = small(1, 0);

/** An integer as an exact decimal. The integer must be safe. */
export const exactInteger = (value: number): Exact => small(value, 0);

const DECIMAL = /^-?(?:\d+(?:\.\d+)?|\.\d+)(?:[eE][+-]?\d{1,5})?$/;

/** Reads `12`, `-3.50`, `.5`, `1e3`; null for anything else. More than 34 digits are rounded half even. */
export function readExact(text: string): Exact | null {
  const plain = readPlain(text);
  if (plain !== null || text.length > 7000 || !DECIMAL.test(text)) return plain;
  return large(new Big(text).toSignificantDigits(PRECISION));
}

/** Returns whether {@link readExact} would round a decimal, because it has more than 34 significant digits. */
export function isRounded(text: string): boolean {
  const digits = text
    .replace(/[eE].*$/, '')
    .replace(/[^\d]/g, '')
    .replace(/^0+|0+$/g, '');
  return digits.length > PRECISION;
}

const [ZERO_CODE, NINE_CODE, POINT_CODE, MINUS_CODE] = [48, 57, 46, 45] as const;
/** As many digits, sign and point as make a safe integer whatever they are. */
const MAX_PLAIN = 16;

/** Digits with a point or none, few enough for a safe integer, read in one pass; null for everything else. */
function readPlain(text: string): Exact | null {
  const { length } = text;
  if (length === 0 || length > MAX_PLAIN) return null;
  const first = text.charCodeAt(0) === MINUS_CODE ? 1 : 0;
  let coefficient = 0;
  let point = -1;
  for (let index = first; index < length; index++) {
    const code = text.charCodeAt(index);
    if (code >= ZERO_CODE && code <= NINE_CODE) coefficient = coefficient * 10 + (code - ZERO_CODE);
    else if (code === POINT_CODE && point < 0) point = index;
    else return null;
  }
  // A point needs a digit behind it, and there must be digits at all.
  if (point === length - 1 || first === length || coefficient > Number.MAX_SAFE_INTEGER) return null;
  return small(first === 1 ? -coefficient : coefficient, point < 0 ? 0 : length - point - 1);
}

/** Plain notation without trailing zeros: `1.5`, `-0.01`, `1000`. */
export function writeExact(value: Exact): string {
  if (value.big) return value.big.toFixed();
  if (value.scale === 0) return String(value.coefficient);
  const negative = value.coefficient < 0;
  const digits = String(Math.abs(value.coefficient)).padStart(value.scale + 1, '0');
  const whole = digits.slice(0, -value.scale);
  const fraction = digits.slice(-value.scale).replace(/0+$/, '');
  return `${negative ? '-' : ''}${whole}${fraction === '' ? '' : `.${fraction}`}`;
}

/** Plain notation with exactly `scale` places; rounds half even. */
export function writeFixed(value: Exact, scale: number): string {
  if (value.big === null && scale >= 0 && scale <= MAX_SCALE) {
    let { coefficient, scale: places } = value;
    for (; places > scale && coefficient % 10 === 0; places -= 1) coefficient /= 10;
    const scaled = places <= scale ? coefficient * (POWERS[scale - places] as number) : Number.NaN;
    if (isSafe(scaled)) return writePlaces(scaled, scale);
  }
  return toBig(value).toFixed(scale);
}

function writePlaces(coefficient: number, scale: number): string {
  if (scale === 0) return String(coefficient);
  const digits = String(Math.abs(coefficient)).padStart(scale + 1, '0');
  return `${coefficient < 0 ? '-' : ''}${digits.slice(0, -scale)}.${digits.slice(-scale)}`;
}

/** Negative, zero or positive as `a` is below, equal to or above `b`. */
export function compareExact(a: Exact, b: Exact): number {
  if (a.big === null && b.big === null) {
    if (a.scale === b.scale) return a.coefficient - b.coefficient;
    const left = a.scale < b.scale ? a.coefficient * (POWERS[b.scale - a.scale] as number) : a.coefficient;
    const right = b.scale < a.scale ? b.coefficient * (POWERS[a.scale - b.scale] as number) : b.coefficient;
    if (isSafe(left) && isSafe(right)) return left - right;
  }
  return toBig(a).comparedTo(toBig(b));
}

export const negateExact = (value: Exact): Exact =>
  value.big ? ({ ...value, big: value.big.negated() } as Exact) : small(-value.coefficient, value.scale);

export function addExact(a: Exact, b: Exact): Exact | null {
  if (a.big === null && b.big === null) {
    if (a.scale === b.scale) {
      const sum = a.coefficient + b.coefficient;
      if (isSafe(sum)) return small(sum, a.scale);
    } else {
      const scale = Math.max(a.scale, b.scale);
      const left = a.coefficient * (POWERS[scale - a.scale] as number);
      const right = b.coefficient * (POWERS[scale - b.scale] as number);
      const sum = left + right;
      if (isSafe(left) && isSafe(right) && isSafe(sum)) return small(sum, scale);
    }
  }
  return large(toBig(a).plus(toBig(b)));
}

export function subtractExact(a: Exact, b: Exact): Exact | null {
  if (a.big === null && b.big === null && a.scale === b.scale) {
    const difference = a.coefficient - b.coefficient;
    if (isSafe(difference)) return small(difference, a.scale);
  }
  return addExact(a, negateExact(b));
}

export function multiplyExact(a: Exact, b: Exact): Exact | null {
  if (a.big === null && b.big === null) {
    const product = a.coefficient * b.coefficient;
    const scale = a.scale + b.scale;
    if (scale <= MAX_SCALE && isSafe(product)) return small(product, scale);
  }
  return large(toBig(a).times(toBig(b)));
}

/** Null for division by zero, as FEEL says. */
export const divideExact = (a: Exact, b: Exact): Exact | null =>
  compareExact(b, ZERO) === 0 ? null : large(toBig(a).div(toBig(b)));

/** Powers with whole exponents to 6,144 and any other the package can compute; null where there is none. */
export function powerExact(a: Exact, b: Exact): Exact | null {
  const exponent = toBig(b);
  if (exponent.abs().greaterThan(6144)) return null;
  if (compareExact(a, ZERO) === 0 && exponent.isNegative()) return null;
  const power = toBig(a).pow(exponent);
  return power.isNaN() ? null : large(power);
}

export type Rounding = 'half-even' | 'half-up' | 'half-down' | 'up' | 'down' | 'floor' | 'ceiling';

const ROUNDINGS = {
  'half-even': DecimalPackage.ROUND_HALF_EVEN,
  'half-up': DecimalPackage.ROUND_HALF_UP,
  'half-down': DecimalPackage.ROUND_HALF_DOWN,
  up: DecimalPackage.ROUND_UP,
  down: DecimalPackage.ROUND_DOWN,
  floor: DecimalPackage.ROUND_FLOOR,
  ceiling: DecimalPackage.ROUND_CEIL,
} as const satisfies Record<Rounding, number>;

/** Rounds to `scale` places (negative: to tens, hundreds …). Null outside the scales of decimal128. */
export function roundExact(value: Exact, scale: number, rounding: Rounding): Exact | null {
  if (!Number.isInteger(scale) || scale < -6111 || scale > 6176) return null;
  if (value.big === null && scale >= value.scale) return value;
  if (scale < 0) {
    const unit = new Big(10).pow(-scale);
    return large(toBig(value).div(unit).toDecimalPlaces(0, ROUNDINGS[rounding]).times(unit));
  }
  return large(toBig(value).toDecimalPlaces(scale, ROUNDINGS[rounding]));
}

export const squareRootExact = (value: Exact): Exact | null =>
  compareExact(value, ZERO) < 0 ? null : large(toBig(value).sqrt());
export const exponentialExact = (value: Exact): Exact | null =>
  toBig(value).abs().greaterThan(14200) ? null : large(toBig(value).exp());
export const logarithmExact = (value: Exact): Exact | null => (compareExact(value, ZERO) <= 0 ? null : large(toBig(value).ln()));

/** The remainder with the sign of the divisor, as FEEL's `modulo` defines it: a - b * floor(a / b). */
export function moduloExact(a: Exact, b: Exact): Exact | null {
  if (compareExact(b, ZERO) === 0) return null;
  const divisor = toBig(b);
  const remainder = toBig(a).mod(divisor);
  return large(remainder.isZero() || remainder.isNegative() === divisor.isNegative() ? remainder : remainder.plus(divisor));
}

/** The number of decimal places that are not trailing zeros. */
export function placesOf(value: Exact): number {
  if (value.big) return value.big.decimalPlaces();
  let { coefficient, scale } = value;
  while (scale > 0 && coefficient % 10 === 0) {
    coefficient /= 10;
    scale -= 1;
  }
  return scale;
}

/** The value as a safe integer, or null when it isn't one. */
export function findInteger(value: Exact): number | null {
  if (value.big) return null;
  const whole = value.coefficient / (POWERS[value.scale] as number);
  return Number.isSafeInteger(whole) ? whole : null;
}

/** The nearest double: for drawing and charts only, never for deciding. */
export const approximate = (value: Exact): number => value.big?.toNumber() ?? value.coefficient / (POWERS[value.scale] as number);
