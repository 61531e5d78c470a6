import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { UNFINISHED_LIMITS } from '@ypomet/contract';
import { forgetOld, UNFINISHED_KEPT_DAYS } from './modules/housekeeping.ts';
import { type Call, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// What somebody entered and hasn't handed on: kept for them, and for nobody else.
let server: TestServer;
let registrar: Call;
let borrower: Call;
let record: string;

const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'begun',
  name: 'Begun',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'why', name: 'Why', section: 'all', type: 'text', treatment: 'optional' },
    { key: 'keeper', name: 'Keeper', section: 'all', type: 'member', treatment: 'optional' },
    { key: 'about', name: 'About', section: 'all', type: 'reference', workflow: 'begun', treatment: 'optional' },
    { key: 'other', name: 'Other', section: 'all', type: 'reference', workflow: 'begun', treatment: 'optional' },
  ],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
    { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' } },
  ],
};

beforeAll(async () => {
  server = await TestServer.make();
  [registrar, borrower] = await Promise.all([server.as('registrar'), server.as('borrower')]);
  await publishDefinition(await server.as('analyst'), DESIGN);
  const begun = await registrar('POST', '/api/intakes/begun/records', { stage: 'ask', handOff: 'send', values: {} });
  record = begun.body.record.id;
});
afterAll(() => server.close());

const INTAKE = '/api/unfinished/intake.begun.ask';
const atRecord = (): string => `/api/unfinished/record.${record}`;
const content = (why: string) => ({ entered: { why }, base: { why: null } });
const keep = (call: Call, url: string, body: object, revision: number) => call('PUT', url, body, { 'if-match': `"${revision}"` });

describe('an unfinished form', () => {
  test('is kept, read again, changed, listed and forgotten', async () => {
    expect((await registrar('GET', INTAKE)).body).toEqual({ entered: {}, base: {}, revision: 0, at: null, names: {} });
    expect((await keep(registrar, INTAKE, content('a'), 0)).body).toEqual({ revision: 1 });
    expect((await keep(registrar, INTAKE, content('ab'), 1)).body).toEqual({ revision: 2 });
    expect((await keep(registrar, atRecord(), content('c'), 0)).status).toBe(200);
    expect((await registrar('GET', INTAKE)).body).toMatchObject({ ...content('ab'), revision: 2 });
    const { body } = await registrar('GET', '/api/unfinished');
    expect(body.map(({ title }: { title: string }) => title)).toEqual([expect.stringMatching(/^Begun · \S+/), 'Begun · Ask']);
    expect((await registrar('DELETE', atRecord())).status).toBe(204);
    expect((await registrar('GET', atRecord())).body.revision).toBe(0);
    expect((await registrar('DELETE', atRecord())).status).toBe(204);
  });

  test('comes with the names of what was entered, as far as its member may see that', async () => {
    const { pool } = server.server.context.database;
    const { rows } = await pool.query(`select id from members where name = 'Carla Wendt'`);
    const keeper = rows[0].id;
    await keep(registrar, atRecord(), { entered: { keeper, about: record, other: 'x' }, base: {} }, 0);
    expect((await registrar('GET', atRecord())).body.names).toEqual({ [keeper]: 'Carla Wendt', [record]: expect.any(String) });
    // Kept by somebody who can't see the record: they get no number of it, only their own words.
    await pool.query(
      `update unfinished_forms set member = (select id from members where name = 'Beryl Quist') where place = $1`,
      [`record.${record}`],
    );
    const { body } = await borrower('GET', atRecord());
    expect([body.entered.about, body.names]).toEqual([record, {}]);
    await borrower('DELETE', atRecord());
  });

  test('a window that is behind is told so, and overwrites nothing', async () => {
    for (const revision of [0, 1, 9]) {
      const answer = await keep(registrar, INTAKE, content('other'), revision);
      expect(problemOf(answer)).toMatchObject({ status: 412, code: 'revision/stale' });
    }
    expect((await registrar('GET', INTAKE)).body.entered).toEqual({ why: 'ab' });
    expect(problemOf(await registrar('PUT', INTAKE, content('x'))).code).toBe('revision/missing');
  });

  test('is nobody else’s: not read, listed, changed or forgotten by others, nor kept where one may not be', async () => {
    const analyst = await server.as('analyst');
    expect((await analyst('GET', INTAKE)).body.revision).toBe(0);
    expect((await analyst('GET', '/api/unfinished')).body).toEqual([]);
    expect((await analyst('DELETE', INTAKE)).status).toBe(204);
    expect((await registrar('GET', INTAKE)).body.revision).toBe(2);
    for (const place of [`record.${record}`, 'intake.begun.ask', 'intake.begun.work', 'intake.nothing.ask'])
      expect(problemOf(await keep(borrower, `/api/unfinished/${place}`, content('x'), 0)).code).toBe('thing/not-found');
  });

  test.each(['x', 'record.1', 'intake.begun', 'intake.Begun.ask', 'record.x;drop table'])(
    'there is no form at %s',
    async (place) => {
      const url = `/api/unfinished/${encodeURIComponent(place)}`;
      expect((await keep(registrar, url, content('x'), 0)).status).toBe(404);
      expect((await registrar('GET', url)).status).toBe(400);
    },
  );

  test('has a bound: each, and all of a member', async () => {
    expect((await keep(registrar, INTAKE, content('x'.repeat(4_100_000)), 2)).status).toBe(413);
    const { pool } = server.server.context.database;
    await pool.query(
      `insert into unfinished_forms (member, place, title, content, bytes, revision)
         select id, 'record.' || n, '', '{}', 2, 1 from members, generate_series(1, $1) n where name = 'Rufus Okonjo'`,
      [UNFINISHED_LIMITS.count - 1],
    );
    expect((await keep(registrar, INTAKE, content('abc'), 2)).status).toBe(200);
    expect(problemOf(await keep(registrar, atRecord(), content('x'), 0)).code).toBe('unfinished/too-many');
    await pool.query(`delete from unfinished_forms where place like 'record.%' and place <> 'record.1'`);
    await pool.query('update unfinished_forms set bytes = $1 where place = $2', [UNFINISHED_LIMITS.bytes, 'record.1']);
    expect(problemOf(await keep(registrar, INTAKE, content('abcd'), 3)).code).toBe('unfinished/too-many');
    await pool.query(`delete from unfinished_forms where place = 'record.1'`);
  });

  test('is forgotten long after its last change, not before', async () => {
    const { pool } = server.server.context.database;
    const age = (days: number) =>
      pool.query('update unfinished_forms set changed_at = now() - make_interval(days => $1)', [days]);
    await age(UNFINISHED_KEPT_DAYS - 1);
    await forgetOld(pool, server.server.context.files);
    expect((await registrar('GET', INTAKE)).body.revision).toBe(3);
    await age(UNFINISHED_KEPT_DAYS + 1);
    await forgetOld(pool, server.server.context.files);
    expect((await registrar('GET', INTAKE)).body.revision).toBe(0);
  });
});
