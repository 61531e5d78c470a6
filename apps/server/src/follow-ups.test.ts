import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { isUnavailable } from './db/database.ts';
import { OPENED_AT_ONCE } from './modules/records/open-follow-ups.ts';
import { openPendingFollowUps } from './modules/records/open-pending.ts';
import { type Call, eventually, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// Records that a hand-off opens for the rows of a table: with the hand-off, and by the queue (semantics 5).
let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const key = () => ({ 'idempotency-key': randomUUID() });

async function press(call: Call, id: string, handOff: string, values: object = {}) {
  const { body: document } = await call('GET', `/api/records/${id}`);
  return call(
    'POST',
    `/api/records/${id}/hand-offs`,
    { handOff, values },
    { 'if-match': `"${document.record.revision}"`, ...key() },
  );
}

/** A workflow that opens another for each row, which refuses some of them. */
const opener = (more: object = {}) => ({
  format: 'ypomet.workflow/1',
  key: 'opener',
  name: 'Opener',
  sections: [{ key: 's', name: 'S' }],
  fields: [
    {
      type: 'table',
      key: 'rows',
      name: 'Rows',
      section: 's',
      treatment: 'optional',
      maxRows: 2500,
      fields: [{ type: 'text', key: 'title', name: 'Title' }],
    },
  ],
  tracks: [{ key: 'm', name: 'M' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['m'] },
    { key: 'rest', name: 'Rest', kind: 'work', tracks: ['m'] },
    { key: 'end', name: 'End', kind: 'end', tracks: ['m'] },
  ],
  handOffs: [
    {
      key: 'send',
      name: 'Send',
      from: 'ask',
      otherwise: { to: 'rest' },
      followUps: [
        {
          key: 'each',
          name: 'Each',
          workflow: 'opened',
          handOff: 'go',
          perRow: 'rows',
          link: 'source',
          carried: [{ field: 'title', value: 'row.title' }],
        },
      ],
    },
    { key: 'finish', name: 'Finish', from: 'rest', offeredWhen: 'followUps.open = 0', otherwise: { to: 'end' } },
  ],
  ...more,
});
const OPENED = {
  format: 'ypomet.workflow/1',
  key: 'opened',
  name: 'Opened',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 's', name: 'S' }],
  fields: [
    { type: 'reference', key: 'source', name: 'Source', section: 's', treatment: 'read-only', workflow: 'opened' },
    { type: 'text', key: 'title', name: 'Title', section: 's', treatment: 'required', maxLength: 20 },
  ],
  tracks: [{ key: 'm', name: 'M' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['m'], roles: ['registrar'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['m'], roles: ['registrar'] },
    { key: 'end', name: 'End', kind: 'end', tracks: ['m'] },
  ],
  handOffs: [
    { key: 'go', name: 'Go', from: 'ask', otherwise: { to: 'work' } },
    { key: 'done', name: 'Done', from: 'work', otherwise: { to: 'end' } },
  ],
};

describe('a follow-up for each row', () => {
  let borrower: Call;
  let registrar: Call;
  beforeAll(async () => {
    const analyst = await server.as('analyst');
    [borrower, registrar] = await Promise.all([server.as('borrower'), server.as('registrar')]);
    await publishDefinition(analyst, OPENED);
    await publishDefinition(analyst, opener());
  });
  const begin = (titles: readonly string[]) =>
    borrower(
      'POST',
      '/api/intakes/opener/records',
      { stage: 'ask', handOff: 'send', values: { rows: titles.map((title, at) => ({ id: `r${at}`, values: { title } })) } },
      key(),
    );

  test('what the target refuses is opened all the same, waits at its intake with the issues, and can be mended there', async () => {
    const begun = await begin(['Fine', 'A title that is longer than twenty', '']);
    const opened = begun.body.opened as readonly { id: string; isIncomplete: boolean; stageName: string }[];
    expect(opened.map(({ isIncomplete, stageName }) => [isIncomplete, stageName])).toEqual([
      [false, 'Work'],
      [true, 'Ask'],
      [true, 'Ask'],
    ]);
    const [, long, empty] = opened as readonly [unknown, { id: string }, { id: string }];
    const desk = await registrar('GET', '/api/desk?limit=200');
    const waiting = desk.body.entries.map((one: { record: { id: string } }) => one.record.id);
    expect(waiting).toEqual(expect.arrayContaining([long.id, empty.id]));
    const seen = await registrar('GET', `/api/records/${long.id}`);
    expect(seen.body.issues.map(({ code, field }: { code: string; field: string }) => [code, field])).toEqual([
      ['form/too-long', 'title'],
    ]);
    expect(seen.body.form.values.title).toBe('A title that is longer than twenty');
    const refused = await press(borrower, begun.body.record.id, 'finish');
    expect(problemOf(refused).details).toEqual(['finish: hand-off/not-offered']);
    expect((await press(registrar, long.id, 'go', { title: 'Shorter' })).status).toBe(200);
    const mended = await registrar('GET', `/api/records/${long.id}`);
    expect([mended.body.record.stageName, mended.body.issues]).toEqual(['Work', []]);
  });

  const openedBy = async (id: string): Promise<readonly { readonly id: string; readonly title: string }[]> => {
    const { rows } = await server.server.context.database.pool.query(
      `select id, values ->> 'title' as title from records where opened_by = $1 order by number`,
      [id],
    );
    return rows;
  };

  test('of 2,000 rows a hundred open a record in the same step, the rest follows in their order, each once', async () => {
    const titles = Array.from({ length: 2000 }, (_, at) => `Row ${at}`);
    const begun = await begin(titles);
    const { id } = begun.body.record;
    expect(begun.body.opened).toHaveLength(OPENED_AT_ONCE);
    expect(begun.body.opening).toBe(2000 - OPENED_AT_ONCE);
    // What is still to be opened is open: a stage that waits for its follow-ups waits for it.
    const early = await borrower('GET', `/api/records/${id}`);
    expect(early.body.opened.length + early.body.opening).toBe(2000);
    expect(problemOf(await press(borrower, id, 'finish')).details).toEqual(['finish: hand-off/not-offered']);
    // Two more that do the queue's work at the same time.
    const { context } = server.server;
    /** Opens them as the queue's job does: it runs again after it failed because another one held a lock for too long. */
    const openAsJob = (): Promise<void> =>
      openPendingFollowUps(context, id).catch((error: unknown) => {
        if (!isUnavailable(error)) throw error;
        return openAsJob();
      });
    const opening = Promise.all([openAsJob(), openAsJob()]);
    // Whenever a page looks, each row has its record or is still to be opened.
    for (let left = 1; left > 0; ) {
      const { body } = await borrower('GET', `/api/records/${id}`);
      left = body.opening;
      expect(body.opened.length + left).toBe(2000);
    }
    await opening;
    await eventually(
      () => openedBy(id),
      (found) => found.length === 2000,
    );
    expect(new Set((await openedBy(id)).map(({ title }) => title))).toEqual(new Set(titles));
    const late = await borrower('GET', `/api/records/${id}`);
    expect([late.body.opened.length, late.body.opening]).toEqual([2000, 0]);
  }, 120_000);

  test('a part that fails opens nothing, and is opened whole the next time', async () => {
    const { context } = server.server;
    const { pool } = context.database;
    await pool.query(`create function hold_openings() returns trigger language plpgsql as
      $$ begin if new.workflow = 'opened' and new.opened_row = 'r140' then raise 'no room'; end if; return new; end $$`);
    await pool.query('create trigger hold_openings before insert on records for each row execute function hold_openings()');
    const begun = await begin(Array.from({ length: 160 }, (_, at) => `Row ${at}`));
    const { id } = begun.body.record;
    const failure = async () => {
      const { rows } = await pool.query(`select last_error from graphile_worker.jobs where key = 'open:' || $1`, [id]);
      return String(rows[0]?.last_error ?? '');
    };
    await eventually(failure, (text) => text.includes('no room'));
    expect((await openedBy(id)).length).toBe(OPENED_AT_ONCE);
    expect((await borrower('GET', `/api/records/${id}`)).body.opening).toBe(60);
    await pool.query('drop trigger hold_openings on records');
    await openPendingFollowUps(context, id);
    await eventually(
      () => openedBy(id),
      (found) => found.length === 160,
    );
  });

  test('rows over rows are opened level by level, by one request and the queue together', async () => {
    const analyst = await server.as('analyst');
    const second = opener({ key: 'outer', name: 'Outer' });
    const outer = {
      ...second,
      fields: [
        { ...(second.fields[0] as object), maxRows: 100 },
        { type: 'reference', key: 'source', name: 'Source', section: 's', treatment: 'optional', workflow: 'outer' },
      ],
      handOffs: second.handOffs.map((one) => ({
        ...one,
        followUps: ((one as { followUps?: object[] }).followUps ?? []).map((followUp) => ({
          ...followUp,
          workflow: 'inner',
          handOff: 'send',
          carried: [{ field: 'rows', value: 'rows' }],
        })),
      })),
    };
    const inner = {
      ...opener({ key: 'inner', name: 'Inner' }),
      fields: [
        { ...(second.fields[0] as object), maxRows: 100 },
        { type: 'reference', key: 'source', name: 'Source', section: 's', treatment: 'optional', workflow: 'outer' },
      ],
    };
    for (const one of [outer, inner]) await analyst('POST', '/api/workflows', one);
    const published = await analyst(
      'POST',
      '/api/workflows/outer/versions',
      { together: [{ key: 'inner', revision: 1 }] },
      { 'if-match': '"1"' },
    );
    expect(published.status).toBe(201);
    const rows = Array.from({ length: 30 }, (_, at) => ({ id: `r${at}`, values: { title: `Row ${at}` } }));
    const begun = await borrower(
      'POST',
      '/api/intakes/outer/records',
      { stage: 'ask', handOff: 'send', values: { rows } },
      key(),
    );
    expect(begun.status).toBe(201);
    const { id } = begun.body.record;
    const count = async () => {
      const found = await server.server.context.database.pool.query(
        `select count(*)::int as all, count(distinct (r.opened_by, r.opened_row))::int as apart from records r
         join records i on i.id = r.opened_by where i.opened_by = $1`,
        [id],
      );
      return found.rows[0];
    };
    const found = await eventually(count, ({ all }) => all >= 900);
    expect(found).toEqual({ all: 900, apart: 900 });
  }, 120_000);
});
