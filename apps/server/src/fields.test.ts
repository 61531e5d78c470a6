import { createHash } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { writePlain } from '@ypomet/core';
import { type Call, cookiesOf, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

let server: TestServer;
let [analyst, borrower, other, registrar, director]: Call[] = [];
const call = (one: Call | undefined): Call => one as Call;

beforeAll(async () => {
  server = await TestServer.make();
  [analyst, borrower, other, registrar, director] = await Promise.all(
    (['analyst', 'borrower', 'other', 'registrar', 'director'] as const).map((who) => server.as(who)),
  );
  await publishDefinition(call(analyst), {
    format: 'ypomet.workflow/1',
    key: 'dossier',
    name: 'Dossier',
    roles: [
      { key: 'registrar', name: 'Registrar' },
      { key: 'director', name: 'Director' },
    ],
    sections: [{ key: 'all', name: 'All' }],
    fields: [
      { type: 'text', key: 'title', name: 'Title' },
      { type: 'text', key: 'care', name: 'Care', treatment: 'hidden' },
      { type: 'text', key: 'shelf', name: 'Shelf', treatment: 'hidden', default: '"Shelf of " + title' },
      { type: 'number', key: 'reserve', name: 'Reserve', confidentialTo: ['director'], treatment: 'hidden' },
      { type: 'reference', key: 'about', name: 'About', workflow: 'dossier' },
      { type: 'text', key: 'said', name: 'Said', expression: 'about.title' },
      { type: 'number', key: 'theirs', name: 'Theirs', expression: 'about.reserve', confidentialTo: ['director'] },
      {
        type: 'table',
        key: 'parts',
        name: 'Parts',
        fields: [
          { type: 'reference', key: 'of', name: 'Of', workflow: 'dossier' },
          { type: 'text', key: 'title', name: 'Title', expression: 'row.of.title' },
        ],
      },
      { type: 'member', key: 'keeper', name: 'Keeper', role: 'registrar' },
      { type: 'file', key: 'plans', name: 'Plans' },
      { type: 'sign-off', key: 'agreed', name: 'Agreed', treatment: 'hidden' },
    ].map((field) => ({ section: 'all', treatment: 'optional', ...field })),
    tracks: [{ key: 'main', name: 'Main' }],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
      {
        key: 'check',
        name: 'Check',
        kind: 'work',
        tracks: ['main'],
        roles: ['registrar'],
        assignment: { kind: 'member', expression: 'keeper' },
      },
      { key: 'sign', name: 'Sign', kind: 'work', tracks: ['main'], roles: ['director'] },
      { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
    ],
    plan: {
      care: { check: 'optional', sign: 'read-only' },
      shelf: { check: 'optional', sign: 'read-only' },
      reserve: { sign: 'optional' },
      agreed: { sign: 'optional' },
    },
    handOffs: [
      {
        key: 'send',
        name: 'Send',
        from: 'ask',
        otherwise: { to: 'check' },
        acknowledgements: [{ key: 'a', text: 'About {{about.title}}' }],
      },
      { key: 'pass', name: 'Pass', from: 'check', otherwise: { to: 'sign' } },
      { key: 'back', name: 'Back', from: 'sign', checking: 'none', otherwise: { to: 'check' } },
      { key: 'done', name: 'Done', from: 'sign', otherwise: { to: 'done' } },
    ],
  } as never);
});
afterAll(() => server.close());

const begin = async (values: object, who = borrower) =>
  call(who)('POST', '/api/intakes/dossier/records', { stage: 'ask', handOff: 'send', values });
const idOf = async (values: object, who = borrower): Promise<string> => String((await begin(values, who)).body.record.id);
const handOn = (who: Call | undefined, id: string, handOff: string, revision: number, values: object = {}) =>
  call(who)('POST', `/api/records/${id}/hand-offs`, { handOff, values }, { 'if-match': `"${revision}"` });

describe('a default', () => {
  const formOf = async (who: Call | undefined, id: string) => (await call(who)('GET', `/api/records/${id}`)).body.form;

  test('is there on arrival, is kept when it is emptied, and is nothing to those before', async () => {
    const id = await idOf({ title: 'Lamp' });
    expect(JSON.stringify((await call(borrower)('GET', `/api/records/${id}`)).body)).not.toContain('Shelf of');
    expect((await formOf(registrar, id)).values.shelf).toBe('Shelf of Lamp');
    expect((await handOn(registrar, id, 'pass', 1, { shelf: null })).status).toBe(200);
    expect((await formOf(director, id)).values.shelf).toBeUndefined();
    await handOn(director, id, 'back', 2);
    expect((await formOf(registrar, id)).values.shelf).toBeUndefined();
  });
});

// OWASP API Security Top 10 (2023), API1 and API3: broken authorisation of objects and of their properties.
describe('a reference opens no door', () => {
  test('to a record one may not see: it is unknown, in the form, the acknowledgement and mails', async () => {
    const theirs = await idOf({ title: 'Secret title' }, other);
    const answer = await begin({ title: 'Mine', about: theirs });
    expect(problemOf(answer)).toMatchObject({ status: 422, details: ['about: value/unknown-record'] });
    const form = await call(borrower)('POST', '/api/intakes/dossier/ask/form', { values: { about: theirs } });
    expect(JSON.stringify(form.body)).not.toContain('Secret title');
  });

  test('nor to fields of one that one sees', async () => {
    const own = await idOf({ title: 'Own title' });
    await handOn(registrar, own, 'pass', 1);
    await handOn(director, own, 'back', 2, { reserve: '4711' });
    const answer = await begin({ title: 'Second', about: own });
    expect(writePlain(answer.body.acknowledgement)).toBe('About Own title');
    const { id } = answer.body.record;
    for (const who of [borrower, registrar])
      expect(JSON.stringify((await call(who)('GET', `/api/records/${id}`)).body)).not.toContain('4711');
    await handOn(registrar, id, 'pass', 1);
    expect(JSON.stringify((await call(director)('GET', `/api/records/${id}`)).body)).toContain('4711');
  });

  test('in the rows of a table it is read and guarded alike', async () => {
    const [own, theirs] = [await idOf({ title: 'Own part' }), await idOf({ title: 'Their part' }, other)];
    const parts = (of: string) => [{ id: 'r1', values: { of } }];
    const id = await idOf({ title: 'Whole', parts: parts(own) });
    expect(JSON.stringify((await call(borrower)('GET', `/api/records/${id}`)).body)).toContain('Own part');
    expect(problemOf(await begin({ parts: parts(theirs) })).details).toEqual(['parts[r1].of: value/unknown-record']);
  });

  test('what can be chosen is what can be seen', async () => {
    const mine = await idOf({ title: 'Mine to choose' });
    const choices = (who: Call | undefined) => call(who)('GET', '/api/intakes/dossier/ask/choices?field=about&search=');
    const ids = async (who: Call | undefined) => ((await choices(who)).body as { id: string }[]).map(({ id }) => id);
    expect(await ids(borrower)).toContain(mine);
    expect(await ids(other)).not.toContain(mine);
    expect(await ids(registrar)).toContain(mine);
  });
});

describe('whoever looks in sees what is theirs to see', () => {
  test('the submitter not the notes of those who have the record; the registrar not what only the director sees', async () => {
    const id = await idOf({ title: 'Lamp' });
    await handOn(registrar, id, 'pass', 1, { care: 'Brittle.' });
    await handOn(director, id, 'back', 2, { reserve: '4711' });
    const seen = async (who: Call | undefined) => JSON.stringify((await call(who)('GET', `/api/records/${id}`)).body);
    expect(await seen(borrower)).toContain('Lamp');
    expect(await seen(borrower)).not.toMatch(/Brittle|4711|"care"|"reserve"/);
    expect(await seen(registrar)).toContain('Brittle.');
    expect(await seen(registrar)).not.toMatch(/4711|"reserve"/);
    expect(await seen(director)).toContain('4711');
    expect((await call(other)('GET', `/api/records/${id}`)).status).toBe(404);
  });
});

describe('members', () => {
  test('one that no field names leaves the record with the stage’s roles, and the desk says so', async () => {
    const id = await idOf({ title: 'Nobody’s' });
    const { body } = await call(registrar)('GET', '/api/desk?limit=200');
    const entry = body.entries.find(({ record }: { record: { id: string } }) => record.id === id);
    expect(entry.record.unassigned).toBe(true);
    expect((await handOn(registrar, id, 'pass', 1)).status).toBe(200);
  });

  test('must be there and have the role', async () => {
    const { rows } = await server.server.context.database.pool.query('select id, roles from members');
    const find = (role: string, has: boolean) => rows.find((row) => row.roles.includes(role) === has)?.id;
    expect((await begin({ title: 'a', keeper: find('registrar', true) })).status).toBe(201);
    expect(problemOf(await begin({ keeper: find('registrar', false) })).details).toEqual(['keeper: value/member-role']);
    expect(problemOf(await begin({ keeper: '00000000-0000-4000-8000-000000000000' })).details).toEqual([
      'keeper: value/unknown-member',
    ]);
    expect(problemOf(await begin({ keeper: 'nobody' })).details).toEqual(['keeper: value/unknown-member']);
  });
});

describe('files', () => {
  const contents = Buffer.from('a plan');
  const sha256 = createHash('sha256').update(contents).digest('hex');
  const upload = async (who: 'borrower' | 'other', name: string, type = 'text/plain') => {
    const email = who === 'borrower' ? 'beryl@hollenstreet.invalid' : '';
    const signedIn = await server.anybody('POST', '/api/session', { email, password: 'museum-loans' });
    const answer = await server.server.app.inject({
      method: 'POST',
      url: `/api/files?name=${encodeURIComponent(name)}`,
      headers: { cookie: cookiesOf(signedIn), 'content-type': type },
      payload: contents,
    });
    return { status: answer.statusCode, body: answer.json() };
  };

  test('are named by a field once they were handed over, as they are here', async () => {
    const before = await begin({ plans: [{ name: 'plan.txt', mediaType: 'text/plain', bytes: 6, sha256 }] });
    expect(problemOf(before).details).toEqual(['plans: value/unknown-file']);
    const uploaded = await upload('borrower', 'plan.txt');
    expect(uploaded).toEqual({ status: 201, body: { name: 'plan.txt', mediaType: 'text/plain', bytes: 6, sha256 } });
    expect((await begin({ title: 'x', plans: [uploaded.body] })).status).toBe(201);
    // What one member handed over is no file of another's.
    expect(problemOf(await begin({ plans: [uploaded.body] }, other)).details).toEqual(['plans: value/unknown-file']);
  });

  test('are saved by whoever is shown them in a record, and never shown by the browser itself', async () => {
    const { body: file } = await upload('borrower', 'plän.html', 'text/html');
    const id = await idOf({ title: 'x', plans: [file] });
    const saved = await call(registrar)('GET', `/api/records/${id}/files/${sha256}`);
    expect([saved.status, saved.body]).toEqual([200, 'a plan']);
    expect(saved.headers['content-type']).toBe('application/octet-stream');
    expect(saved.headers['content-disposition']).toBe(`attachment; filename*=UTF-8''pl%C3%A4n.html`);
    expect((await call(other)('GET', `/api/records/${id}/files/${sha256}`)).status).toBe(404);
    expect((await call(registrar)('GET', `/api/records/${id}/files/${'0'.repeat(64)}`)).status).toBe(404);
  });
});

describe('a sign-off', () => {
  test('is by whoever asks for it, and shows when what was signed has changed', async () => {
    const id = await idOf({ title: 'Lamp' });
    await handOn(registrar, id, 'pass', 1, { care: 'Brittle.' });
    const forged = { by: 'somebody', name: 'Somebody', at: '2026-01-01T00:00:00Z', sha256: '0'.repeat(64), fields: [] };
    expect(problemOf(await handOn(director, id, 'back', 2, { agreed: forged })).details).toEqual(['agreed: value/wrong-type']);
    expect((await handOn(director, id, 'back', 2, { agreed: { sign: true } })).status).toBe(200);
    await handOn(registrar, id, 'pass', 3);
    const form = async () => (await call(director)('GET', `/api/records/${id}`)).body.form;
    expect((await form()).brokenSignOffs).toEqual([]);
    await handOn(director, id, 'back', 4);
    await handOn(registrar, id, 'pass', 5, { care: 'Robust.' });
    expect((await form()).brokenSignOffs).toEqual(['agreed']);
  });
});
