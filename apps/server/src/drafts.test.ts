import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { DraftEditEntry } from '@ypomet/contract';
import { describeEdit } from '@ypomet/core';
import { makeObjectLoan } from './demo/object-loan.ts';
import { cookiesOf, editing, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const EDITS = '/api/workflows/objectLoan/draft/edits';
const cell = (treatment: string | null, field = 'reason') =>
  editing({ type: 'set-treatments', cells: [{ field, stage: 'closed', treatment }] });

describe('signing in', () => {
  test('a wrong password and an unknown address are refused alike', async () => {
    const wrong = await server.anybody('POST', '/api/session', { email: 'ines@lindenmuseum.invalid', password: 'x' });
    const unknown = await server.anybody('POST', '/api/session', { email: 'nobody@lindenmuseum.invalid', password: 'x' });
    expect(wrong.body).toEqual(unknown.body);
    expect(problemOf(wrong)).toMatchObject({ status: 401, code: 'session/wrong-credentials' });
  });

  test('the cookie is out of reach of scripts and other sites', async () => {
    const answer = await server.anybody('POST', '/api/session', { email: 'INES@lindenmuseum.invalid', password: 'museum-loans' });
    for (const cookie of [answer.headers['set-cookie']].flat()) {
      expect(cookie).toMatch(/HttpOnly/);
      expect(cookie).toMatch(/SameSite=Strict/);
    }
    expect(answer.body.member).toMatchObject({ name: 'Ines Halvard', roles: ['analyst', 'administrator'] });
    expect(JSON.stringify(answer.body)).not.toContain('argon2');
  });

  test('signing out ends the session', async () => {
    const analyst = await server.as('analyst');
    expect((await analyst('GET', '/api/session')).status).toBe(200);
    expect((await analyst('DELETE', '/api/session')).status).toBe(204);
    expect((await analyst('GET', '/api/session')).status).toBe(401);
  });

  test.each(['/api/workflows', '/api/workflows/objectLoan/draft', '/api/deliveries', '/api/standins/mailbox'])(
    '%s is for analysts',
    async (url) => {
      expect(problemOf(await (await server.as('registrar'))('GET', url))).toMatchObject({
        status: 403,
        code: 'session/forbidden',
      });
      expect((await server.anybody('GET', url)).status).toBe(401);
    },
  );

  test('a change sent by another site’s page is refused', async () => {
    const analyst = await server.as('analyst');
    const answer = await analyst('POST', EDITS, cell('hidden'), { 'if-match': '"1"', origin: 'https://elsewhere.invalid' });
    expect(problemOf(answer)).toMatchObject({ status: 403, code: 'request/foreign-origin' });
    expect((await analyst('POST', EDITS, cell('hidden'), { 'if-match': '"1"', 'sec-fetch-site': 'cross-site' })).status).toBe(
      403,
    );
  });
});

describe('bad requests change nothing and say what is wrong', () => {
  const draft = async () => (await (await server.as('analyst'))('GET', '/api/workflows/objectLoan/draft')).body;

  test.each<[string, string | object, Record<string, string>, number, string]>([
    ['malformed JSON', '{"edits": [', { 'if-match': '"1"' }, 400, 'request/malformed'],
    ['an unknown property', { ...cell('hidden'), more: 1 }, { 'if-match': '"1"' }, 400, 'request/invalid'],
    ['an unknown edit', editing({ type: 'explode' }), { 'if-match': '"1"' }, 400, 'request/invalid'],
    ['a value of the wrong type', { edits: 'all' }, { 'if-match': '"1"' }, 400, 'request/invalid'],
    ['a treatment that is none', cell('invisible'), { 'if-match': '"1"' }, 400, 'request/invalid'],
    ['no revision', cell('hidden'), {}, 428, 'revision/missing'],
    ['a stale revision', cell('hidden'), { 'if-match': '"99"' }, 412, 'revision/stale'],
    ['a field that isn’t there', cell('hidden', 'nope'), { 'if-match': '"1"' }, 422, 'edit/refused'],
  ])('%s', async (_name, body, headers, status, code) => {
    const before = await draft();
    const answer = await (await server.as('analyst'))('POST', EDITS, body, headers);
    expect(problemOf(answer)).toMatchObject({ status, code });
    expect(answer.headers['content-type']).toContain('application/problem+json');
    expect(await draft()).toEqual(before);
  });

  test('another media type', async () => {
    const answer = await (await server.as('analyst'))('POST', EDITS, 'a=b', { 'if-match': '"1"', 'content-type': 'text/csv' });
    expect(problemOf(answer)).toMatchObject({ status: 415, code: 'request/unsupported-media-type' });
  });

  test('ten megabytes', async () => {
    const answer = await (await server.as('analyst'))('POST', EDITS, `"${'x'.repeat(10_000_000)}"`, { 'if-match': '"1"' });
    expect(problemOf(answer)).toMatchObject({ status: 413, code: 'request/too-large' });
  });
});

describe('a draft', () => {
  test('takes edits one revision at a time, and is published when it has no faults', async () => {
    const analyst = await server.as('analyst');
    const edited = await analyst('POST', EDITS, cell('required'), { 'if-match': '"1"' });
    expect(edited).toMatchObject({ status: 200, body: { revision: 2, differs: true }, headers: { etag: '"2"' } });

    const part = 'handOffs.accept.branches.conservationReview';
    const broken = editing({ type: 'change-part', part, set: { when: 'totalValu > 5 and kind = "exhibtion"' } });
    await analyst('POST', EDITS, broken, { 'if-match': '"2"' });
    const refused = await analyst('POST', '/api/workflows/objectLoan/versions', undefined, { 'if-match': '"3"' });
    expect(problemOf(refused)).toEqual({
      status: 422,
      code: 'workflow/invalid',
      details: [
        'handOffs.accept.branches.conservationReview.when: expression/unknown-name-near',
        'handOffs.accept.branches.conservationReview.when: expression/unknown-option-near',
      ],
    });
    expect(refused.body.details[0].message).toBe('Nothing is called “totalValu”. Did you mean “totalValue”?');

    const mended = editing({ type: 'change-part', part, set: { when: 'totalValue > 5' } });
    await analyst('POST', EDITS, mended, { 'if-match': '"3"' });
    const published = await analyst('POST', '/api/workflows/objectLoan/versions', undefined, { 'if-match': '"4"' });
    expect(published).toMatchObject({ status: 201, body: { number: 2, publishedBy: 'Ines Halvard' } });
    const versions = (await analyst('GET', '/api/workflows/objectLoan/versions')).body;
    expect(versions.map((version: { number: number; recordsOpen: number }) => [version.number, version.recordsOpen])).toEqual([
      [2, 0],
      [1, 4],
    ]);
    const first = (await analyst('GET', '/api/workflows/objectLoan/versions/1')).body.definition;
    expect(first).toEqual(makeObjectLoan());
  });

  test('whose follow-ups open each other, or whose outlets and members aren’t there, isn’t published', async () => {
    const analyst = await server.as('analyst');
    const definition = makeObjectLoan();
    const circle = { key: 'report', name: 'Report', workflow: 'inACircle', handOff: 'submit' };
    const mail = { key: 'm', kind: 'mail', name: 'M', outlet: 'nowhere', subject: 's', body: 'b' };
    const to = [{ kind: 'member', member: '00000000-0000-4000-8000-000000000000' }];
    const handOffs = definition.handOffs.map((handOff) =>
      handOff.key === 'agree' ? { ...handOff, followUps: [circle], deliveries: [{ ...mail, to }] } : handOff,
    );
    await analyst('POST', '/api/workflows', { ...definition, key: 'inACircle', handOffs });
    const refused = await analyst('POST', '/api/workflows/inACircle/versions', undefined, { 'if-match': '"1"' });
    expect(problemOf(refused)).toEqual({
      status: 422,
      code: 'workflow/invalid',
      details: [
        'handOffs.agree.followUps.report: follow-up/circle',
        'handOffs.agree.deliveries.m.outlet: delivery/unknown-outlet',
        'handOffs.agree.deliveries.m.to.to1.member: workflow/unknown-key',
      ],
    });
  });

  test('of two analysts at once the later is told', async () => {
    const analyst = await server.as('analyst');
    const { revision } = (await analyst('GET', '/api/workflows/objectLoan/draft')).body;
    const answers = await Promise.all(
      ['hidden', 'optional'].map((treatment) => analyst('POST', EDITS, cell(treatment), { 'if-match': `"${revision}"` })),
    );
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 412]);
  });
});

describe('edits of a draft', () => {
  const small = (key: string, more: object = {}) => ({
    format: 'ypomet.workflow/1',
    key,
    name: key,
    sections: [{ key: 'all', name: 'All' }],
    fields: [{ type: 'text', key: 'a', name: 'A', section: 'all', treatment: 'optional' }],
    tracks: [{ key: 'main', name: 'Main' }],
    stages: [
      { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
      { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
    ],
    handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } }],
    ...more,
  });
  const edits = (key: string) => `/api/workflows/${key}/draft/edits`;

  test('whose answer was lost aren’t made twice: who asks again is told that there is more', async () => {
    const analyst = await server.as('analyst');
    await analyst('POST', '/api/workflows', small('lostAnswers'));
    const field = { type: 'text', key: 'b', name: 'B', section: 'all' };
    const body = editing({ type: 'add-part', to: 'fields', part: field, before: null });
    expect((await analyst('POST', edits('lostAnswers'), body, { 'if-match': '"1"' })).status).toBe(200);
    for (const revision of [1, 2]) {
      const again = await analyst('POST', edits('lostAnswers'), body, { 'if-match': `"${revision}"` });
      expect(again.status).toBe(revision === 1 ? 412 : 422);
    }
    const set = editing({ type: 'set-treatments', cells: [{ field: 'a', stage: 'done', treatment: 'hidden' }] });
    await analyst('POST', edits('lostAnswers'), set, { 'if-match': '"2"' });
    const again = await analyst('POST', edits('lostAnswers'), set, { 'if-match': '"3"' });
    expect(problemOf(again)).toMatchObject({ status: 412, code: 'revision/stale' });
    const { entries } = (await analyst('GET', `${edits('lostAnswers')}?since=1`)).body;
    expect(entries.map(({ id }: { id: string }) => id)).toEqual([body.edits[0]?.id, set.edits[0]?.id]);
  });

  test('are told with who, when and what, newest first, a page at a time', async () => {
    const analyst = await server.as('analyst');
    await analyst('POST', '/api/workflows', small('history'));
    const body = editing(
      { type: 'set-treatments', cells: [{ field: 'a', stage: 'done', treatment: 'required' }] },
      { type: 'rename-key', part: 'fields.a', key: 'reason' },
      { type: 'change-part', part: 'fields.reason', set: { name: 'Reason' } },
    );
    await analyst('POST', edits('history'), body, { 'if-match': '"1"' });
    const first = (await analyst('GET', `${edits('history')}?limit=2`)).body;
    const second = (await analyst('GET', `${edits('history')}?limit=2&after=${first.next}`)).body;
    const all = [...first.entries, ...second.entries] as DraftEditEntry[];
    expect(all.map(({ by, sentence }) => `${by} ${describeEdit(sentence)}`)).toEqual([
      'Ines Halvard renamed the field “A” to “Reason”',
      'Ines Halvard gave the field “A” the key “reason”',
      'Ines Halvard made “A” required at Done',
    ]);
    expect([second.next, all[1]?.renames]).toEqual([null, [{ part: 'fields.a', key: 'reason' }]]);
    expect(Date.parse(all[0]?.at ?? '')).toBeGreaterThan(0);
    expect((await analyst('GET', `${edits('history')}?after=nonsense`)).status).toBe(400);
    expect((await (await server.as('registrar'))('GET', edits('history'))).status).toBe(403);
  });

  test('that rename look through references: a part of the other workflow keeps its name', async () => {
    const analyst = await server.as('analyst');
    const lines = { type: 'table', key: 'lines', name: 'L', section: 'all', fields: [{ type: 'number', key: 'n', name: 'N' }] };
    await publishDefinition(analyst, small('farAway', { fields: [lines] }));
    const fields = [
      { type: 'number', key: 'n', name: 'N', section: 'all', treatment: 'optional' },
      { type: 'reference', key: 'other', name: 'Other', section: 'all', workflow: 'farAway', treatment: 'optional' },
    ];
    const checks = [{ key: 'c', name: 'C', condition: 'count(other.lines[n > 1]) > n', message: 'No.' }];
    await analyst('POST', '/api/workflows', small('nearBy', { fields, checks }));
    const body = editing({ type: 'rename-key', part: 'fields.n', key: 'least' });
    expect((await analyst('POST', edits('nearBy'), body, { 'if-match': '"1"' })).status).toBe(200);
    const { definition } = (await analyst('GET', '/api/workflows/nearBy/draft')).body;
    expect(definition.checks[0].condition).toBe('count(other.lines[n > 1]) > least');
    // The check reads the field in an expression that also reads the other workflow. Deleting the field is refused, because it is used.
    const deletion = editing({ type: 'delete-part', part: 'fields.least' });
    const refused = problemOf(await analyst('POST', edits('nearBy'), deletion, { 'if-match': '"2"' }));
    expect(refused).toEqual({ status: 422, code: 'edit/refused', details: ['fields.least: edit/in-use'] });
  });

  test('a file read in is what it changes; the same file again changes nothing', async () => {
    const analyst = await server.as('analyst');
    await analyst('POST', '/api/workflows', small('readIn'));
    const file = small('readIn', { name: 'Read in' });
    const put = (revision: number) => analyst('PUT', '/api/workflows/readIn/draft', file, { 'if-match': `"${revision}"` });
    expect((await put(1)).body).toMatchObject({ revision: 2, definition: { name: 'Read in' } });
    expect((await put(2)).status).toBe(200);
    const { entries } = (await analyst('GET', edits('readIn'))).body;
    expect(entries.map(({ sentence }: DraftEditEntry) => describeEdit(sentence))).toEqual([
      'read in a file, which changed Read in',
    ]);
  });
});

describe('definitions as files', () => {
  test('export, import and export again gives the same, byte for byte', async () => {
    const analyst = await server.as('analyst');
    const first = await analyst('GET', '/api/workflows/objectLoan/definition.json');
    const text = JSON.stringify(first.body, null, 2);
    const copy = text.replace('"key": "objectLoan"', '"key": "objectLoanCopy"');
    const created = await analyst('POST', '/api/workflows', copy);
    expect(created).toMatchObject({ status: 201, body: { revision: 1, publishedVersion: null } });
    const second = await server.server.app.inject({
      url: '/api/workflows/objectLoanCopy/definition.json',
      headers: { cookie: await cookieOf() },
    });
    expect(second.body).toBe(`${copy}\n`);
    expect(problemOf(await analyst('POST', '/api/workflows', copy))).toMatchObject({ status: 409, code: 'workflow/exists' });
  });

  test('a file with unknown parts is refused with their paths', async () => {
    const analyst = await server.as('analyst');
    const definition = {
      ...makeObjectLoan(),
      key: 'other',
      surprise: 1,
      stages: [{ key: 'a', name: '', kind: 'work', tracks: ['t'] }],
    };
    const answer = await analyst('POST', '/api/workflows', definition);
    expect(problemOf(answer)).toMatchObject({ status: 400, code: 'request/invalid' });
    expect(answer.body.details.map((detail: { path: string }) => detail.path)).toContain('stages.0.name');
  });

  const cookieOf = async (): Promise<string> => {
    const answer = await server.anybody('POST', '/api/session', { email: 'ines@lindenmuseum.invalid', password: 'museum-loans' });
    return cookiesOf(answer);
  };
});

describe('the contract', () => {
  test('health is known without a session', async () => {
    expect((await server.anybody('GET', '/api/health')).body).toMatchObject({ status: 'ok', database: true, queue: true });
  });

  test('the JSON Schema of definitions is served', async () => {
    const { body } = await server.anybody('GET', '/api/schemas/workflow.json');
    expect(body.title).toBe('Ypomet workflow definition');
  });

  test('what isn’t there is a problem too', async () => {
    expect(problemOf(await server.anybody('GET', '/api/nothing'))).toMatchObject({ status: 404, code: 'thing/not-found' });
  });
});
