import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { SMTPServer } from 'smtp-server';
import { makeMailOutlet } from './outlets/mail.ts';
import { eventually, loanRequest, objectRow, problemOf, TestServer } from './testing/test-server.ts';

const REQUEST = loanRequest(objectRow('a', 'Harbour study', 'paper', '60000.00'));

/** A mail server that refuses while it is told to, on a port of its own. */
async function startFlakyMailServer(): Promise<{
  readonly port: number;
  readonly taken: string[];
  fails: boolean;
  readonly close: () => Promise<void>;
}> {
  const state = { taken: [] as string[], fails: true };
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    logger: false,
    onRcptTo: (_address, _session, done) => done(state.fails ? new Error('451 try again later') : null),
    onData: (stream, _session, done) => {
      let text = '';
      stream.setEncoding('utf8').on('data', (chunk: string) => (text += chunk));
      stream.on('end', () => {
        state.taken.push(text);
        done();
      });
    },
  });
  const port = await new Promise<number>((resolve) => {
    const listener = server.listen(0, '127.0.0.1', () => resolve((listener.address() as { port: number }).port));
  });
  return Object.assign(state, { port, close: () => new Promise<void>((resolve) => server.close(() => resolve())) });
}

describe('the mail outlet', () => {
  const mail = {
    id: '00000000-0000-4000-8000-000000000001',
    to: ['a@b.invalid'],
    subject: 'Übersee — 3 objects',
    body: 'Zeile 1\n.\nZeile 3',
  };

  test('hands a mail to a real SMTP server, with a key to know repeats by, and says when it is refused', async () => {
    const server = await startFlakyMailServer();
    const outlet = makeMailOutlet({ host: '127.0.0.1', port: server.port });
    await expect(outlet.send(mail)).rejects.toThrow(/451|try again/);
    server.fails = false;
    await outlet.send(mail);
    await outlet.send(mail);
    expect(server.taken).toHaveLength(2);
    const ids = server.taken.map((text) => /^message-id:\s*(\S+)/im.exec(text)?.[1]);
    expect(ids[0]).toContain(mail.id);
    expect(ids[0]).toBe(ids[1]);
    outlet.close();
    await server.close();
  });

  test('a header can’t be slipped in through a subject', async () => {
    const server = await startFlakyMailServer();
    server.fails = false;
    const outlet = makeMailOutlet({ host: '127.0.0.1', port: server.port });
    await outlet.send({ ...mail, subject: 'Hello\r\nBcc: everybody@else.invalid' });
    const head = server.taken[0]?.split(/\r?\n\r?\n/)[0] ?? '';
    expect(head).not.toMatch(/^bcc:/im);
    outlet.close();
    await server.close();
  });

  test('nobody listening is an error, not a hang', async () => {
    const outlet = makeMailOutlet({ host: '127.0.0.1', port: 1 });
    await expect(outlet.send(mail)).rejects.toThrow(/ECONNREFUSED|connect/i);
    outlet.close();
  });
});

describe('the dispatch log', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.make();
  });
  afterAll(() => server.close());

  const entriesOf = async (number: string) => {
    const analyst = await server.as('analyst');
    const { body } = await analyst('GET', '/api/deliveries?limit=200');
    return body.entries.filter((entry: { recordNumber: string }) => entry.recordNumber === number);
  };
  const sendOne = async () => {
    const borrower = await server.as('borrower');
    const registrar = await server.as('registrar');
    const begun = await borrower('POST', '/api/intakes/objectLoan/records', {
      stage: 'request',
      handOff: 'submit',
      values: REQUEST,
    });
    const { id, number } = begun.body.record;
    const accepted = await registrar(
      'POST',
      `/api/records/${id}/hand-offs`,
      { handOff: 'accept', values: { luxLimit: '50' } },
      { 'if-match': '"1"' },
    );
    expect(accepted.status).toBe(200);
    return String(number);
  };

  test('a mail is queued with its hand-off, sent once, and lies in the mailbox', async () => {
    const number = await sendOne();
    const entries = await eventually(
      () => entriesOf(number),
      (found) => found.length > 0 && found.every(({ status }: { status: string }) => status === 'sent'),
    );
    const { subject } = entries.find((entry: { subject: string }) => entry.subject.includes(number));
    const analyst = await server.as('analyst');
    const { body } = await analyst('GET', '/api/standins/mailbox?limit=200');
    const mails = body.entries.filter((mail: { subject: string }) => mail.subject === subject);
    expect(mails).toHaveLength(1);
    const whole = await analyst('GET', `/api/standins/mailbox/${mails[0].id}`);
    expect(whole.body.text).toContain('Hollen Street Gallery');
    expect(whole.body.headers.map(({ name }: { name: string }) => name)).toContain('message-id');
  });

  test('one that was given up waits for a person, who can try it again; one that was sent can’t be', async () => {
    const number = await sendOne();
    const [sent] = await eventually(
      () => entriesOf(number),
      (entries) => entries.length > 0 && entries[0].status === 'sent',
    );
    const analyst = await server.as('analyst');
    expect(problemOf(await analyst('POST', `/api/deliveries/${sent.id}/attempts`))).toMatchObject({
      status: 409,
      code: 'delivery/not-waiting',
    });
    await server.server.context.database.pool.query(
      `update deliveries set status = 'waiting', fault = '{"code":"refused","params":{"answer":"refused"}}' where id = $1`,
      [sent.id],
    );
    expect((await entriesOf(number))[0].status).toBe('waiting');
    expect((await analyst('POST', `/api/deliveries/${sent.id}/attempts`)).status).toBe(200);
    await eventually(
      () => entriesOf(number),
      (entries) => entries[0].status === 'sent',
    );
  });

  test('it is paged, newest first', async () => {
    const analyst = await server.as('analyst');
    const all = (await analyst('GET', '/api/deliveries?limit=200')).body.entries.map(({ id }: { id: string }) => id);
    const paged: string[] = [];
    let after = '';
    do {
      const { body } = await analyst('GET', `/api/deliveries?limit=2${after}`);
      paged.push(...body.entries.map(({ id }: { id: string }) => id));
      after = body.next ? `&after=${body.next}` : '';
    } while (after !== '');
    expect(paged).toEqual(all);
    expect(all.length).toBeGreaterThan(3);
  });
});
