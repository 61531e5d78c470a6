import { createHmac } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import type { RichText } from '@ypomet/core';
import { parse as parseCsv } from 'csv-parse/sync';
import { createVerifier, httpbis } from 'http-message-signatures';
import PostalMime from 'postal-mime';
import { SMTPServer } from 'smtp-server';
import { FileStore } from '../modules/files/store.ts';
import { startReceiver } from '../standins/receiver.ts';
import { faultOf } from '../testing/fault-of.ts';
import { writePdf } from '../workers/write-pdf.ts';
import { isAllowedAddress, isAllowedHost } from './allowed-addresses.ts';
import { makeMailOutlet } from './mail.ts';
import { NotSent, type OutletSetup, type Sending } from './outlet.ts';
import { addressOf, isExpected, makeWebOutlet, readAnswer } from './web.ts';
import { makeRender } from './written.ts';

const folder = mkdtempSync(path.join(os.tmpdir(), 'ypomet-outlets-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const render = makeRender(async ({ title, text }) => writePdf(title, text, 'en', new Date(0)));
const files = new FileStore(path.join(folder, 'files'));
const ID = '00000000-0000-4000-8000-000000000001';
const paragraph = (text: string): RichText => [{ kind: 'paragraph', runs: [{ text }] }];

describe('hosts of mail servers', () => {
  test.each<[string, number, readonly string[], boolean]>([
    ['127.0.0.1', 25, [], false],
    ['[::1]', 25, [], false],
    ['localhost', 5432, [], false],
    ['10.0.0.7', 587, [], false],
    ['10.0.0.7', 587, ['10.0.0.7:587'], true],
    ['10.0.0.7', 5432, ['10.0.0.7:587'], false],
    ['mail.inside.example', 587, ['mail.inside.example:587'], true],
    ['203.0.113.7', 587, [], false],
    ['93.184.216.34', 587, [], true],
    ['nowhere.invalid', 587, [], false],
  ])('%s at port %d, with %j allowed: %s', async (host, port, allowed, expected) => {
    expect(await isAllowedHost(host, port, allowed)).toBe(expected);
  });

  test('in the server’s own network are neither tried nor sent to', async () => {
    const outlet = makeMailOutlet({ fallback: { host: '127.0.0.1', port: 1 }, allowed: [], locale: 'en', files, render });
    const settings = {
      kind: 'mail',
      host: '127.0.0.1',
      port: 5432,
      encryption: 'none',
      user: '',
      from: 'a@b.example',
      fromName: 'A',
    };
    const setup = { key: 'inside', settings, secret: null, changedAt: '' } as OutletSetup<'mail'>;
    expect(await faultOf(outlet.try(setup))).toEqual(['not-allowed', true]);
    expect(await faultOf(outlet.send(setup, { id: ID, sequence: 1, content: {} as never }))).toEqual(['not-allowed', true]);
    await outlet.close();
  });
});

describe('mail', () => {
  type Mail = Sending<'mail'>;
  const mail = (more: Partial<Mail['content']> = {}, to: readonly string[] = ['a@b.invalid']): Mail => ({
    id: ID,
    sequence: 1,
    content: {
      type: 'mail',
      delivery: 'm',
      name: 'M',
      outlet: 'mail',
      to: [],
      cc: [],
      bcc: [],
      replyTo: [],
      unfit: [],
      senderName: '',
      subject: 'Übersee — 3 objects',
      body: paragraph('Zeile 1\n.\nZeile 3'),
      attached: null,
      files: [],
      addresses: { to, cc: ['c@d.invalid'], bcc: ['e@f.invalid'], replyTo: ['r@s.invalid'] },
      ...more,
    },
  });
  const state = {
    taken: [] as { readonly text: string; readonly to: readonly string[] }[],
    refuses: '',
    /** Whom alone that is said of; empty: of everybody. */
    refused: '',
  };
  let server: SMTPServer;
  let outlet: ReturnType<typeof makeMailOutlet>;
  /** `451 try again later` as the mail server says it. */
  const refusal = (): Error | null =>
    state.refuses === ''
      ? null
      : Object.assign(new Error(state.refuses.slice(4)), { responseCode: Number(state.refuses.slice(0, 3)) });
  const setup: OutletSetup<'mail'> = {
    key: 'mail',
    secret: null,
    changedAt: '1',
    settings: {
      kind: 'mail',
      host: '',
      port: 587,
      encryption: 'starttls',
      user: '',
      from: 'desk@museum.invalid',
      fromName: 'The museum',
    },
  };
  beforeAll(async () => {
    server = new SMTPServer({
      authOptional: true,
      disabledCommands: ['AUTH', 'STARTTLS'],
      logger: false,
      onRcptTo: ({ address }, _session, done) => done(state.refused === '' || state.refused === address ? refusal() : null),
      onData: (stream, session, done) => {
        let text = '';
        stream.setEncoding('utf8').on('data', (chunk: string) => (text += chunk));
        stream.on('end', () => {
          state.taken.push({ text, to: session.envelope.rcptTo.map(({ address }) => address) });
          done();
        });
      },
    });
    const port = await new Promise<number>((resolve) => {
      const listener = server.listen(0, '127.0.0.1', () => resolve((listener.address() as AddressInfo).port));
    });
    outlet = makeMailOutlet({ fallback: { host: '127.0.0.1', port }, allowed: [], locale: 'en', files, render });
  });
  afterEach(() => {
    state.taken.length = 0;
    state.refuses = '';
    state.refused = '';
  });
  afterAll(async () => {
    await outlet.close();
    await new Promise<void>((resolve) => server.close(() => resolve()));
  });
  // Read by a library of another author than the one that writes.
  const sent = async (sending: Mail) => {
    await outlet.send(setup, sending);
    const { text, to } = state.taken.at(-1) as (typeof state.taken)[number];
    return { parsed: await PostalMime.parse(text), text, to };
  };

  test('goes to a real SMTP server with all its heads, in text and HTML (RFC 5322, 2045, 2047)', async () => {
    const { parsed, text, to } = await sent(mail());
    expect(parsed.subject).toBe('Übersee — 3 objects');
    expect(text).toMatch(/^Subject: =\?UTF-8\?/im);
    expect([parsed.from?.name, parsed.from?.address]).toEqual(['The museum', 'desk@museum.invalid']);
    expect(parsed.to?.map(({ address }) => address)).toEqual(['a@b.invalid']);
    expect(parsed.cc?.map(({ address }) => address)).toEqual(['c@d.invalid']);
    expect(parsed.replyTo?.map(({ address }) => address)).toEqual(['r@s.invalid']);
    expect(parsed.text?.trim()).toBe('Zeile 1\n.\nZeile 3');
    expect(parsed.html).toContain('<p>Zeile 1<br>.<br>Zeile 3</p>');
    // Blind copies are in the envelope alone.
    expect(to).toEqual(['a@b.invalid', 'c@d.invalid', 'e@f.invalid']);
    expect(text).not.toContain('e@f.invalid');
    expect(parsed.messageId).toBe(`<${ID}@ypomet.invalid>`);
  });

  test('whatever a value holds, it is text in the HTML and begins no header', async () => {
    const evil = '"><script>alert(1)</script>\r\nBcc: everybody@else.invalid';
    const { parsed, text, to } = await sent(mail({ subject: evil, body: paragraph(evil), senderName: evil }));
    expect(parsed.html).not.toContain('<script>');
    expect(parsed.bcc).toBeUndefined();
    expect(text.split(/\r?\n\r?\n/)[0]).not.toMatch(/^bcc:/im);
    expect(to).not.toContain('everybody@else.invalid');
  });

  test.each([
    ['550 no such mailbox c@d.invalid', true],
    ['451 try again later', false],
  ])('one that is refused (%s) waits by itself: the others have it once', async (refuses, isFinal) => {
    Object.assign(state, { refuses, refused: 'c@d.invalid' });
    const error = await outlet.send(setup, mail()).catch((thrown: unknown) => thrown);
    expect(error).toBeInstanceOf(NotSent);
    const { fault, more } = error as NotSent;
    expect([fault.code, fault.params.recipients, more.isFinal, more.taken]).toEqual([
      'partly-refused',
      ['2'],
      isFinal,
      ['a@b.invalid', 'e@f.invalid'],
    ]);
    // The log is read by people who may not know the address.
    expect(String(fault.params.answer)).not.toContain('c@d.invalid');
    expect(state.taken.map(({ to }) => to)).toEqual([['a@b.invalid', 'e@f.invalid']]);
    state.refuses = '';
    const { to, parsed } = await sent(mail({ taken: more.taken } as never));
    expect(to).toEqual(['c@d.invalid']);
    // The mail itself is the same: it names all its open receivers.
    expect(parsed.to?.map(({ address }) => address)).toEqual(['a@b.invalid']);
  });

  test('the record goes along as JSON, CSV or PDF', async () => {
    const json = await sent(mail({ attached: { format: 'json', text: '{"n":1.10}' } }));
    expect(json.parsed.attachments.map(({ filename, mimeType }) => [filename, mimeType])).toEqual([
      ['record.json', 'application/json'],
    ]);
    const csv = await sent(mail({ attached: { format: 'csv', head: ['a', 'b'], row: ['1', 'x, "y"'] } }));
    const [attached] = csv.parsed.attachments;
    const bytes = Buffer.from(attached?.content as ArrayBuffer);
    expect(parseCsv(bytes, { columns: true })).toEqual([{ a: '1', b: 'x, "y"' }]);
    const pdf = await sent(mail({ attached: { format: 'pdf', title: 'Loan L-1', text: paragraph('x') } }));
    expect(pdf.parsed.attachments[0]?.filename).toBe('Loan-L-1.pdf');
  });

  test.each<[string, () => Mail, string, readonly [string, boolean]]>([
    ['nobody to write to', () => mail({ addresses: { to: [], cc: [], bcc: [], replyTo: [] } }), '', ['nobody', true]],
    ['an address that is two', () => mail({}, ['a@b.invalid, c@d.invalid']), '', ['recipient-unfit', true]],
    ['an address with a header in it', () => mail({}, ['a@b.invalid\r\nBcc: x@y.invalid']), '', ['recipient-unfit', true]],
    ['a server that has no time', () => mail(), '451 try again later', ['refused', false]],
    ['a server that knows nobody of that name', () => mail(), '550 no such user', ['refused', true]],
    [
      'a file that is gone',
      () => mail({ files: [{ name: 'a.pdf', mediaType: 'application/pdf', bytes: 1, sha256: 'f'.repeat(64) }] }),
      '',
      ['no-file', true],
    ],
    [
      'more than mail servers take',
      () => mail({ files: [{ name: 'a.pdf', mediaType: 'application/pdf', bytes: 30_000_000, sha256: 'f'.repeat(64) }] }),
      '',
      ['too-large', true],
    ],
  ])('%s', async (_, sending, refuses, expected) => {
    state.refuses = refuses;
    expect(await faultOf(outlet.send(setup, sending()))).toEqual(expected);
    expect(state.taken).toEqual([]);
  });

  test('nobody listening is said at once, and the trial says it too', async () => {
    const other = makeMailOutlet({ fallback: { host: '127.0.0.1', port: 1 }, allowed: [], locale: 'en', files, render });
    expect(await faultOf(other.send(setup, mail()))).toEqual(['unreachable', false]);
    expect(await faultOf(other.try(setup))).toEqual(['unreachable', false]);
    await other.close();
    expect(await outlet.try(setup)).toContain('answers');
  });
});

describe('web endpoints', () => {
  const request = (more: Partial<Sending<'web'>['content']> = {}): Sending<'web'> => ({
    id: ID,
    sequence: 1,
    content: {
      type: 'web',
      delivery: 'w',
      name: 'W',
      outlet: 'insurer',
      method: 'POST',
      address: '/quotes?for=x',
      headers: [
        ['x-loan', 'L-1\r\nx-evil: 1'],
        ['x-who', 'Zoë 山田'],
      ],
      mediaType: 'application/json',
      body: '{"value":62400.50}',
      expects: '200-299',
      answers: [],
      ...more,
    },
  });
  let answer: (request: IncomingMessage, response: ServerResponse, body: string) => void;
  let server: Server;
  let host: string;
  const setupAt = (address: string, seconds = 2): OutletSetup<'web'> => ({
    key: 'insurer',
    secret: 'shared secret',
    changedAt: '1',
    settings: { kind: 'web', address, authentication: 'signature', timeoutSeconds: seconds },
  });
  beforeAll(async () => {
    server = createServer((incoming, response) => {
      let body = '';
      incoming.setEncoding('utf8').on('data', (chunk: string) => (body += chunk));
      incoming.on('end', () => answer(incoming, response, body));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });
  const outletFor = (...allowed: readonly string[]) => makeWebOutlet(allowed);

  test('is signed by HTTP message signatures (RFC 9421), as the formula of the standard has it', async () => {
    const seen: { headers: IncomingMessage['headers']; url: string; body: string }[] = [];
    answer = (incoming, response, body) => {
      seen.push({ headers: incoming.headers, url: incoming.url ?? '', body });
      response.writeHead(200).end('{"premium": 193.4400000000000001, "n": {"m": [1, "x"]}}');
    };
    const outlet = outletFor(host);
    const received = await outlet.send(setupAt(`http://${host}/api`), request());
    expect(received.json).toEqual({ premium: '193.4400000000000001', n: { m: ['1', 'x'] } });
    const [got] = seen;
    if (!got) throw new Error('nothing came');
    expect(got.url).toBe('/api/quotes?for=x');
    expect(got.headers['x-loan']).toBe('L-1  x-evil: 1');
    // Letters of all scripts go as their UTF-8 octets.
    expect(Buffer.from(String(got.headers['x-who']), 'latin1').toString('utf8')).toBe('Zoë 山田');
    expect(got.headers['idempotency-key']).toBe(ID);
    const verified = await httpbis.verifyMessage(
      {
        keyLookup: async () => ({ id: 'insurer', algs: ['hmac-sha256'], verify: createVerifier('shared secret', 'hmac-sha256') }),
      },
      { method: 'POST', url: `http://${host}${got.url}`, headers: got.headers as Record<string, string> },
    );
    expect(verified).toBe(true);
    // The signature base of RFC 9421, section 2.5, written out here.
    const input = String(got.headers['signature-input']).replace(/^ypomet=/, '');
    const base = [
      `"@method": POST`,
      `"@target-uri": http://${host}${got.url}`,
      `"content-type": application/json`,
      `"content-digest": ${got.headers['content-digest']}`,
      `"idempotency-key": ${ID}`,
      `"@signature-params": ${input}`,
    ].join('\n');
    const signature = createHmac('sha256', 'shared secret').update(base).digest('base64');
    expect(got.headers.signature).toBe(`ypomet=:${signature}:`);
    await outlet.close();
  });

  // Common practice: what another attempt may turn out otherwise is tried again, the rest waits for a person at once.
  test.each([
    [true, [400, 401, 403, 404, 410, 422]],
    [false, [408, 425, 429, 500, 503]],
  ])('a status waits for a person at once (%s): %j', async (isFinal, statuses) => {
    const outlet = outletFor(host);
    for (const status of statuses) {
      answer = (_incoming, response) => response.writeHead(status).end();
      expect(await faultOf(outlet.send(setupAt(`http://${host}`, 1), request()))).toEqual(['status', isFinal]);
    }
    await outlet.close();
  });

  test.each<[string, (response: ServerResponse) => void, string, boolean]>([
    ['an answer that isn’t expected', (response) => response.writeHead(500).end('no'), 'status', false],
    [
      'a redirect isn’t followed',
      (response) => response.writeHead(302, { location: 'http://169.254.169.254/' }).end(),
      'status',
      true,
    ],
    ['a connection that breaks', (response) => response.destroy(), 'unreachable', false],
    ['no answer at all', () => undefined, 'timed-out', false],
    [
      'an answer without end',
      (response) => {
        response.writeHead(200);
        const more = (): void => {
          if (!response.destroyed) response.write('x'.repeat(100_000), () => setImmediate(more));
        };
        more();
      },
      'answer-too-large',
      true,
    ],
  ])('%s', async (_, respond, code, isFinal) => {
    answer = (_incoming, response) => respond(response);
    const outlet = outletFor(host);
    expect(await faultOf(outlet.send(setupAt(`http://${host}`, 1), request()))).toEqual([code, isFinal]);
    await outlet.close();
  });

  test('a second answer on the connection hurts nobody', async () => {
    const receiver = await startReceiver(path.join(folder, 'receiver'));
    receiver.mode = 'twice';
    const outlet = outletFor(receiver.host);
    for (const value of [1, 2, 3]) {
      const sending = { ...request({ body: `{"value":${value}000}`, address: '/quotes' }), id: `${ID}-${value}` };
      const { json } = await outlet
        .send(setupAt(receiver.address), sending)
        .catch(() => outlet.send(setupAt(receiver.address), sending));
      expect(json).toMatchObject({ currency: 'EUR' });
    }
    const all = await receiver.list();
    // A repeat is known by its key.
    expect(new Set(all.filter(({ isRepeat }) => !isRepeat).map(({ delivery }) => delivery)).size).toBe(3);
    await outlet.close();
    await receiver.close();
  });

  // OWASP, server side request forgery; special ranges by RFC 6890.
  test.each([
    '127.0.0.1',
    '10.1.2.3',
    '192.168.0.1',
    '169.254.169.254',
    '0.0.0.0',
    '::1',
    'fd00::1',
    '::ffff:127.0.0.1',
    '100.64.0.1',
  ])('%s is nowhere a design may send to', (address) => {
    expect(isAllowedAddress(address, 80, [])).toBe(false);
    expect(isAllowedAddress(address, 80, [`${address}:81`])).toBe(false);
  });
  test('addresses of the open network are', () => {
    expect(isAllowedAddress('93.184.216.34', 443, [])).toBe(true);
    expect(isAllowedAddress('2606:2800:220:1::1', 443, [])).toBe(true);
  });
  test('neither literally, nor by a name that leads there', async () => {
    answer = (_incoming, response) => response.writeHead(200).end('{}');
    const outlet = outletFor();
    for (const address of [`http://${host}`, `http://localhost:${host.split(':')[1]}`, 'http://2130706433/'])
      expect(await faultOf(outlet.send(setupAt(address), request()))).toEqual(['not-allowed', true]);
    await outlet.close();
  });

  test.each(['//evil.example/x', '@evil.example/', 'http://evil.example/', '\\evil.example', '/../../x', '?a=b'])(
    'what a design adds, “%s”, stays on the outlet’s own server',
    (more) => {
      const setup = setupAt('https://insurer.example/api');
      let url: URL | null = null;
      try {
        url = addressOf(setup, more);
      } catch (error) {
        expect(error).toBeInstanceOf(NotSent);
      }
      if (url) expect(url.origin).toBe('https://insurer.example');
    },
  );

  test.each(['/pieces/../detail', '/pieces/%2e%2E/detail', '/pieces/./x', '/pieces//detail', '\\..\\x', '/..'])(
    'a value can’t lead “%s” to another resource',
    (more) => {
      expect(() => addressOf(setupAt('https://insurer.example/api'), more)).toThrow(NotSent);
    },
  );

  test.each(['/pieces/a..b/detail', '/pieces/...', '/pieces/', '?at=../x'])('“%s” stays where it is', (more) => {
    expect(addressOf(setupAt('https://insurer.example/api'), more).pathname).toMatch(/^\/api/);
  });

  test('trying it asks as a delivery does, and isn’t well where the endpoint isn’t', async () => {
    const seen: IncomingMessage[] = [];
    const outlet = outletFor(host);
    const tried = async (status: number): Promise<string> => {
      answer = (incoming, response) => {
        seen.push(incoming);
        response.writeHead(status, { location: 'http://elsewhere.invalid/' }).end('said');
      };
      return outlet.try({ ...setupAt(`http://${host}`), secret: 's3cret' }).catch((error: NotSent) => error.fault.code);
    };
    expect([await tried(200), await tried(405), await tried(500), await tried(302), await tried(401)]).toEqual([
      '200 said',
      '405 said',
      'status',
      'status',
      'status',
    ]);
    expect(seen.every(({ headers }) => headers.signature !== undefined && headers['x-ypomet-trial'] === '1')).toBe(true);
    await outlet.close();
  });

  test('expected answers are codes and ranges', () => {
    expect([200, 204, 302, 404, 500].map((status) => isExpected(status, '200-299, 404'))).toEqual([
      true,
      true,
      false,
      true,
      false,
    ]);
  });

  test('what is no JSON, or too deep, is nothing', () => {
    expect(['<p>', '', '{', `${'['.repeat(200_000)}`].map(readAnswer)).toEqual([null, null, null, null]);
  });
});
