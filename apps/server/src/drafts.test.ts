import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { makeObjectLoan } from './demo/object-loan.ts';
import { cookiesOf, problemOf, TestServer } from './testing/test-server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const EDITS = '/api/workflows/objectLoan/draft/edits';
const cell = (treatment: string | null, field = 'reason') => ({
  edits: [{ type: 'set-treatments', cells: [{ field, stage: 'closed', treatment }] }],
});

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
    ['an unknown edit', { edits: [{ type: 'explode' }] }, { 'if-match': '"1"' }, 400, 'request/invalid'],
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

    const broken = {
      edits: [
        {
          type: 'set-branch-condition',
          handOff: 'accept',
          branch: 'conservationReview',
          when: 'totalValu > 5 and kind = "exhibtion"',
        },
      ],
    };
    await analyst('POST', EDITS, broken, { 'if-match': '"2"' });
    const refused = await analyst('POST', '/api/workflows/objectLoan/versions', undefined, { 'if-match': '"3"' });
    expect(problemOf(refused)).toEqual({
      status: 422,
      code: 'workflow/invalid',
      details: [
        'handOffs.1.branches.1.when: expression/unknown-name-near',
        'handOffs.1.branches.1.when: expression/unknown-option-near',
      ],
    });
    expect(refused.body.details[0].message).toBe('Nothing is called “totalValu”. Did you mean “totalValue”?');

    const mended = {
      edits: [{ type: 'set-branch-condition', handOff: 'accept', branch: 'conservationReview', when: 'totalValue > 5' }],
    };
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

  test('with follow-ups isn’t published: they would be dropped', async () => {
    const analyst = await server.as('analyst');
    const definition = makeObjectLoan();
    const followUp = { key: 'report', name: 'Report', workflow: 'objectLoan', handOff: 'submit' };
    const handOffs = definition.handOffs.map((handOff) =>
      handOff.key === 'agree' ? { ...handOff, followUps: [followUp] } : handOff,
    );
    await analyst('POST', '/api/workflows', { ...definition, key: 'withFollowUps', handOffs });
    const refused = await analyst('POST', '/api/workflows/withFollowUps/versions', undefined, { 'if-match': '"1"' });
    expect(problemOf(refused)).toEqual({ status: 422, code: 'workflow/invalid', details: [] });
    expect(refused.body.detail).toBe('Follow-ups can’t be run yet. Remove them to publish.');
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
  test('is served as OpenAPI 3.1, every operation with its answers', async () => {
    const { body } = await server.anybody('GET', '/api/openapi.json');
    expect(body.openapi).toBe('3.1.0');
    expect(Object.keys(body.paths['/api/records/{id}/hand-offs'].post.responses)).toEqual(
      expect.arrayContaining(['200', '4xx'.toUpperCase()]),
    );
    expect(Object.keys(body.paths)).toHaveLength(28);
  });

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
