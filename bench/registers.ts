import { DEMO_MEMBERS } from '@ypomet/server/demo/members';
import pg from 'pg';
import { signIn, startServer } from './hand-offs.ts';
import type { Figure } from './report.ts';

const RECORDS = 100_000;
const CALLS = 60;
/** Calls before those that are timed. */
const WARM = 20;
const BAR = { below: 50 };

/** Copies of the demo's loans with values of their own, over two years, a tenth of them under way. */
const MANY = `
with demo as materialized (select *, row_number() over (order by id) as place from records where number like 'L-%')
insert into records (id, workflow, version, number, stage, stage_kind, intake, track, waiting_roles, submitted_by, values, revision,
  created_at, arrived_at, due, due_at)
select gen_random_uuid(), 'objectLoan', 1, 'M-' || n, case when n % 10 = 0 then 'onLoan' else 'closed' end,
  case when n % 10 = 0 then 'work' else 'end' end, 'request', 'exhibition',
  case when n % 10 = 0 then '{registrar}'::text[] else '{}' end, r.submitted_by,
  r.values || jsonb_build_object('borrower', 'Borrower ' || (n::bigint * 7919 % 5000), 'totalValue', (n::bigint * 104729 % 400000)::text || '.00',
    'fromDate', to_char(date '2024-11-01' + n % 730, 'YYYY-MM-DD'), 'kind', (array['exhibition','study','filming'])[1 + n % 3]),
  1, now() - n * interval '10 minutes', now() - n * interval '10 minutes',
  case when n % 10 = 0 then '2026-12-01' end, case when n % 10 = 0 then timestamptz '2026-12-01' + n * interval '1 minute' end
from generate_series(1, ${RECORDS}) n join demo r on r.place = 1 + n % 4`;

const QUESTIONS: readonly (readonly [string, string])[] = [
  ['the newest', ''],
  ['by number', 'sort=record.number'],
  ['by due date', 'sort=record.due&direction=up'],
  ['by a text', 'sort=borrower&direction=up'],
  ['by an amount', 'sort=totalValue&direction=down'],
  ['by a date', 'sort=fromDate&direction=up'],
  ['at a stage', 'stage=onLoan'],
  ['an option', `filter=${encodeURIComponent('kind = "study"')}`],
  ['an amount above', `filter=${encodeURIComponent('totalValue > 399000')}`],
  ['a text that few have', `filter=${encodeURIComponent('borrower = "Borrower 4711"')}`],
  ['rows within', `filter=${encodeURIComponent('some o in objects satisfies o.material = "glass"')}`],
  ['found in texts', 'find=Borrower%204711'],
  ['filtered and ordered', `filter=${encodeURIComponent('kind = "study" and totalValue > 200000')}&sort=fromDate&direction=up`],
];

const percentile = (times: readonly number[], share: number): number =>
  [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))] ?? 0;

/** Pages of the desk and of a register over 100,000 records, over HTTP: the 95th percentile of each, in milliseconds. */
export async function benchRegisters(postgres: string): Promise<readonly Figure[]> {
  const database = `${postgres}bench`;
  const { child, base } = await startServer(database);
  try {
    const client = new pg.Client({ connectionString: database });
    await client.connect();
    await client.query(MANY);
    await client.query('vacuum analyze records');
    await client.end();
    const cookies = [await signIn(base, DEMO_MEMBERS[1].email), await signIn(base, DEMO_MEMBERS[3].email)];
    // Once each: what is ordered and filtered by is indexed from then on.
    for (const [, query] of QUESTIONS)
      await (
        await fetch(`${base}/api/registers/objectLoan/records?${query}`, { headers: { cookie: cookies[1] ?? '' } })
      ).arrayBuffer();
    await settled(database);
    const figures: Figure[] = [];
    for (const [index, [what, query]] of QUESTIONS.entries())
      figures.push(await time(what, `${base}/api/registers/objectLoan/records?${query}`, cookies[index % 2] ?? ''));
    figures.push(await time('the desk', `${base}/api/desk`, cookies[0] ?? ''));
    figures.push(await time('the desk, due first', `${base}/api/desk?sort=due`, cookies[0] ?? ''));
    figures.push(await time('the desk’s counts', `${base}/api/desk/summary`, cookies[0] ?? ''));
    figures.push(await time('totals of all', `${base}/api/registers/objectLoan/totals?sums=totalValue`, cookies[1] ?? '', null));
    figures.push(await time('watching', `${base}/api/registers/objectLoan/watching`, cookies[1] ?? '', null));
    return figures;
  } finally {
    child.kill('SIGTERM');
  }
}

/** Waits until no index is being made. */
async function settled(database: string): Promise<void> {
  const client = new pg.Client({ connectionString: database });
  await client.connect();
  for (let quiet = 0; quiet < 4; ) {
    await new Promise((resolve) => setTimeout(resolve, 500));
    const { rows } = await client.query(
      `select 1 from pg_stat_activity where application_name = 'ypomet-indexes' and state = 'active'`,
    );
    quiet = rows.length === 0 ? quiet + 1 : 0;
  }
  await client.query('vacuum analyze records');
  await client.end();
}

async function time(what: string, address: string, cookie: string, bar: Figure['bar'] = BAR): Promise<Figure> {
  const times: number[] = [];
  for (let call = 0; call < WARM + CALLS; call++) {
    const start = performance.now();
    const answer = await fetch(address, { headers: { cookie } });
    await answer.arrayBuffer();
    if (!answer.ok) throw new Error(`${address}: ${answer.status}`);
    if (call >= WARM) times.push(performance.now() - start);
  }
  return { what: `${what}, p95`, value: percentile(times, 0.95), unit: 'ms', bar };
}
