import { writeFileSync } from 'node:fs';
import os from 'node:os';
import { benchConditions } from './conditions.ts';
import { benchHandOffs } from './hand-offs.ts';

const conditions = benchConditions();
const [ours, ...others] = conditions;
const perSecond = (value: number): string => Math.round(value).toLocaleString('en').padStart(14);

process.stdout.write(
  `\nMachine: ${os.cpus()[0]?.model ?? 'unknown'}, ${os.cpus().length} cores, Node ${process.versions.node}. Medians of 5.\n\nConditions, evaluations a second\n`,
);
for (const { what, perSecond: rate } of conditions) {
  process.stdout.write(`${what.padEnd(30)}${perSecond(rate)}   ${((ours?.perSecond ?? 0) / rate).toFixed(2)}x\n`);
}

const handOffs = await benchHandOffs(process.env.BENCH_POSTGRES ?? '', process.env.BENCH_PROGRAMS ?? '');
const share = handOffs.http / handOffs.pgbench;
process.stdout.write(
  `\nHand-offs a second, 50 clients, everything durable\n${'over HTTP'.padEnd(30)}${perSecond(handOffs.http)}   ${(share * 100).toFixed(0)}% of pgbench\n${'the statement in pgbench'.padEnd(30)}${perSecond(handOffs.pgbench)}\n`,
);

const results = {
  conditions: Object.fromEntries(conditions.map(({ what, perSecond: rate }) => [what, Math.round(rate)])),
  ratios: Object.fromEntries(others.map(({ what, perSecond: rate }) => [what, (ours?.perSecond ?? 0) / rate])),
  handOffs: { ...handOffs, share },
};
writeFileSync('bench/results.json', `${JSON.stringify(results, null, 2)}\n`);
process.exit(0);
