import { DEMO_MEMBERS } from '@ypomet/server/demo/members';
import { ADD_JOB } from '@ypomet/server/modules/deliveries/repository';
import pg from 'pg';
import { signIn, startServer } from './hand-offs.ts';
import { median } from './measure.ts';
import type { Figure } from './report.ts';

const RECORDS = 300;
const ROWS = 500;
const ROUNDS = 5;

const field = (type: string, key: string, more: object = {}): object => ({
  type,
  key,
  name: key,
  section: 's',
  treatment: 'optional',
  ...more,
});

/** A workflow of one hand-off, with what it sends and opens. */
const workflow = (key: string, handOff: object): object => ({
  format: 'ypomet.workflow/1',
  key,
  name: key,
  sections: [{ key: 's', name: 'S' }],
  fields: [
    field('text', 'title'),
    field('table', 'rows', { maxRows: 2000, fields: [{ type: 'text', key: 'title', name: 'title' }] }),
  ],
  tracks: [{ key: 'm', name: 'M' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['m'] },
    { key: 'rest', name: 'Rest', kind: 'work', tracks: ['m'] },
    { key: 'end', name: 'End', kind: 'end', tracks: ['m'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'rest' }, ...handOff },
    { key: 'finish', name: 'Finish', from: 'rest', otherwise: { to: 'end' } },
  ],
});
const DELIVERIES = [
  { kind: 'mail', key: 'mail', name: 'Mail', to: [{ kind: 'submitter' }], subject: '{{title}}', body: '{{#fields}}' },
  { kind: 'web', key: 'web', name: 'Web', outlet: 'insurer' },
  { kind: 'file', key: 'file', name: 'File', outlet: 'agreements', fileName: '{{record.number}}' },
];
const EACH = {
  key: 'each',
  name: 'Each',
  workflow: 'plain',
  handOff: 'send',
  perRow: 'rows',
  carried: [{ field: 'title', value: 'row.title' }],
};

/** Hand-offs with three deliveries beside ones with none, 500 follow-ups in one, and how fast deliveries reach the stand-ins. */
export async function benchRouting(postgres: string): Promise<readonly Figure[]> {
  const database = `${postgres}bench`;
  const { child, base } = await startServer(database);
  try {
    return await measure(database, base);
  } finally {
    child.kill('SIGTERM');
  }
}

async function measure(database: string, base: string): Promise<readonly Figure[]> {
  const [analyst, borrower] = await Promise.all([signIn(base, DEMO_MEMBERS[0].email), signIn(base, DEMO_MEMBERS[4].email)]);
  const post = async (cookie: string, path: string, body: object, headers: object = {}): Promise<void> => {
    const answer = await fetch(`${base}${path}`, {
      method: 'POST',
      headers: { cookie, 'content-type': 'application/json', ...headers },
      body: JSON.stringify(body),
    });
    if (!answer.ok) throw new Error(await answer.text());
    await answer.arrayBuffer();
  };
  const publish = async (definition: object): Promise<void> => {
    await post(analyst, '/api/workflows', definition);
    const { key } = definition as { key: string };
    await post(analyst, `/api/workflows/${key}/versions`, { accepted: [] }, { 'if-match': '"1"' });
  };
  await publish(workflow('plain', {}));
  await publish(workflow('sending', { deliveries: DELIVERIES }));
  await publish(workflow('opening', { followUps: [EACH] }));
  const begin = async (key: string, rows: number): Promise<number> => {
    const start = performance.now();
    const values = {
      title: 'Lamp',
      rows: Array.from({ length: rows }, (_, at) => ({ id: `r${at}`, values: { title: `Row ${at}` } })),
    };
    await post(borrower, `/api/intakes/${key}/records`, { stage: 'ask', handOff: 'send', values });
    return performance.now() - start;
  };
  const times = { plain: [] as number[], sending: [] as number[] };
  for (let index = 0; index < RECORDS; index++)
    for (const key of ['plain', 'sending'] as const) times[key].push(await begin(key, 1));
  const client = new pg.Client({ connectionString: database });
  await client.connect();
  const perSecond = await deliveriesASecond(client);
  await client.end();
  const opening: number[] = [];
  for (let round = 0; round < ROUNDS; round++) opening.push(await begin('opening', ROWS));
  const at = (list: readonly number[], share: number): number =>
    [...list].sort((a, b) => a - b)[Math.floor(list.length * share)] ?? 0;
  return [
    { what: 'hand-off with nothing to send, p99', value: at(times.plain, 0.99), unit: 'ms', bar: null },
    { what: 'hand-off with three deliveries, p99', value: at(times.sending, 0.99), unit: 'ms', bar: null },
    {
      what: 'three deliveries against none, medians',
      value: median(times.sending) / median(times.plain),
      unit: 'times',
      bar: null,
    },
    { what: `${ROWS} follow-ups in one hand-off`, value: median(opening), unit: 'ms', bar: null },
    { what: 'deliveries to the stand-ins', value: perSecond, unit: 'a second', bar: null },
  ];
}

/** Deliveries that are all queued at once, until the last one is sent. */
async function deliveriesASecond(client: pg.Client): Promise<number> {
  const open = async (): Promise<number> =>
    (await client.query<{ n: number }>(`select count(*)::int as n from deliveries where status = 'queued'`)).rows[0]?.n ?? 0;
  while ((await open()) > 0) await new Promise((resolve) => setTimeout(resolve, 50));
  const { rows } = await client.query<{ n: number }>(`with again as (
      insert into deliveries (id, record, kind, delivery, outlet, name, recipients, subject, content, created_at)
      select gen_random_uuid(), record, kind, delivery, outlet, name, recipients, subject, content, now() from deliveries
      where delivery in ('mail', 'web', 'file') returning id, outlet)
    select count(${ADD_JOB('again')})::int as n from again`);
  const start = performance.now();
  while ((await open()) > 0) await new Promise((resolve) => setTimeout(resolve, 20));
  return (rows[0]?.n ?? 0) / ((performance.now() - start) / 1000);
}
