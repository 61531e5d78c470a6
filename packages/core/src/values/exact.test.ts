import { describe, expect, test } from '@jest/globals';
import { Decimal } from 'decimal.js';
import fc from 'fast-check';
import {
  addExact,
  compareExact,
  divideExact,
  type Exact,
  exactInteger,
  findInteger,
  moduloExact,
  multiplyExact,
  placesOf,
  powerExact,
  readExact,
  roundExact,
  squareRootExact,
  writeExact,
  writeFixed,
} from './exact.ts';

const exact = (text: string): Exact => {
  const value = readExact(text);
  if (!value) throw new Error(`not a decimal: ${text}`);
  return value;
};
const shown = (value: Exact | null): string | null => value && writeExact(value);

describe('decimals are exact', () => {
  test.each([
    ['0.1', '0.2', '0.3'],
    ['1.005', '1.005', '2.01'],
    ['9007199254740991', '1', '9007199254740992'],
    ['9007199254740991', '9007199254740991', '18014398509481982'],
    ['-0.01', '0.01', '0'],
    ['999999999999.99', '0.01', '1000000000000'],
    ['0.000000000000001', '1', '1.000000000000001'],
    ['1e20', '1', '100000000000000000001'],
  ])('%s + %s = %s', (a, b, sum) => {
    expect(shown(addExact(exact(a), exact(b)))).toBe(sum);
    expect(shown(addExact(exact(b), exact(a)))).toBe(sum);
  });

  test.each([
    ['3', '333.33', '999.99'],
    ['0.1', '0.1', '0.01'],
    ['-1.5', '1.5', '-2.25'],
    ['94906267', '94906267', '9007199515875289'],
    ['123456789.123456789', '987654321.987654321', '121932631356500531.3472031691126353'],
  ])('%s × %s = %s', (a, b, product) => {
    expect(shown(multiplyExact(exact(a), exact(b)))).toBe(product);
  });

  test('3 × 333.33 + 0.01 reaches 1,000 exactly', () => {
    const product = multiplyExact(exact('3'), exact('333.33')) as Exact;
    const sum = addExact(product, exact('0.01')) as Exact;
    expect(compareExact(sum, exact('1000'))).toBe(0);
  });

  test('ten thousand cents are a hundred', () => {
    let total = exact('0');
    for (let index = 0; index < 10_000; index++) total = addExact(total, exact('0.01')) as Exact;
    expect(writeExact(total)).toBe('100');
  });
});

describe('decimal128 (IEEE 754-2019): 34 digits, round half even', () => {
  test.each([
    ['1', '3', '0.3333333333333333333333333333333333'],
    ['2', '3', '0.6666666666666666666666666666666667'],
    ['10', '4', '2.5'],
    ['-7', '2', '-3.5'],
  ])('%s / %s = %s', (a, b, quotient) => {
    expect(shown(divideExact(exact(a), exact(b)))).toBe(quotient);
  });

  test('dividing by zero gives nothing', () => {
    expect(divideExact(exact('1'), exact('0'))).toBeNull();
    expect(divideExact(exact('1'), exact('0.00'))).toBeNull();
  });

  test('the 35th digit is rounded half even', () => {
    expect(writeExact(exact('1.0000000000000000000000000000000005'))).toBe('1');
    expect(writeExact(exact('1.0000000000000000000000000000000015'))).toBe('1.000000000000000000000000000000002');
  });

  test('what is beyond the greatest exponent is nothing', () => {
    const huge = powerExact(exact('10'), exact('6000')) as Exact;
    expect(multiplyExact(huge, huge)).toBeNull();
    expect(powerExact(exact('10'), exact('100000'))).toBeNull();
    expect(powerExact(exact('0'), exact('-1'))).toBeNull();
  });
});

describe('rounding', () => {
  test.each([
    ['2.5', 0, 'half-even', '2'],
    ['3.5', 0, 'half-even', '4'],
    ['2.5', 0, 'half-up', '3'],
    ['-2.5', 0, 'half-up', '-3'],
    ['2.5', 0, 'half-down', '2'],
    ['2.1', 0, 'up', '3'],
    ['-2.1', 0, 'up', '-3'],
    ['2.9', 0, 'down', '2'],
    ['-2.1', 0, 'floor', '-3'],
    ['-2.9', 0, 'ceiling', '-2'],
    ['1234.5', -2, 'half-even', '1200'],
    ['1.005', 2, 'half-even', '1'],
    ['1.015', 2, 'half-even', '1.02'],
  ] as const)('%s to %d places, %s: %s', (value, scale, how, expected) => {
    expect(shown(roundExact(exact(value), scale, how))).toBe(expected);
  });

  test('a scale that decimal128 has not gives nothing', () => {
    expect(roundExact(exact('1'), 7000, 'half-even')).toBeNull();
    expect(roundExact(exact('1'), 0.5, 'half-even')).toBeNull();
  });
});

describe('reading and writing', () => {
  test.each(['', ' 1', '1.', '+1', '1,5', '0x10', 'NaN', 'Infinity', '1e', '--1', '1_000', '１'])(
    '“%s” is no decimal',
    (text) => {
      expect(readExact(text)).toBeNull();
    },
  );

  test.each([
    ['007.50', '7.5'],
    ['.5', '0.5'],
    ['-0', '0'],
    ['-0.00', '0'],
    ['1e3', '1000'],
    ['1.50E-2', '0.015'],
    ['100', '100'],
  ])('%s is written %s', (text, written) => {
    expect(writeExact(exact(text))).toBe(written);
  });

  test('fixed places pad and round half even', () => {
    expect(writeFixed(exact('1.5'), 2)).toBe('1.50');
    expect(writeFixed(exact('1.005'), 2)).toBe('1.00');
    expect(writeFixed(exact('-3'), 2)).toBe('-3.00');
  });

  test('places count without trailing zeros', () => {
    expect(placesOf(exact('1.50'))).toBe(1);
    expect(placesOf(exact('3'))).toBe(0);
    expect(placesOf(exact('0.0000000000000000001'))).toBe(19);
  });

  test('only whole safe numbers are integers', () => {
    expect(findInteger(exact('5.00'))).toBe(5);
    expect(findInteger(exact('5.01'))).toBeNull();
    expect(findInteger(exact('9007199254740993'))).toBeNull();
  });

  test('the remainder has the sign of the divisor (DMN 1.3, 10.3.4.5)', () => {
    expect(shown(moduloExact(exact('-12'), exact('5')))).toBe('3');
    expect(shown(moduloExact(exact('12'), exact('-5')))).toBe('-3');
    expect(shown(moduloExact(exact('10.1'), exact('4.5')))).toBe('1.1');
    expect(moduloExact(exact('1'), exact('0'))).toBeNull();
  });

  test('roots of negative numbers are nothing', () => {
    expect(squareRootExact(exact('-1'))).toBeNull();
    expect(shown(squareRootExact(exact('16')))).toBe('4');
  });
});

// The reference is the decimal.js package set to decimal128's precision and rounding.
const Reference = Decimal.clone({ precision: 34, rounding: Decimal.ROUND_HALF_EVEN, toExpNeg: -7000, toExpPos: 7000 });
const decimalText = fc
  .tuple(fc.bigInt({ min: -(10n ** 22n), max: 10n ** 22n }), fc.integer({ min: 0, max: 12 }))
  .map(([digits, scale]) => {
    const text = String(digits < 0n ? -digits : digits).padStart(scale + 1, '0');
    const point = text.length - scale;
    return `${digits < 0n ? '-' : ''}${text.slice(0, point)}${scale > 0 ? `.${text.slice(point)}` : ''}`;
  });

describe('scaled integers agree with the reference', () => {
  test.each([
    ['addition', addExact, 'plus'],
    ['multiplication', multiplyExact, 'times'],
    ['division', divideExact, 'div'],
  ] as const)('%s', (_name, ours, theirs) => {
    fc.assert(
      fc.property(decimalText, decimalText, (a, b) => {
        fc.pre(theirs !== 'div' || Number(b) !== 0);
        const expected = new Reference(a)[theirs](b);
        expect(shown(ours(exact(a), exact(b)))).toBe(expected.toFixed().replace(/^-0$/, '0'));
      }),
      { numRuns: 500 },
    );
  });

  test('order', () => {
    fc.assert(
      fc.property(decimalText, decimalText, (a, b) => {
        expect(Math.sign(compareExact(exact(a), exact(b)))).toBe(new Reference(a).comparedTo(b));
      }),
      { numRuns: 500 },
    );
  });

  test('reading back what was written', () => {
    fc.assert(
      fc.property(decimalText, (text) => {
        expect(compareExact(exact(writeExact(exact(text))), exact(text))).toBe(0);
      }),
    );
  });

  test('integers', () => {
    fc.assert(
      fc.property(fc.maxSafeInteger(), (value) => {
        expect(findInteger(exactInteger(value))).toBe(value === 0 ? 0 : value);
      }),
    );
  });
});

// The reference: decimal.js 10.6.0, toFixed and decimalPlaces, halves to even.
test('fixed places and the count of places are those of decimal.js', () => {
  const Reference = Decimal.clone({ precision: 40, rounding: Decimal.ROUND_HALF_EVEN });
  const texts = fc
    .tuple(fc.constantFrom('', '-'), fc.bigInt({ min: 0n, max: 10n ** 20n }), fc.stringMatching(/^\d{0,12}0{0,3}$/))
    .map(([sign, whole, fraction]) => `${sign}${whole}${fraction === '' ? '' : `.${fraction}`}`);
  fc.assert(
    fc.property(texts, fc.nat({ max: 12 }), (text, scale) => {
      const reference = new Reference(text);
      const written = reference.toFixed(scale);
      // A rounded zero has no sign here.
      expect(writeFixed(exact(text), scale).replace(/^-(0(?:\.0*)?)$/, '$1')).toBe(written.replace(/^-(0(?:\.0*)?)$/, '$1'));
      expect(placesOf(exact(text))).toBe(reference.decimalPlaces());
    }),
    { numRuns: 2000 },
  );
});
