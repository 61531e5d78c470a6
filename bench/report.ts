/** One thing measured, by how many a second. The first line of a table is ours. */
export type Line = { readonly what: string; readonly perSecond: number };

/** One thing measured against a bar of our own: a time, a size, a growth. */
export type Figure = { readonly what: string; readonly value: number; readonly unit: string; readonly bar: string };

const column = (text: string): string => text.padEnd(44);
const whole = (value: number): string => Math.round(value).toLocaleString('en').padStart(14);

/** Prints a table of rates, each with how many times faster ours is. */
export function printLines(title: string, lines: readonly Line[]): void {
  const [ours] = lines;
  process.stdout.write(`\n${title}, a second\n`);
  for (const { what, perSecond } of lines) {
    const times = (ours?.perSecond ?? 0) / perSecond;
    process.stdout.write(`${column(what)}${whole(perSecond)}   ${times.toFixed(times < 100 ? 2 : 0)}x\n`);
  }
}

/** Prints figures beside their bars. */
export function printFigures(title: string, figures: readonly Figure[]): void {
  process.stdout.write(`\n${title}\n`);
  for (const { what, value, unit, bar } of figures) {
    const digits = value >= 100 ? 0 : value >= 1 ? 2 : 4;
    process.stdout.write(`${column(what)}${value.toFixed(digits).padStart(14)} ${unit.padEnd(10)} ${bar}\n`);
  }
}
