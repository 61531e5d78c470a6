import { writeFileSync } from 'node:fs';
import os from 'node:os';
import { benchConditions } from './conditions.ts';
import { benchForms } from './forms.ts';
import { benchHandOffs } from './hand-offs.ts';
import { benchMoney } from './money.ts';
import { benchParsing } from './parsing.ts';
import { type Figure, type Line, printFigures, printLines } from './report.ts';

const machine = `${os.cpus()[0]?.model ?? 'unknown'}, ${os.cpus().length} cores, Node ${process.versions.node}`;
process.stdout.write(`\nMachine: ${machine}. Medians of 5.\n`);

const ratiosOf = ([ours, ...others]: readonly Line[]): Record<string, number> =>
  Object.fromEntries(others.map(({ what, perSecond }) => [what, (ours?.perSecond ?? 0) / perSecond]));
const valuesOf = (figures: readonly Figure[]): Record<string, number> =>
  Object.fromEntries(figures.map(({ what, value }) => [what, value]));

const conditions = benchConditions();
printLines('Conditions: evaluations', conditions);
const money = benchMoney();
printLines('Money: add, multiply, compare', money);
const parsing = benchParsing();
printFigures('Expressions', parsing);
const forms = benchForms();
printFigures('Forms and hand-offs in the core', forms);
const handOffs = await benchHandOffs(process.env.BENCH_POSTGRES ?? '', process.env.BENCH_PROGRAMS ?? '');
printLines('Hand-offs, 50 clients, everything durable', [
  { what: 'over HTTP', perSecond: handOffs.http },
  { what: 'the same statements in pgbench', perSecond: handOffs.pgbench },
]);

const results = {
  machine,
  conditions: ratiosOf(conditions),
  money: ratiosOf(money),
  expressions: valuesOf(parsing),
  forms: valuesOf(forms),
  handOffs: { ...handOffs, share: handOffs.http / handOffs.pgbench },
};
writeFileSync('bench/results.json', `${JSON.stringify(results, null, 2)}\n`);
process.exit(0);
