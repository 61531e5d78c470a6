import { addExact, compareExact, type Exact, multiplyExact, readExact } from '@ypomet/core';
import Big from 'big.js';
import { Decimal } from 'decimal.js';
import { rate } from './measure.ts';
import { makeRandom } from './random.ts';
import type { Line } from './report.ts';

const AMOUNTS = 10_000;

/** Adds, multiplies and compares amounts of money with cents: `total = total + amount * 3` while below a limit. */
export function benchMoney(): readonly Line[] {
  const random = makeRandom(11);
  const texts = Array.from({ length: AMOUNTS }, () => (Math.floor(random() * 100_000) / 100).toFixed(2));
  const doubles = texts.map(Number);
  const exacts = texts.map((text) => readExact(text) as Exact);
  const bigs = texts.map((text) => new Big(text));
  const decimals = texts.map((text) => new Decimal(text));
  const three = readExact('3') as Exact;
  const limit = readExact('1000000000000') as Exact;
  const bigLimit = new Big('1000000000000');
  const decimalLimit = new Decimal('1000000000000');
  let kept: unknown = null;

  const ours = (): void => {
    let total = readExact('0.00') as Exact;
    for (const amount of exacts) {
      const more = addExact(total, multiplyExact(amount, three) as Exact) as Exact;
      if (compareExact(more, limit) < 0) total = more;
    }
    kept = total;
  };
  const withDoubles = (): void => {
    let total = 0;
    for (const amount of doubles) {
      const more = total + amount * 3;
      if (more < 1e12) total = more;
    }
    kept = total;
  };
  /** As doubles must be handled so that cents don't go astray. */
  const withRounding = (): void => {
    let total = 0;
    for (const amount of doubles) {
      const more = Math.round((total + amount * 3) * 100) / 100;
      if (more < 1e12) total = more;
    }
    kept = total;
  };
  const withBig = (): void => {
    let total = new Big(0);
    for (const amount of bigs) {
      const more = total.plus(amount.times(3));
      if (more.lt(bigLimit)) total = more;
    }
    kept = total;
  };
  const withDecimal = (): void => {
    let total = new Decimal(0);
    for (const amount of decimals) {
      const more = total.plus(amount.times(3));
      if (more.lt(decimalLimit)) total = more;
    }
    kept = total;
  };
  const lines: readonly Line[] = [
    { what: 'exact decimals', perSecond: rate(AMOUNTS * 20, () => repeat(20, ours)) },
    { what: 'doubles', perSecond: rate(AMOUNTS * 20, () => repeat(20, withDoubles)) },
    { what: 'doubles, rounded to cents', perSecond: rate(AMOUNTS * 20, () => repeat(20, withRounding)) },
    { what: 'big.js', perSecond: rate(AMOUNTS, withBig) },
    { what: 'decimal.js', perSecond: rate(AMOUNTS, withDecimal) },
  ];
  if (kept === null) throw new Error('nothing was reckoned');
  return lines;
}

function repeat(times: number, run: () => void): void {
  for (let index = 0; index < times; index++) run();
}
