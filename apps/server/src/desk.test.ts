import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { type Call, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// What waits for somebody: found, ordered, counted; taken, given back, handed over.
let now = Date.parse('2026-11-27T09:00:00Z');
let server: TestServer;
let analyst: Call;
let registrar: Call;
let conservator: Call;
const ids: Record<string, string> = {};

const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'desked',
  name: 'Desked',
  roles: [
    { key: 'registrar', name: 'Registrar' },
    { key: 'conservator', name: 'Conservator' },
  ],
  sections: [{ key: 'all', name: 'All' }],
  fields: [{ key: 'back', name: 'Back', section: 'all', type: 'date', treatment: 'optional' }],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar', 'conservator'], due: 'back' },
    { key: 'other', name: 'Other', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
    { key: 'aside', name: 'Aside', from: 'ask', otherwise: { to: 'other' } },
    { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' } },
  ],
};

beforeAll(async () => {
  server = await TestServer.make({ clock: () => now });
  [analyst, registrar, conservator] = await Promise.all([server.as('analyst'), server.as('registrar'), server.as('conservator')]);
  await publishDefinition(analyst, DESIGN);
  for (const [name, back] of [
    ['late', '2026-11-20'],
    ['soon', '2026-12-01'],
    ['tie', '2026-12-01'],
    ['never', null],
  ] as const) {
    now += 1000;
    ids[name] = await begin('send', back === null ? {} : { back });
  }
  now += 1000;
  ids.aside = await begin('aside', {});
});
afterAll(() => server.close());

const begin = async (handOff: string, values: object): Promise<string> =>
  (await registrar('POST', '/api/intakes/desked/records', { stage: 'ask', handOff, values })).body.record.id;
const idOf = (name: string): string => ids[name] ?? '';
const shown = async (call: Call, name: string) => (await call('GET', `/api/records/${idOf(name)}`)).body;
const nameOf = (id: string): string => Object.keys(ids).find((name) => ids[name] === id) ?? id;
const desk = async (call: Call, query: string) => {
  const { body } = await call('GET', `/api/desk?workflow=desked&${query}`);
  return { names: body.entries.map(({ record }: { record: { id: string } }) => nameOf(record.id)), next: body.next };
};
const possess = async (call: Call, name: string, body: object) => {
  const { record } = await shown(call, name);
  return call('PUT', `/api/records/${idOf(name)}/assignee`, body, { 'if-match': `"${record.revision}"` });
};

describe('the desk', () => {
  test('says of each record what it is about, to its submitter too', async () => {
    const [registrar, borrower] = await Promise.all([server.as('registrar'), server.as('borrower')]);
    const about = (body: { entries: readonly { about: string }[] }) => body.entries.map((entry) => entry.about);
    expect(about((await registrar('GET', '/api/desk')).body)).toContain('Hollen Street Gallery · Exhibition');
    expect(about((await borrower('GET', '/api/submitted')).body)).toContain('Hollen Street Gallery · Exhibition');
  });

  test('is ordered by arrival, or by what is due first; what has no date comes last', async () => {
    expect((await desk(registrar, '')).names).toEqual(['late', 'soon', 'tie', 'never', 'aside']);
    const { names } = await desk(registrar, 'sort=due');
    expect(names.slice(0, 3).sort()).toEqual(['late', 'soon', 'tie']);
    expect(names[0]).toBe('late');
    expect(names.slice(3).sort()).toEqual(['aside', 'never']);
  });

  test('is paged without leaving out or repeating, also where dates are the same', async () => {
    const seen: string[] = [];
    let after = '';
    do {
      const page = await desk(registrar, `sort=due&limit=1${after === '' ? '' : `&after=${after}`}`);
      seen.push(...page.names);
      after = page.next ?? '';
    } while (after !== '');
    expect([...seen].sort()).toEqual(['aside', 'late', 'never', 'soon', 'tie']);
  });

  test('is narrowed by stage, and by what stands in the number or the submitter’s name', async () => {
    expect((await desk(registrar, 'stage=other')).names).toEqual(['aside']);
    const { record } = await shown(registrar, 'soon');
    expect((await desk(registrar, `find=${record.number}`)).names).toEqual(['soon']);
    expect((await desk(registrar, 'find=rufus%20OK')).names).toHaveLength(5);
    expect((await desk(registrar, 'find=%25')).names).toEqual([]);
    expect((await registrar('GET', '/api/desk?sort=size')).status).toBe(400);
  });

  test('is counted by workflow and stage, with what is overdue; everybody counts their own', async () => {
    const groups = async (call: Call) =>
      (await call('GET', '/api/desk/summary')).body.groups.filter(({ workflow }: { workflow: string }) => workflow === 'desked');
    const work = { workflow: 'desked', workflowName: 'Desked', stage: 'work', stageName: 'Work', waiting: 4, overdue: 1 };
    const other = { ...work, stage: 'other', stageName: 'Other', waiting: 1, overdue: 0 };
    expect(await groups(registrar)).toEqual([other, work]);
    expect(await groups(conservator)).toEqual([work]);
    expect(await groups(await server.as('borrower'))).toEqual([]);
  });
});

describe('work that changes hands', () => {
  test('is taken by one of two who want it at once; then it is on nobody else’s desk', async () => {
    const before = await shown(registrar, 'soon');
    expect(before.possession).toEqual({ mayTake: true, mayGiveBack: false, mayHandOver: true });
    const both = await Promise.all(
      [registrar, conservator].map((call) =>
        call('PUT', `/api/records/${idOf('soon')}/assignee`, { kind: 'take' }, { 'if-match': `"${before.record.revision}"` }),
      ),
    );
    expect(both.map(({ status }) => status).sort()).toEqual([200, 412]);
    const winner = both[0]?.status === 200 ? registrar : conservator;
    const loser = winner === registrar ? conservator : registrar;
    expect((await desk(winner, '')).names).toContain('soon');
    expect((await desk(loser, '')).names).not.toContain('soon');
    const after = await shown(winner, 'soon');
    expect(after.record.assigneeName).toMatch(/Rufus Okonjo|Carla Wendt/);
    expect(after.mayAct).toBe(true);
    expect(after.history.at(-1)).toMatchObject({ type: 'taken', by: after.record.assigneeName });
    expect(await shown(loser, 'soon')).toMatchObject({
      mayAct: false,
      possession: { mayTake: true, mayGiveBack: false, mayHandOver: false },
    });
  });

  test('is given back to its roles, and stays where it was, due when it was', async () => {
    expect((await possess(registrar, 'tie', { kind: 'take' })).status).toBe(200);
    const taken = await shown(registrar, 'tie');
    expect((await possess(registrar, 'tie', { kind: 'give-back' })).status).toBe(200);
    const back = await shown(registrar, 'tie');
    expect(back.record).toMatchObject({
      stage: 'work',
      due: '2026-12-01',
      arrivedAt: taken.record.arrivedAt,
      assignee: null,
      assigneeName: null,
    });
    expect((await desk(conservator, '')).names).toContain('tie');
    expect(problemOf(await possess(registrar, 'tie', { kind: 'give-back' })).details).toEqual(['assignee: work/not-yours']);
  });

  test('is handed over to a colleague of the stage, by name in the history; to nobody else', async () => {
    const { body: colleagues } = await registrar('GET', `/api/records/${idOf('late')}/colleagues?search=carla`);
    expect(colleagues.map(({ name }: { name: string }) => name)).toEqual(['Carla Wendt']);
    expect((await possess(registrar, 'late', { kind: 'hand-over', to: colleagues[0].id })).status).toBe(200);
    expect((await desk(conservator, '')).names).toContain('late');
    expect((await desk(registrar, '')).names).not.toContain('late');
    const { history } = await shown(conservator, 'late');
    expect(history.at(-1)).toMatchObject({ type: 'handed-over', by: 'Rufus Okonjo', to: 'Carla Wendt' });
    const borrower = (await (await server.as('borrower'))('GET', '/api/session')).body.member.id;
    expect(problemOf(await possess(conservator, 'late', { kind: 'hand-over', to: borrower })).details).toEqual([
      'assignee: work/cannot-act',
    ]);
  });

  test('not by those who may not see it, nor without its revision', async () => {
    const borrower = await server.as('borrower');
    const put = (call: Call, headers: Record<string, string>) =>
      call('PUT', `/api/records/${idOf('never')}/assignee`, { kind: 'take' }, headers);
    expect((await put(borrower, { 'if-match': '"1"' })).status).toBe(404);
    expect((await put(registrar, {})).status).toBe(428);
    expect((await borrower('GET', `/api/records/${idOf('never')}/colleagues`)).status).toBe(404);
    expect((await server.anybody('GET', '/api/desk/summary')).status).toBe(401);
  });
});

describe('what is new', () => {
  const entryOf = async (call: Call, name: string) => {
    const { body } = await call('GET', '/api/desk?workflow=desked');
    return body.entries.find(({ record }: { record: { id: string } }) => record.id === idOf(name));
  };

  test('is what one hasn’t opened since it changed; who else has it open is said for a while', async () => {
    // Nobody has opened it yet.
    const fresh = await begin('send', {});
    ids.fresh = fresh;
    expect(await entryOf(conservator, 'fresh')).toMatchObject({ isUnread: true, openedBy: null });
    await shown(conservator, 'fresh');
    expect(await entryOf(conservator, 'fresh')).toMatchObject({ isUnread: false, openedBy: null });
    expect(await entryOf(registrar, 'fresh')).toMatchObject({ isUnread: true, openedBy: 'Carla Wendt' });
    const { pool } = server.server.context.database;
    await pool.query(`update record_readings set at = at - interval '11 minutes' where record = $1`, [fresh]);
    expect(await entryOf(registrar, 'fresh')).toMatchObject({ openedBy: null });
    await possess(registrar, 'fresh', { kind: 'take' });
    await possess(registrar, 'fresh', { kind: 'give-back' });
    expect(await entryOf(conservator, 'fresh')).toMatchObject({ isUnread: true, openedBy: 'Rufus Okonjo' });
  });

  test('of what one submitted is what has changed since; and that the submitter looked is nobody’s business', async () => {
    const submitted = async () =>
      (await registrar('GET', '/api/submitted')).body.entries.find(
        ({ record }: { record: { id: string } }) => record.id === ids.fresh,
      );
    await shown(registrar, 'fresh');
    expect(await submitted()).toMatchObject({ isUnread: false, openedBy: null });
    await possess(conservator, 'fresh', { kind: 'take' });
    expect(await submitted()).toMatchObject({ isUnread: true, openedBy: null });
    await possess(conservator, 'fresh', { kind: 'give-back' });
    await server.server.context.database.pool.query(`update record_readings set at = at - interval '1 hour'`);
    // Whoever only looks on isn't said to have it open.
    const aside = await begin('send', {});
    ids.aside2 = aside;
    await server.server.context.database.pool.query(
      `update records set waiting_roles = '{conservator}', waiting_member = null, assignee = '{"kind":"role","role":"conservator"}' where id = $1`,
      [aside],
    );
    await shown(registrar, 'aside2');
    expect(await entryOf(conservator, 'aside2')).toMatchObject({ openedBy: null });
  });
});

describe('a condition over what waits', () => {
  const of = async (call: Call, filter: string) => (await desk(call, `filter=${encodeURIComponent(filter)}`)).names.sort();

  test('finds what it holds for, by fields and by what every record has', async () => {
    expect(await of(registrar, 'back = date("2026-12-01")')).toEqual(['soon', 'tie']);
    expect(await of(registrar, 'back = null and record.stage = "work"')).toEqual(['fresh', 'never']);
    expect(await of(conservator, 'back < today()')).toEqual(['late']);
  });

  test('goes on page by page, in the order that was asked for', async () => {
    const at = (more: string) =>
      registrar('GET', `/api/desk?workflow=desked&limit=1&sort=due&filter=${encodeURIComponent('back != null')}${more}`);
    const found: string[] = [];
    let next: string | null = '';
    while (next !== null) {
      const { body } = await at(next === '' ? '' : `&after=${next}`);
      found.push(...body.entries.map(({ record }: { record: { id: string } }) => nameOf(record.id)));
      next = body.next;
    }
    expect(found.sort()).toEqual(['soon', 'tie']);
  });

  test('is over one workflow, which one has to do with, and over what one is shown', async () => {
    const ask = (call: Call, query: string) => call('GET', `/api/desk?${query}`);
    const none = await ask(registrar, `filter=${encodeURIComponent('back = null')}`);
    expect(none.body).toMatchObject({ code: 'register/filter', detail: expect.stringContaining('choose one first') });
    expect((await ask(registrar, 'workflow=desked&filter=backe%20%3D%20null')).status).toBe(422);
    const borrower = await server.as('borrower');
    expect((await ask(borrower, 'workflow=desked&filter=back%20%3D%20null')).status).toBe(404);
    expect((await borrower('GET', '/api/desk/workflows/desked')).status).toBe(404);
    const described = await conservator('GET', '/api/desk/workflows/desked');
    expect(described.body).toMatchObject({ searchable: ['back'], definition: { key: 'desked' } });
  });
});

describe('views of the desk', () => {
  const settings = { sort: 'due', workflow: 'desked', stage: null, find: '', filter: 'back != null' };
  const names = async (call: Call) => (await call('GET', '/api/desk/views')).body.map(({ name }: { name: string }) => name);

  test('are one’s own, or shared with those who hold a role of their owner’s', async () => {
    const director = await server.as('director');
    const kept = await registrar('POST', '/api/desk/views', { name: 'Dated', isShared: false, settings });
    expect(kept.status).toBe(201);
    const at = `/api/desk/views/${kept.body.id}`;
    expect([await names(registrar), await names(conservator)]).toEqual([['Dated'], []]);
    const { pool } = server.server.context.database;
    await pool.query(`update members set roles = array_append(roles, 'registrar') where email like 'carla@%'`);
    await registrar('PUT', at, { name: 'Dated, all', isShared: true, settings });
    expect([await names(conservator), await names(director)]).toEqual([['Dated, all'], []]);
    const seen = (await conservator('GET', '/api/desk/views')).body[0];
    expect(seen).toMatchObject({ isOwn: false, owner: 'Rufus Okonjo', settings });
    // Who has it shared can’t change it.
    expect((await conservator('PUT', at, { name: 'Mine', isShared: true, settings })).status).toBe(404);
    expect((await conservator('DELETE', at)).status).toBe(404);
    await pool.query(`update members set roles = array_remove(roles, 'registrar') where email like 'carla@%'`);
    expect((await registrar('DELETE', at)).status).toBe(204);
    expect(await names(registrar)).toEqual([]);
  });

  test('that can’t be applied aren’t kept', async () => {
    for (const wrong of [{ filter: 'backe = 1' }, { workflow: null }, { workflow: 'nothing' }]) {
      const answer = await registrar('POST', '/api/desk/views', {
        name: 'Wrong',
        isShared: false,
        settings: { ...settings, ...wrong },
      });
      expect([404, 422]).toContain(answer.status);
    }
  });
});
