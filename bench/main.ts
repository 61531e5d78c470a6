import { writeFileSync } from 'node:fs';
import os from 'node:os';
import { benchConditions } from './conditions.ts';
import { benchForms } from './forms.ts';
import { benchHandOffs } from './hand-offs.ts';
import { benchInBrowser } from './in-browser.ts';
import { benchMoney, benchMoneyConditions } from './money.ts';
import { benchParsing } from './parsing.ts';
import { benchParticipants } from './participants.ts';
import { benchRegisters } from './registers.ts';
import { type Figure, type Line, printFigures, printLines, ratiosOf, written } from './report.ts';
import { benchRouting } from './routing.ts';

const machine = `${os.cpus()[0]?.model ?? 'unknown'}, ${os.cpus().length} cores, Node ${process.versions.node}`;
process.stdout.write(`\nMachine: ${machine}. Medians of 7 rounds, in each of which all peers run in turn.\n`);

const results: Record<string, unknown> = { machine };
const keep = (name: string, figures: readonly Figure[]): void => {
  results[name] = Object.fromEntries(figures.map((figure) => [figure.what, written(figure)]));
};
const table = (name: string, title: string, lines: readonly Line[]): void => {
  printLines(title, lines);
  keep(name, ratiosOf(lines));
};
const figures = (name: string, title: string, found: readonly Figure[]): void => {
  printFigures(title, found);
  keep(name, found);
};

const failed: string[] = [];
/** Runs one part. A part that fails is named, and the others still run. */
const part = async (name: string, run: () => void | Promise<void>): Promise<void> => {
  try {
    await run();
  } catch (error) {
    failed.push(name);
    process.stderr.write(`\n${name} failed: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  }
};
const postgres = process.env.BENCH_POSTGRES ?? '';

await part('conditions', () => {
  const conditions = benchConditions();
  table('conditionsOfOneClause', 'Conditions of one clause: evaluations', conditions.single);
  table('conditionsNested', 'Nested conditions: evaluations', conditions.nested);
});
await part('money', () => {
  table('moneyConditions', 'Conditions over amounts of money: evaluations', benchMoneyConditions());
  table('moneyLoop', 'Amounts of money in a bare loop: add, multiply, compare', benchMoney());
});
await part('expressions', () => figures('expressions', 'Expressions', benchParsing()));
await part('forms', () => figures('forms', 'Forms and hand-offs in the core', benchForms()));
await part('handOffs', async () => {
  const { http, pgbench } = await benchHandOffs(postgres, process.env.BENCH_PROGRAMS ?? '');
  figures('handOffs', 'Hand-offs, 50 clients, everything durable', [
    { what: 'over HTTP', value: http.median, unit: 'a second', bar: null },
    { what: 'spread of the rounds over HTTP', value: http.spread, unit: 'of it', bar: null },
    { what: 'the same statements in pgbench', value: pgbench.median, unit: 'a second', bar: null },
    { what: 'spread of the rounds in pgbench', value: pgbench.spread, unit: 'of it', bar: null },
    { what: 'share of pgbench', value: http.median / pgbench.median, unit: 'of it', bar: { above: 0.45 } },
  ]);
});
await part('routing', async () => figures('routing', 'What hand-offs send and open', await benchRouting(postgres)));
await part('registers', async () =>
  figures('registers', 'Registers and the desk over 100,000 records', await benchRegisters(postgres)),
);
await part('participants', async () =>
  figures('participants', 'What participants ask of the server', await benchParticipants(postgres)),
);
await part('inBrowser', async () => figures('inBrowser', 'In the browser', await benchInBrowser()));

writeFileSync('bench/results.json', `${JSON.stringify(results, null, 2)}\n`);
if (failed.length > 0) process.stderr.write(`\nParts that failed: ${failed.join(', ')}.\n`);
process.exit(failed.length === 0 ? 0 : 1);
