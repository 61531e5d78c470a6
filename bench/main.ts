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

const conditions = benchConditions();
table('conditionsOfOneClause', 'Conditions of one clause: evaluations', conditions.single);
table('conditionsNested', 'Nested conditions: evaluations', conditions.nested);
table('moneyConditions', 'Conditions over amounts of money: evaluations', benchMoneyConditions());
table('moneyLoop', 'Amounts of money in a bare loop: add, multiply, compare', benchMoney());
figures('expressions', 'Expressions', benchParsing());
figures('forms', 'Forms and hand-offs in the core', benchForms());
const { http, pgbench } = await benchHandOffs(process.env.BENCH_POSTGRES ?? '', process.env.BENCH_PROGRAMS ?? '');
figures('handOffs', 'Hand-offs, 50 clients, everything durable', [
  { what: 'over HTTP', value: http.median, unit: 'a second', bar: null },
  { what: 'spread of the rounds over HTTP', value: http.spread, unit: 'of it', bar: null },
  { what: 'the same statements in pgbench', value: pgbench.median, unit: 'a second', bar: null },
  { what: 'spread of the rounds in pgbench', value: pgbench.spread, unit: 'of it', bar: null },
  { what: 'share of pgbench', value: http.median / pgbench.median, unit: 'of it', bar: { above: 0.45 } },
]);
figures('routing', 'What hand-offs send and open', await benchRouting(process.env.BENCH_POSTGRES ?? ''));
figures('registers', 'Registers and the desk over 100,000 records', await benchRegisters(process.env.BENCH_POSTGRES ?? ''));
figures('participants', 'What participants ask of the server', await benchParticipants(process.env.BENCH_POSTGRES ?? ''));
figures('inBrowser', 'In the browser', await benchInBrowser());

writeFileSync('bench/results.json', `${JSON.stringify(results, null, 2)}\n`);
process.exit(0);
