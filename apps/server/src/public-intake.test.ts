import { mkdtempSync, readdirSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { forgetOld } from './modules/housekeeping.ts';
import { PASS_GOOD_MS } from './modules/public-intake/guests.ts';
import { FASTEST_MS } from './modules/public-intake/service.ts';
import { offerDefinition, optionalText } from './testing/offer-definition.ts';
import {
  type Call,
  eventually,
  loanRequest,
  objectRow,
  problemOf,
  publishDefinition,
  TestServer,
} from './testing/test-server.ts';

// People without an account: what they may begin, follow and answer, and nothing else.
let server: TestServer;
let analyst: Call;
let registrar: Call;
let offset = 0;
let visitors = 0;

const SETTINGS = {
  isOpen: true,
  opensAt: null,
  closesAt: null,
  maxRecords: null,
  maxPerHour: 1000,
  nameField: 'borrower',
  mailField: 'borrowerEmail',
  acknowledgement: '',
  frames: [],
};
const REQUEST = loanRequest(objectRow('a', 'Lamp', 'metal', '100'));

beforeAll(async () => {
  const webDir = mkdtempSync(path.join(os.tmpdir(), 'ypomet-web-'));
  writeFileSync(path.join(webDir, 'index.html'), '<!doctype html><title>Ypomet</title>');
  server = await TestServer.make({ clock: () => Date.now() + offset, webDir, trustedProxies: ['127.0.0.1'] });
  [analyst, registrar] = await Promise.all([server.as('analyst'), server.as('registrar')]);
});
afterAll(() => server.close());

const put = (more: object = {}, stage = 'request', key = 'objectLoan') =>
  analyst('PUT', `/api/workflows/${key}/links/${stage}`, { ...SETTINGS, ...more });
const addressOf = async (more: object = {}): Promise<string> => (await put(more)).body.link.address;

/** Opens a link, waits as people do, and calls with the pass. */
async function visit(address: string, isQuick = false) {
  // Each from an address of their own.
  const from = { 'x-forwarded-for': `192.0.2.${visitors++ % 256}` };
  const opened = await server.anybody('GET', `/api/public/${address}`, undefined, from);
  const { pass, guest } = opened.body.intake;
  if (!isQuick) offset += FASTEST_MS;
  const call: Call = (method, url, body, headers) =>
    server.anybody(method, url, body, { authorization: `Bearer ${pass}`, ...from, ...headers });
  const begin = (values: object = REQUEST, more: object = {}, key?: string) =>
    call(
      'POST',
      `/api/public/${address}/records`,
      { handOff: 'submit', values, ...more },
      key === undefined ? {} : { 'idempotency-key': key },
    );
  return { opened: opened.body, pass, guest, call, begin };
}

describe('a public link', () => {
  test('is set up for an intake of the published version, and shows its form to anybody', async () => {
    const list = await analyst('GET', '/api/workflows/objectLoan/links');
    expect(list.body).toMatchObject([{ stage: 'request', stageName: 'Request', link: null, remarks: [] }]);
    expect(list.body[0].texts.map(({ key }: { key: string }) => key)).toEqual(['borrower', 'borrowerEmail']);
    const address = await addressOf();
    expect(address).toMatch(/^[A-Za-z0-9_-]{22}$/);
    const { opened } = await visit(address);
    expect(opened).toMatchObject({ name: 'Object loan', stageName: 'Request', state: 'open' });
    expect(opened.intake.form.definition.fields.map(({ key }: { key: string }) => key)).toContain('borrower');
    expect(JSON.stringify(opened)).not.toContain('careNotes');
  });

  test('keeps its address when it is changed, and loses it when that is renewed', async () => {
    const before = await addressOf();
    expect(await addressOf({ maxPerHour: 900 })).toBe(before);
    const { call } = await visit(before);
    const renewed = await analyst('POST', '/api/workflows/objectLoan/links/request/addresses');
    expect(renewed.body.link.address).not.toBe(before);
    expect((await server.anybody('GET', `/api/public/${before}`)).status).toBe(404);
    const late = await call('POST', `/api/public/${before}/records`, { handOff: 'submit', values: REQUEST });
    expect(problemOf(late as never)).toMatchObject({ status: 409, code: 'link/shut' });
  });

  test.each([
    ['a stage that is none', { isOpen: true }, 'registrarCheck', 'stage'],
    [
      'an end before its beginning',
      { opensAt: '2027-02-01T00:00:00.000Z', closesAt: '2027-01-01T00:00:00.000Z' },
      'request',
      'closesAt',
    ],
    ['a name that isn’t entered there', { nameField: 'careNotes' }, 'request', 'nameField'],
    ['a mail address that is a choice', { mailField: 'kind' }, 'request', 'mailField'],
    ['a text that can’t be filled in', { acknowledgement: 'Thanks, {{borower}}' }, 'request', 'acknowledgement'],
  ])('refuses %s', async (_, more, stage, at) => {
    const { body, status } = await put(more, stage);
    expect([status, body.code, body.details[0].path]).toEqual([422, 'link/unfit', at]);
    expect(body.details[0].message).not.toBe('');
  });

  test.each([
    ['javascript:alert(1)'],
    ['https://a.example/path'],
    ["https://a.example; script-src 'unsafe-inline'"],
    ['https://*.example'],
  ])('takes %s for no site that may show it', async (frame) => {
    expect((await put({ frames: [frame] })).status).toBe(400);
  });

  test('tells why nothing can be begun: off, not yet, over, full', async () => {
    const address = await addressOf();
    const shut = async (more: object) => {
      await put(more);
      const { body } = await server.anybody('GET', `/api/public/${address}`);
      return [body.state, body.intake];
    };
    const { begin, call } = await visit(address);
    const at = (days: number) => new Date(Date.now() + offset + days * 86_400_000).toISOString();
    expect(await shut({ isOpen: false })).toEqual(['off', null]);
    expect(await shut({ opensAt: at(1) })).toEqual(['not-yet', null]);
    expect(await shut({ closesAt: at(-1) })).toEqual(['over', null]);
    // A form that was open before it ended is refused too, and says so.
    expect(problemOf((await begin()) as never).code).toBe('link/shut');
    expect(problemOf((await call('POST', `/api/public/${address}/form`, { values: {} })) as never).code).toBe('link/shut');
    await put({ closesAt: at(1) });
    expect((await begin()).status).toBe(201);
    expect(await shut({ maxRecords: 1 })).toEqual(['full', null]);
  });

  test('is off when only roles may begin there any more, or its workflow is put away', async () => {
    const design = (roles: readonly string[]) => ({
      format: 'ypomet.workflow/1',
      key: `offer${roles.length}`,
      name: 'Offer',
      roles: [{ key: 'registrar', name: 'Registrar' }],
      sections: [{ key: 'all', name: 'All' }],
      fields: [
        { key: 'what', name: 'What', section: 'all', type: 'text', treatment: 'required' },
        { key: 'keeper', name: 'Keeper', section: 'all', type: 'member', treatment: 'optional' },
      ],
      tracks: [{ key: 'main', name: 'Main' }],
      stages: [
        { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles },
        { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
      ],
      handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'done' } }],
    });
    await publishDefinition(analyst, design(['registrar']));
    await publishDefinition(analyst, design([]));
    const own = { nameField: 'what', mailField: null };
    const refused = await put(own, 'ask', 'offer1');
    expect([refused.status, refused.body.details[0].path]).toEqual([422, 'stage']);
    const open = await put(own, 'ask', 'offer0');
    expect(open.body.remarks).toEqual(['Guests can’t choose “Keeper”: members and records are not shown to them.']);
    const { address } = open.body.link;
    expect((await server.anybody('GET', `/api/public/${address}`)).body.state).toBe('open');
    await analyst('PUT', '/api/workflows/offer0', { isArchived: true });
    const away = (await server.anybody('GET', `/api/public/${address}`)).body;
    expect([away.state, away.intake, away.name]).toEqual(['off', null, '']);
  });
});

describe('a guest', () => {
  test('begins a record, follows it, and answers when it comes back', async () => {
    const address = await addressOf({ acknowledgement: 'Thank you, **{{borrower}}**: {{record.number}}.' });
    const { begin, call, pass } = await visit(address);
    const done = await begin();
    expect(done.status).toBe(201);
    expect(done.body.record).toMatchObject({ stageName: 'Registrar check', assigneeName: null });
    expect(JSON.stringify(done.body.acknowledgement)).toContain(`: ${done.body.record.number}.`);
    const followed = await call('GET', '/api/followed');
    expect(followed.body).toMatchObject({ guest: { name: 'Hollen Street Gallery' }, record: done.body.record.id });
    const at = `/api/records/${followed.body.record}`;
    expect((await call('GET', at)).body).toMatchObject({
      mayAct: false,
      form: { values: { borrower: 'Hollen Street Gallery' } },
    });

    // The registrar asks, and the guest answers.
    const seen = await registrar('GET', at);
    expect(seen.body.record.revision).toBe(1);
    const back = await registrar(
      'POST',
      `${at}/hand-offs`,
      { handOff: 'askBorrower', values: { reason: 'Which lamp?' } },
      { 'if-match': '"1"' },
    );
    expect(back.body.record.stage).toBe('request');
    const again = (await call('GET', at)).body;
    expect(again).toMatchObject({ mayAct: true, record: { revision: 2 } });
    // What was sent to them they know of, by its subject; of what was sent to others nothing.
    expect(again.sent.map(({ what, to }: { what: string; to: string[] }) => [what, to])).toEqual([
      [`Your loan request ${done.body.record.number}`, ['beryl@hollenstreet.invalid']],
    ]);
    expect(again.history.map(({ by }: { by: string | null }) => by)).toEqual(['Hollen Street Gallery', 'Linden Regional Museum']);
    expect((await call('POST', `${at}/form`, { values: { borrower: 'Hollen Street Hall' } })).status).toBe(200);
    const sent = await call(
      'POST',
      `${at}/hand-offs`,
      { handOff: 'submit', values: { borrower: 'Hollen Street Hall' } },
      { 'if-match': '"2"' },
    );
    expect(sent.body.record).toMatchObject({ stage: 'registrarCheck', assignee: null });
    // The name follows the field that says it.
    const desk = await registrar('GET', '/api/desk?limit=200');
    const entry = desk.body.entries.find(({ record }: { record: { id: string } }) => record.id === done.body.record.id);
    expect(entry.submitter).toBe('Hollen Street Hall');
    // And the pass still leads there when the link is off.
    await put({ isOpen: false });
    expect((await server.anybody('GET', '/api/followed', undefined, { authorization: `Bearer ${pass}` })).status).toBe(200);
  });

  test('hands in one record with a pass; the same request twice is one', async () => {
    const address = await addressOf();
    const { begin } = await visit(address);
    const first = await begin(REQUEST, {}, 'guest-key-1');
    const second = await begin(REQUEST, {}, 'guest-key-1');
    expect(second.body.record.id).toBe(first.body.record.id);
    expect(problemOf((await begin(REQUEST, {}, 'guest-key-2')) as never)).toMatchObject({ status: 409, code: 'link/used' });
  });

  test('is told what is wrong with what was entered, and nothing is begun', async () => {
    const { begin, call } = await visit(await addressOf());
    const refused = await begin({ ...REQUEST, borrower: '' });
    expect(problemOf(refused as never)).toMatchObject({ status: 422, code: 'hand-off/refused' });
    expect((await call('GET', '/api/followed')).body.record).toBeNull();
    expect((await begin()).status).toBe(201);
  });

  test('is taken for a program that fills in what people don’t see, or is faster than they are', async () => {
    const { begin } = await visit(await addressOf(), true);
    expect(problemOf((await begin()) as never)).toMatchObject({ status: 422, code: 'link/looks-automatic' });
    offset += FASTEST_MS;
    expect(problemOf((await begin(REQUEST, { trap: 'https://pills.invalid' })) as never).code).toBe('link/looks-automatic');
    // Nothing is lost: people press again.
    expect((await begin()).status).toBe(201);
  });

  test('gets no more records out of a link than it allows, however many ask at once', async () => {
    const address = await addressOf();
    const begun = (await put()).body.link.begun;
    await put({ maxRecords: begun + 3 });
    const visits = await Promise.all(Array.from({ length: 10 }, () => visit(address)));
    const answers = await Promise.all(visits.map(({ begin }) => begin()));
    expect(answers.filter(({ status }) => status === 201)).toHaveLength(3);
    expect(answers.filter(({ body }) => body.code === 'link/shut')).toHaveLength(7);
    offset += 3_600_000;
    await put({ maxPerHour: 2 });
    const next = await Promise.all(Array.from({ length: 4 }, () => visit(address)));
    const later: number[] = [];
    for (const { begin } of next) later.push((await begin()).status);
    expect(later).toEqual([201, 201, 429, 429]);
    offset += 3_600_000;
    expect((await (await visit(address)).begin()).status).toBe(201);
  });

  test('reaches nothing but what is theirs', async () => {
    const address = await addressOf();
    const one = await visit(address);
    const other = await visit(address);
    const record = (await one.begin()).body.record.id;
    for (const url of [`/api/records/${record}`, `/api/records/${record}/shown`])
      expect((await other.call('GET', url)).status).toBe(404);
    const stolen = await other.call(
      'POST',
      `/api/records/${record}/hand-offs`,
      { handOff: 'accept', values: {} },
      { 'if-match': '"1"' },
    );
    expect(stolen.status).toBe(404);
    for (const [method, url] of [
      ['GET', '/api/desk'],
      ['GET', '/api/session'],
      ['GET', '/api/members'],
      ['GET', '/api/intakes'],
      ['GET', '/api/registers'],
      ['POST', '/api/intakes/objectLoan/records'],
      ['GET', `/api/records/${record}/choices?field=borrower`],
      ['GET', `/api/changes?record=${record}`],
    ] as const) {
      const answer = await one.call(
        method,
        url,
        method === 'POST' ? { stage: 'request', handOff: 'submit', values: REQUEST } : undefined,
      );
      expect([url, answer.status]).toEqual([url, 403]);
    }
  });

  test('is in no list of members, and nobody signs in as one', async () => {
    const { begin, guest } = await visit(await addressOf());
    await begin({ ...REQUEST, borrowerEmail: 'ines@lindenmuseum.invalid' });
    const members = await analyst('GET', '/api/members');
    expect(members.body.map(({ id }: { id: string }) => id)).not.toContain(guest);
    const signIn = (email: string, password: string) => server.anybody('POST', '/api/session', { email, password });
    // A guest who gives a member's address is not that member, and the member still signs in.
    expect((await signIn('ines@lindenmuseum.invalid', '')).status).toBe(400);
    expect((await signIn('ines@lindenmuseum.invalid', 'museum-loans')).status).toBe(200);
  });

  test('hands over files before the record is there, and reads them again', async () => {
    const address = await addressOf();
    const { call, begin, pass } = await visit(address);
    const headers = { 'content-type': 'application/pdf', authorization: `Bearer ${pass}` };
    const file = await server.anybody('POST', '/api/files?name=rooms.pdf', '%PDF-1.7 rooms', headers);
    expect(file.status).toBe(201);
    const done = await begin({ ...REQUEST, facilityReport: [file.body] });
    expect(done.status).toBe(201);
    const contents = await call('GET', `/api/records/${done.body.record.id}/files/${file.body.sha256}`);
    expect([contents.status, contents.body]).toEqual([200, '%PDF-1.7 rooms']);
    // Another guest's file isn't theirs to name.
    const other = await visit(address);
    expect((await other.begin({ ...REQUEST, facilityReport: [file.body] })).status).toBe(422);
    await put({ isOpen: false });
    const late = await other.call('POST', '/api/files?name=late.pdf', '%PDF', { 'content-type': 'application/pdf' });
    expect(problemOf(late as never).code).toBe('link/shut');
  });

  test('who hands in twice at once under one key gets one record, and one answer for both', async () => {
    const { begin } = await visit(await addressOf());
    const answers = await Promise.all(Array.from({ length: 4 }, () => begin(REQUEST, {}, 'guest-key-at-once')));
    expect(answers.map(({ status }) => status)).toEqual([201, 201, 201, 201]);
    expect(new Set(answers.map(({ body }) => body.record.id)).size).toBe(1);
    // Two different keys ask for two records, but a guest's pass allows only one, so the second request is refused.
    const other = await visit(await addressOf());
    const both = await Promise.all(['guest-key-a', 'guest-key-b'].map((key) => other.begin(REQUEST, {}, key)));
    expect(both.map(({ status }) => status).sort()).toEqual([201, 409]);
  });

  test('has at most five files under way', async () => {
    const { pass } = await visit(await addressOf());
    const begin = async (): Promise<number> => {
      const headers = {
        authorization: `Bearer ${pass}`,
        'tus-resumable': '1.0.0',
        'upload-length': '1000',
        'upload-metadata': `filename ${Buffer.from('a.pdf').toString('base64')}`,
      };
      return (await server.anybody('POST', '/api/uploads', undefined, headers)).status;
    };
    const statuses = [];
    for (let count = 0; count < 7; count++) statuses.push(await begin());
    expect(statuses).toEqual([201, 201, 201, 201, 201, 429, 429]);
  });

  test('who never handed anything in is forgotten, with their files', async () => {
    const address = await addressOf();
    const { pass, guest } = await visit(address);
    const headers = { 'content-type': 'application/pdf', authorization: `Bearer ${pass}` };
    const { body } = await server.anybody('POST', '/api/files?name=idle.pdf', '%PDF-1.7 idle', headers);
    const { pool } = server.server.context.database;
    const store = server.server.context.files;
    const at = path.join(server.dataDir, 'files', body.sha256.slice(0, 2), body.sha256);
    await forgetOld(pool, store, Date.now() + offset);
    expect(statSync(at).size).toBe(13);
    utimesSync(at, 0, 0);
    offset += PASS_GOOD_MS + 1000;
    await forgetOld(pool, store, Date.now() + offset);
    expect(readdirSync(path.dirname(at))).toEqual([]);
    expect((await pool.query('select 1 from members where id = $1', [guest])).rowCount).toBe(0);
    // And the pass is none any more.
    expect((await server.anybody('GET', '/api/followed', undefined, { authorization: `Bearer ${pass}` })).status).toBe(401);
  });
});

describe('who a guest is', () => {
  const offer = (key: string, confidentialTo: readonly string[]) =>
    offerDefinition({
      key,
      fields: [{ ...optionalText('who'), confidentialTo }, optionalText('mail')],
      onSubmit: [
        {
          kind: 'mail',
          key: 'thanks',
          name: 'Thanks',
          to: [{ kind: 'submitter' }, { kind: 'role', role: 'registrar' }],
          subject: 'Offer of {{actor.name}}',
          body: 'It came.',
        },
      ],
    });

  test('is said by fields that everybody may read, by none that became confidential', async () => {
    await publishDefinition(analyst, offer('openly', []));
    const own = { nameField: 'who', mailField: 'mail' };
    const link = await put(own, 'ask', 'openly');
    const draft = await analyst('GET', '/api/workflows/openly/draft');
    await analyst('PUT', '/api/workflows/openly/draft', offer('openly', ['registrar']), {
      'if-match': `"${draft.body.revision}"`,
    });
    const refused = await analyst(
      'POST',
      '/api/workflows/openly/versions',
      { accepted: [] },
      { 'if-match': `"${draft.body.revision + 1}"` },
    );
    const accepted = refused.body.details?.map(({ path: at, code }: { path: string; code: string }) => ({
      path: at,
      code,
      reason: 'For a test.',
    }));
    if (refused.status !== 201)
      expect(
        (await analyst('POST', '/api/workflows/openly/versions', { accepted }, { 'if-match': `"${draft.body.revision + 1}"` }))
          .status,
      ).toBe(201);
    const { begin, call } = await visit(link.body.link.address);
    const done = await begin({ mail: 'not an address' });
    expect(done.status).toBe(201);
    expect((await call('GET', '/api/followed')).body.guest.name).toBe('A guest');
    // One without an address is written to by nobody; the others are.
    const { rows } = await server.server.context.database.pool.query(
      'select recipients, subject, fault from deliveries where record = $1',
      [done.body.record.id],
    );
    expect(rows).toEqual([{ recipients: ['rufus@lindenmuseum.invalid'], subject: 'Offer of A guest', fault: null }]);
  });
});

describe('the private address', () => {
  test('is told by mail to the guest alone, and is in nothing that is kept', async () => {
    const { begin, pass } = await visit(await addressOf());
    const email = 'private@hollenstreet.invalid';
    const done = await begin({ ...REQUEST, borrowerEmail: email });
    const at = `/api/records/${done.body.record.id}/hand-offs`;
    await registrar('POST', at, { handOff: 'askBorrower', values: { reason: 'Which?' } }, { 'if-match': '"1"' });
    type Entry = { readonly id: string; readonly to: readonly string[]; readonly subject: string };
    const mailOf = async (subject: RegExp) => {
      const mails: readonly Entry[] = await eventually(
        async () => (await analyst('GET', '/api/standins/mailbox?limit=200')).body.entries,
        (entries) => entries.some((entry: Entry) => entry.to.includes(email) && subject.test(entry.subject)),
      );
      return { mails, own: mails.find((entry) => entry.to.includes(email) && subject.test(entry.subject)) as Entry };
    };
    const asked = await analyst('GET', `/api/standins/mailbox/${(await mailOf(/confirm/)).own.id}`);
    const [, token] = /\/confirm#(\S+)/.exec(asked.body.text) ?? [];
    expect((await server.anybody('POST', '/api/confirmations', { token })).status).toBe(200);
    const { mails, own } = await mailOf(/loan request/i);
    const mail = await analyst('GET', `/api/standins/mailbox/${own.id}`);
    expect(mail.body.text).toContain(`http://ypomet.invalid/follow#${pass}`);
    const { rows } = await server.server.context.database.pool.query('select content from deliveries');
    expect(JSON.stringify(rows)).not.toContain(pass);
    for (const other of mails.filter(({ id }: { id: string }) => id !== own.id)) {
      const { body } = await analyst('GET', `/api/standins/mailbox/${other.id}`);
      expect(body.text).not.toContain(pass);
    }
  });
});

describe('within other sites’ pages', () => {
  test('only the form of a link stands, and only in those it names', async () => {
    const address = await addressOf({ frames: ['https://museum.example', 'http://localhost:8080'] });
    const headersOf = async (url: string) => (await server.anybody('GET', url)).headers;
    const own = await headersOf(`/embed/${address}`);
    expect(own['content-security-policy']).toContain('frame-ancestors https://museum.example http://localhost:8080');
    expect(own['x-frame-options']).toBeUndefined();
    for (const url of [`/open/${address}`, '/follow', '/desk', '/embed/nothing']) {
      const other = await headersOf(url);
      expect([url, String(other['content-security-policy']).includes("frame-ancestors 'none'")]).toEqual([url, true]);
      expect(other['x-frame-options']).toBe('SAMEORIGIN');
    }
    await put({ isOpen: false, frames: ['https://museum.example'] });
    expect((await headersOf(`/embed/${address}`))['content-security-policy']).toContain("frame-ancestors 'none'");
  });
});

describe('many requests', () => {
  test('to a link are refused by address, before anything is done', async () => {
    const address = await addressOf();
    const answers: number[] = [];
    for (let sent = 0; sent < 1000; sent += 100) {
      const some = await Promise.all(Array.from({ length: 100 }, () => server.anybody('GET', `/api/public/${address}`)));
      answers.push(...some.map(({ status }) => status));
    }
    expect(answers.filter((status) => status === 429).length).toBeGreaterThanOrEqual(1000 - 120);
    const refused = await server.anybody('GET', `/api/public/${address}`);
    expect(Number(refused.headers['retry-after'])).toBeGreaterThan(0);
  });

  test('are told apart by who asks, where a proxy in front says it', async () => {
    const behind = await TestServer.make({ trustedProxies: ['127.0.0.1'] });
    try {
      const call = (from: string) =>
        behind.anybody('GET', '/api/public/AAAAAAAAAAAAAAAAAAAAAA', undefined, { 'x-forwarded-for': from });
      const first = await Promise.all(Array.from({ length: 130 }, () => call('192.0.2.1')));
      expect(first.filter(({ status }) => status === 429).length).toBeGreaterThan(0);
      expect((await call('192.0.2.2')).status).toBe(404);
    } finally {
      await behind.close();
    }
  });
});
