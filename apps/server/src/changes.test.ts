import http from 'node:http';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { eventually, loanRequest, objectRow, TestServer } from './testing/test-server.ts';

// Pages that show records are told when these change: whoever may see them, by whichever way they changed.
let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

type Who = 'registrar' | 'conservator' | 'borrower' | 'other' | 'director';
/** Opens a stream; what came so far, and how to close it. */
async function watch(who: Who, query = '', at = server) {
  const [cookie, port] = [await at.cookieOf(who), await at.listen()];
  let text = '';
  let isOver = false;
  const request = http.get({ host: '127.0.0.1', port, path: `/api/changes${query}`, headers: { cookie } });
  const status = await new Promise<number>((resolve, reject) => {
    request.once('response', (response) => {
      response.setEncoding('utf8').on('data', (part: string) => {
        text += part;
      });
      // A stream that is closed here breaks off.
      response.on('error', () => {});
      response.once('end', () => {
        isOver = true;
      });
      resolve(response.statusCode ?? 0);
    });
    request.once('error', reject);
  });
  request.on('error', () => {});
  return {
    status,
    changes: () => text.split('data: {"type":"changed"}').length - 1,
    text: () => text,
    isOver: () => isOver,
    cookie,
    close: () => request.destroy(),
  };
}

const begin = async (): Promise<{ readonly id: string; readonly revision: number }> => {
  const borrower = await server.as('borrower');
  const { body } = await borrower('POST', '/api/intakes/objectLoan/records', {
    stage: 'request',
    handOff: 'submit',
    values: loanRequest(objectRow('o1', 'Lamp', 'metal', '100.00')),
  });
  return body.record;
};

describe('a stream of changes', () => {
  test('ends with the session it was opened in, or when its member has other roles; others go on', async () => {
    const [left, changed, kept] = await Promise.all([watch('director'), watch('conservator'), watch('registrar')]);
    await server.server.app.inject({ method: 'DELETE', url: '/api/session', headers: { cookie: left.cookie } });
    const { pool } = server.server.context.database;
    await pool.query(`update members set roles = array_append(roles, 'other') where email like 'carla@%'`);
    try {
      await eventually(
        async () => [left.isOver(), changed.isOver()],
        (over) => over.every(Boolean),
        30,
      );
      expect(kept.isOver()).toBe(false);
    } finally {
      await pool.query(`update members set roles = array_remove(roles, 'other')`);
      for (const stream of [left, changed, kept]) stream.close();
    }
  }, 60_000);
});

describe('changes of records', () => {
  test('are told to those who may see them: at the desk, in the register, at the record', async () => {
    const { id, revision } = await begin();
    const [desk, stranger, register, record, another] = await Promise.all([
      watch('registrar'),
      watch('other'),
      watch('director', '?workflow=objectLoan'),
      watch('borrower', `?record=${id}`),
      watch('director', '?workflow=transportBooking'),
    ]);
    const registrar = await server.as('registrar');
    const { status } = await registrar(
      'POST',
      `/api/records/${id}/hand-offs`,
      { handOff: 'decline', values: { reason: 'Not now.' } },
      { 'if-match': `"${revision}"` },
    );
    expect(status).toBe(200);
    for (const one of [desk, register, record])
      await eventually(
        async () => one.changes(),
        (count) => count === 1,
      );
    expect([stranger.changes(), another.changes()]).toEqual([0, 0]);
    // Nothing of the record is in what is told.
    expect(desk.text()).not.toContain(id);
    for (const one of [desk, stranger, register, record, another]) one.close();
  });

  test('are told at once by the server through which they were made', async () => {
    const patient = await TestServer.make();
    try {
      // It never looks by itself.
      clearInterval(Reflect.get(patient.server.context.changes, 'timer'));
      const registrar = await patient.as('registrar');
      const desk = await watch('registrar', '', patient);
      const { record } = (await registrar('GET', '/api/desk')).body.entries[0];
      const told = (count: number) =>
        eventually(
          async () => desk.changes(),
          (now) => now === count,
        );
      const url = `/api/records/${record.id}`;
      await registrar('PUT', `${url}/assignee`, { kind: 'take' }, { 'if-match': `"${record.revision}"` });
      await told(1);
      await registrar('POST', `${url}/hand-offs`, { handOff: 'decline' }, { 'if-match': `"${record.revision + 1}"` });
      await told(2);
      desk.close();
    } finally {
      await patient.close();
    }
  });

  test('of what one may not see nobody listens to', async () => {
    const { id } = await begin();
    for (const [who, query, status] of [
      ['other', `?record=${id}`, 404],
      ['borrower', '?workflow=objectLoan', 404],
      ['registrar', '?record=x', 400],
    ] as const) {
      const one = await watch(who, query);
      expect(one.status).toBe(status);
      one.close();
    }
  });

  test('a member keeps at most 20 streams; closed ones are free again', async () => {
    const streams = await Promise.all(Array.from({ length: 20 }, () => watch('conservator')));
    const refused = await watch('conservator');
    expect(refused.status).toBe(429);
    for (const one of [...streams, refused]) one.close();
    await eventually(
      async () => {
        const one = await watch('conservator');
        one.close();
        return one.status;
      },
      (status) => status === 200,
    );
  });
});
