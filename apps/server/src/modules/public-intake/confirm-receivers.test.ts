import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { DeliveryEntry } from '@ypomet/contract';
import { offerDefinition, optionalText } from '../../testing/offer-definition.ts';
import { type Call, eventually, problemOf, publishDefinition, TestServer } from '../../testing/test-server.ts';
import { requeueIfConfirmed } from '../deliveries/repository.ts';
import { forgetOld } from '../housekeeping.ts';
import { LINK_ASKS_AN_HOUR } from './confirm-receivers.ts';
import { CONFIRM_WITHIN_MS } from './confirmations.ts';
import { FASTEST_MS } from './service.ts';

const mail = (key: string, ...to: readonly object[]) => ({
  kind: 'mail',
  key,
  name: key,
  to,
  subject: `${key} {{offer}}`,
  body: 'You offered {{offer}}.',
});
const OFFER = offerDefinition({
  key: 'offer',
  fields: ['offer', 'mail', 'colleague'].map(optionalText),
  onSubmit: [
    mail('yours', { kind: 'submitter' }),
    mail('both', { kind: 'submitter' }, { kind: 'role', role: 'registrar' }),
    mail('other', { kind: 'expression', key: 'e', expression: 'colleague' }),
    mail('ours', { kind: 'address', key: 'a', address: 'office@lindenmuseum.invalid' }),
  ],
  onFinish: [mail('end', { kind: 'submitter' })],
});

let server: TestServer;
let analyst: Call;
let registrar: Call;
let address: string;
let offset = 0;
let visitors = 0;

beforeAll(async () => {
  server = await TestServer.make({ clock: () => Date.now() + offset, trustedProxies: ['127.0.0.1'] });
  [analyst, registrar] = await Promise.all([server.as('analyst'), server.as('registrar')]);
  await publishDefinition(analyst, OFFER);
  const settings = {
    isOpen: true,
    opensAt: null,
    closesAt: null,
    maxRecords: null,
    maxPerHour: 1000,
    nameField: null,
    mailField: 'mail',
    acknowledgement: '',
    frames: [],
  };
  address = (await analyst('PUT', '/api/workflows/offer/links/ask', settings)).body.link.address;
});
afterAll(() => server.close());

const sql = async (text: string, values: readonly unknown[] = []) =>
  (await server.server.context.database.pool.query(text, [...values])).rows;

/** Hands in an offer without an account; the record's id. */
async function handIn(values: object): Promise<string> {
  const from = { 'x-forwarded-for': `192.0.2.${visitors++ % 256}` };
  const { pass } = (await server.anybody('GET', `/api/public/${address}`, undefined, from)).body.intake;
  offset += FASTEST_MS;
  const body = { handOff: 'submit', values: { offer: 'A lamp', ...values } };
  const begun = await server.anybody('POST', `/api/public/${address}/records`, body, {
    ...from,
    authorization: `Bearer ${pass}`,
  });
  expect(begun.status).toBe(201);
  return begun.body.record.id;
}

/** The states of a record's deliveries by name, once none of them is on its way. */
async function statesOf(record: string): Promise<Record<string, string>> {
  const entries = await eventually(
    async () =>
      ((await analyst('GET', '/api/deliveries?limit=200')).body.entries as DeliveryEntry[]).filter(
        ({ recordId }) => recordId === record,
      ),
    (found) => found.length > 0 && found.every(({ status }) => status !== 'queued'),
  );
  return Object.fromEntries(entries.map(({ name, status }) => [name, status]));
}

/** The mails to an address alone, each with its text. */
async function mailsTo(receiver: string): Promise<readonly { readonly subject: string; readonly text: string }[]> {
  const { entries } = (await analyst('GET', '/api/standins/mailbox?limit=200')).body;
  const own = (entries as { id: string; to: string[] }[]).filter(({ to }) => to.join() === receiver);
  return Promise.all(own.map(async ({ id }) => (await analyst('GET', `/api/standins/mailbox/${id}`)).body));
}

/** The mails by which an address was asked to confirm itself. */
const asking = async (receiver: string) =>
  (await mailsTo(receiver)).filter(({ subject }) => subject === 'Please confirm your mail address');

const tokenIn = (text: string): string => /\/confirm#(\S+)/.exec(text)?.[1] ?? '';
const confirm = (token: string) => server.anybody('POST', '/api/confirmations', { token });

describe('an address that a guest gives', () => {
  test('gets one mail of fixed wording; what is for others goes out, and the rest once the address is confirmed', async () => {
    const record = await handIn({ mail: 'Beryl.Q@hollen.invalid', colleague: 'tom@hollen.invalid' });
    const before = { yours: 'unconfirmed', both: 'unconfirmed', other: 'unconfirmed', ours: 'sent' };
    expect(await statesOf(record)).toEqual(before);
    for (const receiver of ['Beryl.Q@hollen.invalid', 'tom@hollen.invalid']) {
      const [asked, ...more] = await mailsTo(receiver);
      expect(more).toEqual([]);
      expect(asked?.subject).toBe('Please confirm your mail address');
      expect(asked?.text).not.toContain('lamp');
    }
    // A colleague who gets the same mail has it already.
    const [both] = await sql(`select content -> 'taken' as taken from deliveries where record = $1 and name = 'both'`, [record]);
    expect(both).toEqual({ taken: ['rufus@lindenmuseum.invalid'] });

    const token = tokenIn((await asking('Beryl.Q@hollen.invalid'))[0]?.text ?? '');
    expect((await confirm(token)).body).toEqual({ address: 'beryl.q@hollen.invalid', workspace: expect.any(String) });
    const states = await eventually(
      () => statesOf(record),
      ({ both: state }) => state === 'sent',
    );
    expect(states).toEqual({ yours: 'sent', both: 'sent', other: 'unconfirmed', ours: 'sent' });
    expect((await mailsTo('Beryl.Q@hollen.invalid')).map(({ subject }) => subject).sort()).toEqual([
      'Please confirm your mail address',
      'yours A lamp',
    ]);
    // What is sent later goes at once, and so do mails of other records, however the address is written.
    await registrar('POST', `/api/records/${record}/hand-offs`, { handOff: 'finish', values: {} }, { 'if-match': '"1"' });
    const later = await handIn({ mail: 'beryl.q@HOLLEN.invalid' });
    expect(
      await eventually(
        () => statesOf(record),
        ({ end }) => end !== undefined,
      ),
    ).toMatchObject({ end: 'sent' });
    expect(await statesOf(later)).toMatchObject({ both: 'sent' });
  });

  test('is asked once a day, and three times in all', async () => {
    const receiver = 'often@hollen.invalid';
    const times = async (): Promise<number> => (await asking(receiver)).length;
    for (const expected of [1, 1]) {
      await statesOf(await handIn({ mail: receiver }));
      expect(await times()).toBe(expected);
    }
    for (const expected of [2, 3, 3]) {
      await sql(`update guest_addresses set asked_at = asked_at - interval '25 hours' where address = $1`, [receiver]);
      await statesOf(await handIn({ mail: receiver }));
      expect(await times()).toBe(expected);
    }
  });

  test('of a member needs no confirmation', async () => {
    expect(await statesOf(await handIn({ mail: 'dorian@lindenmuseum.invalid' }))).toMatchObject({ both: 'sent' });
  });

  test('waits its turn where its link had too many asked within the hour', async () => {
    const [{ link }] = await sql('select link from guest_addresses limit 1');
    await sql(
      `insert into guest_addresses (address, link, asked, asked_at) select 'n' || n || '@many.invalid', $1, 1, now() from generate_series(1, ${LINK_ASKS_AN_HOUR}) n`,
      [link],
    );
    const record = await handIn({ mail: 'late@hollen.invalid' });
    const [row] = await eventually(
      () =>
        sql(`select status, fault ->> 'code' as code from deliveries where record = $1 and name = 'both' and attempts > 0`, [
          record,
        ]),
      (rows) => rows.length > 0,
    );
    expect(row).toEqual({ status: 'queued', code: 'many-unconfirmed' });
    expect(await mailsTo('late@hollen.invalid')).toEqual([]);
    await sql(`delete from guest_addresses where address like '%@many.invalid'`);
  });

  test('that nobody confirms within a week lets go of what waited, which is told', async () => {
    const record = await handIn({ mail: 'never@hollen.invalid' });
    expect(await statesOf(record)).toMatchObject({ both: 'unconfirmed' });
    await sql(`update deliveries set created_at = created_at - interval '8 days' where record = $1`, [record]);
    const { database, files } = server.server.context;
    await forgetOld(database.pool, files);
    const [row] = await sql(`select status, fault ->> 'code' as code from deliveries where record = $1 and name = 'both'`, [
      record,
    ]);
    expect(row).toEqual({ status: 'put-away', code: 'never-confirmed' });
  });

  test('that is confirmed in the moment in which its mail is noted as waiting lets the mail go all the same', async () => {
    const record = await handIn({ mail: 'quick@hollen.invalid' });
    expect(await statesOf(record)).toMatchObject({ yours: 'unconfirmed' });
    const { pool } = server.server.context.database;
    const [{ id }] = await sql(`select id from deliveries where record = $1 and name = 'yours'`, [record]);
    // Nothing is confirmed yet: it goes on waiting.
    await requeueIfConfirmed(pool, id);
    expect(await statesOf(record)).toMatchObject({ yours: 'unconfirmed' });
    // The confirmation looked for waiting mails before this one was among them, and is stored only after that.
    const client = await pool.connect();
    await client.query('begin');
    await client.query(`update guest_addresses set confirmed_at = now() where address = 'quick@hollen.invalid'`);
    const requeued = requeueIfConfirmed(pool, id);
    await client.query('commit');
    client.release();
    await requeued;
    await eventually(
      () => statesOf(record),
      ({ yours }) => yours === 'sent',
    );
  });

  test('can be put right by somebody of the house, who sends to another', async () => {
    const record = await handIn({ mail: 'mistyped@hollen.invalid' });
    await statesOf(record);
    const [{ id }] = await sql(`select id from deliveries where record = $1 and name = 'both'`, [record]);
    const corrected = await registrar('PUT', `/api/deliveries/${id}/correction`, { to: ['right@hollen.invalid'] });
    expect(corrected.status).toBe(200);
    expect(await statesOf(record)).toMatchObject({ both: 'sent' });
  });
});

describe('a token', () => {
  test('that is none, was changed or ran out confirms nothing; one that is good does so again and again', async () => {
    await statesOf(await handIn({ mail: 'token@hollen.invalid' }));
    const token = tokenIn((await asking('token@hollen.invalid'))[0]?.text ?? '');
    const [said = '', mac = ''] = token.split('.');
    const other = Buffer.from(JSON.stringify(['else@hollen.invalid', Date.now()])).toString('base64url');
    for (const bad of ['x', '.', `${said}.`, `${said}.${'A'.repeat(43)}`, `${other}.${mac}`, `${token}A`])
      expect(problemOf(await confirm(bad))).toMatchObject({ status: 410, code: 'confirmation/over' });
    expect(await sql(`select confirmed_at from guest_addresses where address = 'token@hollen.invalid'`)).toEqual([
      { confirmed_at: null },
    ]);
    for (let times = 0; times < 2; times += 1) expect((await confirm(token)).status).toBe(200);
    offset += CONFIRM_WITHIN_MS + 60_000;
    expect((await confirm(token)).status).toBe(410);
  });
});
