import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import os from 'node:os';
import path from 'node:path';
import { afterAll, afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { createTransport } from 'nodemailer';
import { type Mailbox, startMailbox } from './mailbox.ts';
import { type Receiver, startReceiver } from './receiver.ts';
import { RECEIVER_OPENAPI } from './receiver-openapi.ts';

const home = mkdtempSync(path.join(os.tmpdir(), 'ypomet-standins-'));
afterAll(() => rmSync(home, { recursive: true, force: true }));
let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(home, 'own-'));
});

describe('the simulated endpoint', () => {
  let receiver: Receiver;
  beforeEach(async () => {
    receiver = await startReceiver(folder);
  });
  afterEach(() => receiver.close());
  const post = async (to: string, body: string, key: string | null = null) => {
    const answer = await fetch(`${receiver.address}${to}`, {
      method: 'POST',
      body,
      headers: { 'content-type': 'application/json', ...(key === null ? {} : { 'idempotency-key': key }) },
    });
    return { status: answer.status, type: answer.headers.get('content-type'), text: await answer.text() };
  };
  const quote = (body: object, key: string | null = null) => post('/quotes', JSON.stringify(body), key);

  test.each<[string, object, number]>([
    ['by its class', { value: 100_000, class: 'basic' }, 120],
    ['of another class', { value: 100_000, class: 'special' }, 310],
    ['of no class it knows', { value: 100_000, class: 'other' }, 250],
    ['rounded to cents', { value: 62_400.5, class: 'standard' }, 118.56],
    ['not below the least', { value: 1, class: 'basic' }, 40],
    ['of nothing', { value: 0 }, 40],
  ])('gives a premium %s', async (_, asked, premium) => {
    const { status, text } = await quote({ loan: 'L-1', ...asked });
    expect([status, JSON.parse(text)]).toEqual([200, { quote: 'Q-L-1', premium, currency: 'EUR' }]);
  });

  test.each<[string, string]>([
    ['a value below nought', '{"value":-1}'],
    ['no value', '{}'],
    ['a value that is a text', '{"value":"much"}'],
    ['no JSON', '<value>1</value>'],
    ['no object', '[1]'],
    ['nothing', ''],
  ])('refuses %s', async (_, body) => {
    expect((await post('/quotes', body)).status).toBe(422);
  });

  // Its own published document is what it does (OpenAPI 3.1, JSON Schema 2020-12).
  test('answers as its document says', async () => {
    const document = (await (await fetch(`${receiver.address}/openapi.json`)).json()) as typeof RECEIVER_OPENAPI;
    expect(document).toEqual(JSON.parse(JSON.stringify(RECEIVER_OPENAPI)));
    const { requestBody, responses } = document.paths['/quotes'].post;
    const { schema, example } = requestBody.content['application/json'];
    const ajv = new Ajv2020({ strict: false, validateFormats: false });
    expect(ajv.validate(schema, example)).toBe(true);
    const { text } = await quote(example);
    expect(ajv.validate(responses['200'].content['application/json'].schema, JSON.parse(text))).toBe(true);
    expect(ajv.validate(schema, { value: -1 })).toBe(false);
  });

  test('takes in whatever else is sent, and shows it newest first', async () => {
    await post('/first?x=1', 'one');
    await post('/second', '{"two":2}');
    const all = await receiver.list();
    expect(all.map(({ method, path: to, body, status }) => [method, to, body, status])).toEqual([
      ['POST', '/second', '{"two":2}', 200],
      ['POST', '/first?x=1', 'one', 200],
    ]);
    expect(all[0]?.headers).toContainEqual({ name: 'content-type', value: 'application/json' });
  });

  test('gives a repeat the answer of before, whatever it asks now', async () => {
    const first = await quote({ value: 100_000, class: 'basic' }, 'k1');
    const again = await quote({ value: 900_000, class: 'special' }, 'k1');
    const other = await quote({ value: 900_000, class: 'special' }, 'k2');
    expect(again.text).toBe(first.text);
    expect(other.text).not.toBe(first.text);
    expect((await receiver.list()).map(({ delivery, isRepeat }) => [delivery, isRepeat])).toEqual([
      ['k2', false],
      ['k1', true],
      ['k1', false],
    ]);
  });

  test('what it answered with an error is no answer: the repeat is asked anew', async () => {
    receiver.mode = 'error';
    expect((await quote({ value: 100_000 }, 'k1')).status).toBe(500);
    receiver.mode = 'answers';
    expect((await quote({ value: 100_000 }, 'k1')).status).toBe(200);
    expect((await receiver.list()).map(({ isRepeat }) => isRepeat)).toEqual([false, false]);
  });

  test('what was cut off had been taken in: the repeat is one', async () => {
    receiver.mode = 'breaks';
    await expect(quote({ value: 100_000 }, 'k1')).rejects.toThrow();
    receiver.mode = 'answers';
    expect((await quote({ value: 100_000 }, 'k1')).status).toBe(200);
    expect((await receiver.list()).map(({ isRepeat, status }) => [isRepeat, status])).toEqual([
      [true, 200],
      [false, null],
    ]);
  });

  test('answers with no JSON when told to', async () => {
    receiver.mode = 'no-json';
    expect(await quote({ value: 1 })).toEqual({ status: 200, type: 'text/html', text: '<p>Thank you</p>' });
  });

  test('keeps its port, and what it answered, over a restart', async () => {
    const { address } = receiver;
    const first = await quote({ value: 100_000, class: 'basic' }, 'k1');
    await receiver.close();
    receiver = await startReceiver(folder);
    expect(receiver.address).toBe(address);
    expect((await quote({ value: 1 }, 'k1')).text).toBe(first.text);
  });

  test('a repeat after a restart gets the real answer, where the first was answered with no JSON', async () => {
    receiver.mode = 'no-json';
    await quote({ value: 100_000, class: 'basic' }, 'k1');
    await receiver.close();
    receiver = await startReceiver(folder);
    expect(JSON.parse((await quote({ value: 100_000, class: 'basic' }, 'k1')).text)).toMatchObject({ premium: 120 });
  });

  test('takes another port where its own is taken', async () => {
    const { host } = receiver;
    await receiver.close();
    const other = createServer();
    await new Promise<void>((resolve) => other.listen(Number(host.split(':')[1]), '127.0.0.1', resolve));
    receiver = await startReceiver(folder);
    expect(receiver.host).not.toBe(host);
    expect((await quote({ value: 1 })).status).toBe(200);
    await new Promise((resolve) => other.close(resolve));
  });

  test('a port that was asked for and is taken is said', async () => {
    await expect(startReceiver(path.join(folder, 'second'), Number(receiver.host.split(':')[1]))).rejects.toThrow('EADDRINUSE');
  });

  test('half a file that a kill left is none', async () => {
    await post('/a', 'one');
    writeFileSync(path.join(folder, '99999999T000000000Z-half.json.part'), '{"id":');
    expect(await receiver.list()).toHaveLength(1);
  });
});

describe('the simulated mailbox', () => {
  let mailbox: Mailbox;
  beforeEach(async () => {
    mailbox = await startMailbox(folder);
  });
  afterEach(() => mailbox.close());
  const send = async (more: object): Promise<void> => {
    const transport = createTransport({ host: '127.0.0.1', port: mailbox.port, secure: false, ignoreTLS: true });
    await transport.sendMail({
      from: 'House <house@a.invalid>',
      to: 'One <one@b.invalid>, two@b.invalid',
      subject: 'S',
      ...more,
    });
    transport.close();
  };

  test('reads a mail as it was sent: heads, text, HTML, attachments', async () => {
    await send({
      subject: 'Übersee — 3',
      text: 'Zeile\n.\nEnde',
      html: '<p>Zeile</p>',
      attachments: [{ filename: 'a b.csv', content: 'a,b\r\n', contentType: 'text/csv' }],
    });
    const { entries } = await mailbox.list(10, undefined);
    expect(entries).toMatchObject([{ from: 'house@a.invalid', to: ['one@b.invalid', 'two@b.invalid'], subject: 'Übersee — 3' }]);
    const mail = await mailbox.find(entries[0]?.id ?? '');
    expect(mail).toMatchObject({
      html: '<p>Zeile</p>',
      attachments: [{ name: 'a b.csv', mediaType: 'text/csv', bytes: 5 }],
    });
    expect(mail?.text.replace(/\r\n/g, '\n').trim()).toBe('Zeile\n.\nEnde');
    expect(mail?.headers.find(({ name }) => name === 'subject')?.value).toContain('=?UTF-8?');
    expect(Date.now() - Date.parse(mail?.receivedAt ?? '')).toBeLessThan(60_000);
  });

  test('a mail without a subject, text or HTML is one', async () => {
    await send({ subject: undefined, text: '' });
    const { entries } = await mailbox.list(10, undefined);
    expect(entries).toMatchObject([{ subject: '' }]);
    expect(await mailbox.find(entries[0]?.id ?? '')).toMatchObject({ html: null, attachments: [] });
  });

  // RFC 5322, section 3.6.4: a Message-ID is one message's alone.
  test('the same Message-ID is kept once, over a restart too', async () => {
    await send({ messageId: '<one@house.invalid>', text: 'first' });
    await send({ messageId: '<one@house.invalid>', text: 'again' });
    await mailbox.close();
    mailbox = await startMailbox(folder);
    await send({ messageId: '<one@house.invalid>', text: 'again' });
    await send({ messageId: '<two@house.invalid>', text: 'second' });
    const { entries } = await mailbox.list(10, undefined);
    expect(await Promise.all(entries.map(async ({ id }) => (await mailbox.find(id))?.text.trim()))).toEqual(['second', 'first']);
  });

  test('is paged, newest first', async () => {
    for (const subject of ['1', '2', '3']) await send({ subject, text: subject });
    const first = await mailbox.list(2, undefined);
    const last = await mailbox.list(2, first.next ?? undefined);
    expect([first, last].map(({ entries }) => entries.map(({ subject }) => subject))).toEqual([['3', '2'], ['1']]);
    expect(last.next).toBeNull();
  });

  test('what isn’t there is nothing', async () => {
    expect(await mailbox.find('gone')).toBeNull();
    expect(await mailbox.list(10, undefined)).toEqual({ entries: [], next: null });
  });
});
