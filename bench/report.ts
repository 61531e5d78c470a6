import { type Runner, rates } from './measure.ts';

/** What a figure should be; null where it is only told. */
export type Bar = { readonly below: number } | { readonly above: number } | null;

export type Figure = { readonly what: string; readonly value: number; readonly unit: string; readonly bar: Bar };

/** A figure in milliseconds, to be below a bar where there is one. */
export const milliseconds = (what: string, value: number, below: number | null): Figure => ({
  what,
  value,
  unit: 'ms',
  bar: below === null ? null : { below },
});

/** A peer, by how many a second it does, and how many times as fast as it ours should be. The first of a list is ours. */
export type Line = { readonly what: string; readonly perSecond: number; readonly times?: Bar };

/** The lines of several that run side by side. */
export function measureLines(peers: readonly (Runner & Omit<Line, 'perSecond'>)[]): readonly Line[] {
  const found = rates(peers);
  return peers.map(({ what, times }, index) => ({ what, perSecond: found[index] ?? 0, times: times ?? null }));
}

const column = (text: string): string => text.padEnd(50);
const whole = (value: number): string => Math.round(value).toLocaleString('en').padStart(14);
const digits = (value: number): string => value.toFixed(value >= 100 ? 0 : value >= 1 ? 2 : 4);

const isMet = (value: number, bar: Bar): boolean | null =>
  bar === null ? null : 'below' in bar ? value < bar.below : value > bar.above;

function verdict(value: number, bar: Bar): string {
  if (bar === null) return '';
  const wanted = 'below' in bar ? `below ${bar.below.toLocaleString('en')}` : `above ${bar.above.toLocaleString('en')}`;
  return `${wanted}: ${isMet(value, bar) ? 'met' : 'NOT MET'}`;
}

/** A figure as it is written down: with its bar, and whether that is met. */
export type Written = { readonly value: number; readonly unit: string; readonly bar: Bar; readonly met: boolean | null };
export const written = ({ value, unit, bar }: Figure): Written => ({ value, unit, bar, met: isMet(value, bar) });

/** How many times as fast as each peer ours is. */
export function ratiosOf([ours, ...peers]: readonly Line[]): readonly Figure[] {
  return peers.map(({ what, perSecond, times }) => ({
    what: `times as fast as ${what}`,
    value: (ours?.perSecond ?? 0) / perSecond,
    unit: 'times',
    bar: times ?? null,
  }));
}

/** Prints a table of rates, each with how many times as fast ours is. */
export function printLines(title: string, lines: readonly Line[]): void {
  const [ours] = lines;
  process.stdout.write(`\n${title}, a second\n`);
  for (const { what, perSecond, times } of lines) {
    const ratio = (ours?.perSecond ?? 0) / perSecond;
    process.stdout.write(`${column(what)}${whole(perSecond)} ${digits(ratio).padStart(9)}x ${verdict(ratio, times ?? null)}\n`);
  }
}

/** Prints figures beside their bars. */
export function printFigures(title: string, figures: readonly Figure[]): void {
  process.stdout.write(`\n${title}\n`);
  for (const { what, value, unit, bar } of figures)
    process.stdout.write(`${column(what)}${digits(value).padStart(14)} ${unit.padEnd(10)} ${verdict(value, bar)}\n`);
}
