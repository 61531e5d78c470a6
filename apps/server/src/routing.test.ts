import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  type Call,
  eventually,
  loanRequest,
  objectRow,
  problemOf,
  publishDefinition,
  TestServer,
} from './testing/test-server.ts';

// What a hand-off sends, opens and takes back, run whole on the demo (semantics 4.7 and 5).
let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const OBJECTS = [objectRow('a', 'Storm lantern', 'glass', '18400.00'), objectRow('b', 'Tide clock', 'metal', '44000.50')];
const key = () => ({ 'idempotency-key': createHash('sha256').update(String(Math.random())).digest('hex') });

async function press(call: Call, id: string, handOff: string, values: object = {}) {
  const { body: document } = await call('GET', `/api/records/${id}`);
  return call(
    'POST',
    `/api/records/${id}/hand-offs`,
    { handOff, values },
    { 'if-match': `"${document.record.revision}"`, ...key() },
  );
}

/** A loan as far as the director's agreement; what that answered. */
async function agreedLoan(venue: string) {
  const [borrower, registrar, director, conservator] = await Promise.all(
    (['borrower', 'registrar', 'director', 'conservator'] as const).map((who) => server.as(who)),
  );
  const values = { ...loanRequest(...OBJECTS), venue, climateControl: true };
  const begun = await (borrower as Call)(
    'POST',
    '/api/intakes/objectLoan/records',
    { stage: 'request', handOff: 'submit', values },
    key(),
  );
  expect(begun.status).toBe(201);
  const { id } = begun.body.record;
  await press(registrar as Call, id, 'accept', { climateControl: true });
  await press(conservator as Call, id, 'reviewed', { luxLimit: '50', precautions: ['crate'], climateControl: true });
  const agreed = await press(director as Call, id, 'agree');
  return { id, number: begun.body.record.number as string, agreed, borrower, registrar, director, conservator } as {
    readonly [K in 'borrower' | 'registrar' | 'director' | 'conservator']: Call;
  } & { readonly id: string; readonly number: string; readonly agreed: Awaited<ReturnType<Call>> };
}

describe('a loan with all that follows from it', () => {
  let loan: Awaited<ReturnType<typeof agreedLoan>>;
  beforeAll(async () => {
    loan = await agreedLoan('overseas');
  });

  test('opens a condition report for each object and one transport, in the same step', async () => {
    expect(loan.agreed.status).toBe(200);
    expect(loan.agreed.body.opened.map((one: { workflow: string }) => one.workflow)).toEqual([
      'conditionReport',
      'conditionReport',
      'transportBooking',
    ]);
    const { body } = await loan.conservator('GET', `/api/records/${loan.id}`);
    const reports = body.opened.filter((one: { workflow: string }) => one.workflow === 'conditionReport');
    expect(reports.map((one: { stageName: string; isIncomplete: boolean }) => [one.stageName, one.isIncomplete])).toEqual([
      ['Looked at', false],
      ['Looked at', false],
    ]);
    const first = await loan.conservator('GET', `/api/records/${reports[0].id}`);
    expect(first.body.form.values).toMatchObject({ title: 'Storm lantern', material: 'glass', loan: loan.id });
    expect(first.body.openedBy).toMatchObject({ number: loan.number, workflow: 'objectLoan' });
    expect(first.body.history.map((one: { type: string }) => one.type)).toEqual(['opened', 'handed-on']);
  });

  test('asks the insurer, and what comes back is in the record as an event of its own', async () => {
    const document = await eventually(
      async () => {
        const { body } = await loan.registrar('GET', `/api/records/${loan.id}`);
        return body;
      },
      (body) => body.form.values.quotedPremium !== undefined,
    );
    // 62400.50 x 0.0031, of the simulated insurer.
    expect(document.form.values).toMatchObject({ quotedPremium: '193.44', quote: `Q-${loan.number}` });
    expect(document.history.at(-1)).toMatchObject({ type: 'answered', by: null, from: 'insurer' });
    const analyst = await server.as('analyst');
    const { body } = await analyst('GET', '/api/standins/receiver');
    const sent = body.entries.find((one: { body: string }) => one.body.includes(loan.number));
    // Numbers as numbers, the key of the delivery, a signature.
    expect(sent.body).toContain('"value":62400.5,');
    const names = sent.headers.map((one: { name: string }) => one.name);
    expect(names).toEqual(expect.arrayContaining(['idempotency-key', 'content-digest', 'signature', 'signature-input']));
  });

  test('what somebody had open when the answer came is handed on all the same', async () => {
    const other = await agreedLoan('home');
    const before = await other.registrar('GET', `/api/records/${other.id}`);
    await eventually(
      async () => {
        const { body } = await other.registrar('GET', `/api/records/${other.id}`);
        return body;
      },
      (body) => body.form.values.quotedPremium !== undefined,
    );
    const insured = await other.registrar(
      'POST',
      `/api/records/${other.id}/hand-offs`,
      { handOff: 'insured', values: { policyNumber: 'P-1' } },
      { 'if-match': `"${before.body.record.revision}"`, ...key() },
    );
    expect(insured.status).toBe(200);
    const { body } = await other.registrar('GET', `/api/records/${other.id}`);
    expect(body.form.values).toMatchObject({ policyNumber: 'P-1', quotedPremium: '118.56' });
  });

  test('writes the agreement as a PDF under the borrower’s name', async () => {
    const folder = path.join(server.dataDir, 'registers', 'Agreements', String(new Date().getFullYear()));
    const names = await eventually(
      async () => {
        return existsSync(folder) ? readdirSync(folder) : [];
      },
      (found) => found.length > 0,
    );
    expect(names).toContain('Hollen-Street-Gallery-2027-03-12.pdf');
    expect(
      readFileSync(path.join(folder, names[0] as string))
        .subarray(0, 5)
        .toString(),
    ).toBe('%PDF-');
  });

  test('waits for all that it opened', async () => {
    await press(loan.registrar, loan.id, 'insured', { policyNumber: 'P-2' });
    const refused = await press(loan.borrower, loan.id, 'sign', { agreed: { sign: true } });
    expect(problemOf(refused).details).toEqual(['sign: hand-off/not-offered']);
    const { body } = await loan.registrar('GET', `/api/records/${loan.id}`);
    for (const one of body.opened) {
      if (one.workflow !== 'conditionReport') continue;
      const filed = await press(loan.conservator, one.id, 'file', {
        seenOn: '2027-03-01',
        state: 'good',
        signed: { sign: true },
      });
      expect(filed.status).toBe(200);
    }
    const transport = body.opened.find((one: { workflow: string }) => one.workflow === 'transportBooking');
    const crates = [{ id: 'c', values: { label: 'Crate 1', weight: '30.0' } }];
    const booking = { carrier: 'Nordkai', price: '400.00', pickUp: '2027-03-10T09:00:00Z', crates };
    expect((await press(loan.registrar, transport.id, 'book', booking)).status).toBe(200);
    const signed = await press(loan.borrower, loan.id, 'sign', { agreed: { sign: true } });
    expect([signed.status, signed.body.record?.stageName]).toEqual([200, 'On loan']);
  });
});

describe('the same request twice', () => {
  test('opens its follow-ups once, and answers the same', async () => {
    const [borrower, registrar, director] = await Promise.all(
      (['borrower', 'registrar', 'director'] as const).map((who) => server.as(who)),
    );
    const values = { ...loanRequest(objectRow('a', 'Bell', 'metal', '900.00')), venue: 'neighbour' };
    const begun = await (borrower as Call)(
      'POST',
      '/api/intakes/objectLoan/records',
      { stage: 'request', handOff: 'submit', values },
      key(),
    );
    const { id } = begun.body.record;
    await press(registrar as Call, id, 'accept', { climateControl: true });
    const { body } = await (director as Call)('GET', `/api/records/${id}`);
    const same = { 'if-match': `"${body.record.revision}"`, ...key() };
    const ask = () => (director as Call)('POST', `/api/records/${id}/hand-offs`, { handOff: 'agree', values: {} }, same);
    const [first, second] = await Promise.all([ask(), ask()]);
    expect([first.status, second.status]).toEqual([200, 200]);
    expect(second.body).toEqual(first.body);
    const seen = await (registrar as Call)('GET', `/api/records/${id}`);
    expect(seen.body.opened).toHaveLength(2);
  });
});

describe('carried values that later change', () => {
  const base = (key: string, name: string) => ({
    format: 'ypomet.workflow/1',
    key,
    name,
    roles: [{ key: 'registrar', name: 'Registrar' }],
    sections: [{ key: 'all', name: 'All' }],
    tracks: [{ key: 'main', name: 'Main' }],
  });
  const stages = [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ];
  const target = {
    ...base('copied', 'Copied'),
    fields: [{ key: 'title', name: 'Title', section: 'all', type: 'text', treatment: 'optional' }],
    plan: { title: { work: 'read-only' } },
    stages,
    handOffs: [
      { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
      { key: 'finish', name: 'Finish', from: 'work', otherwise: { to: 'done' } },
    ],
  };
  const source = {
    ...base('copying', 'Copying'),
    fields: [
      {
        key: 'rows',
        name: 'Rows',
        section: 'all',
        type: 'table',
        treatment: 'optional',
        fields: [{ key: 'what', name: 'What', type: 'text' }],
      },
    ],
    stages,
    handOffs: [
      {
        key: 'send',
        name: 'Send',
        from: 'ask',
        otherwise: { to: 'work' },
        followUps: [
          {
            key: 'each',
            name: 'Each',
            workflow: 'copied',
            handOff: 'send',
            perRow: 'rows',
            carried: [{ field: 'title', value: 'row.what' }],
          },
        ],
      },
      { key: 'save', name: 'Save', from: 'work', otherwise: { to: 'work' } },
      { key: 'pass', name: 'Pass on', from: 'work', refreshesCarried: true, otherwise: { to: 'work' } },
    ],
  };
  const rows = (...titles: readonly string[]) => ({
    rows: titles.map((what, index) => ({ id: `r${index + 1}`, values: { what } })),
  });

  test('are copied only where a hand-off says so, to what is open still, row by row, once', async () => {
    const [analyst, registrar] = await Promise.all([server.as('analyst'), server.as('registrar')]);
    await publishDefinition(analyst, target);
    await publishDefinition(analyst, source);
    const begun = await registrar(
      'POST',
      '/api/intakes/copying/records',
      { stage: 'ask', handOff: 'send', values: rows('Lamp', 'Bell') },
      key(),
    );
    const { id, number } = begun.body.record;
    const [first, second] = begun.body.opened.map((one: { id: string }) => one.id) as [string, string];
    const shown = async (record: string) => (await registrar('GET', `/api/records/${record}`)).body;
    const title = async (record: string) => (await shown(record)).form.values.title;

    await press(registrar, id, 'save', rows('Lantern', 'Gong'));
    expect([await title(first), await title(second)]).toEqual(['Lamp', 'Bell']);
    await press(registrar, second, 'finish');
    const open = await shown(first);
    const passed = await press(registrar, id, 'pass', rows('Lantern', 'Gong'));
    expect(passed.status).toBe(200);
    expect([await title(first), await title(second)]).toEqual(['Lantern', 'Bell']);
    const refreshed = await shown(first);
    expect(refreshed.history.at(-1)).toMatchObject({ type: 'refreshed', from: number, by: null });
    // Whoever has it open goes on with what they have: nothing that they enter was touched.
    const finished = await registrar(
      'POST',
      `/api/records/${first}/hand-offs`,
      { handOff: 'finish', values: {} },
      { 'if-match': `"${open.record.revision}"`, ...key() },
    );
    expect(finished.status).toBe(200);
    // A repeat changes nothing, and notes nothing.
    const { length } = (await shown(second)).history;
    await press(registrar, id, 'pass', {});
    expect((await shown(second)).history).toHaveLength(length);
  });
});
