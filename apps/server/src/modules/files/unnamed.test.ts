import { createHash } from 'node:crypto';
import { existsSync, utimesSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { loanRequest, objectRow, TestServer } from '../../testing/test-server.ts';
import { forgetOld, UNNAMED_KEPT_DAYS } from '../housekeeping.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const pdf = (text: string): Buffer => Buffer.from(`%PDF-1.7\n${text}`);
const placeOf = (contents: Buffer): string => {
  const sha256 = createHash('sha256').update(contents).digest('hex');
  return path.join(server.dataDir, 'files', sha256.slice(0, 2), sha256);
};

/** Hands over a file as a member of the demo; what a field names it by. */
async function handOver(who: 'borrower' | 'registrar', contents: Buffer, name: string) {
  const answer = await server.server.app.inject({
    method: 'POST',
    url: `/api/files?name=${name}`,
    headers: { 'content-type': 'application/pdf', cookie: await server.cookieOf(who) },
    payload: contents,
  });
  expect(answer.statusCode).toBe(201);
  return answer.json();
}

/** Lets days pass since the files were handed over, and tidies up. */
async function tidyAfter(days: number, ...contents: readonly Buffer[]): Promise<void> {
  const { database, files } = server.server.context;
  await database.pool.query(`update files set at = at - $1::int * interval '1 day'`, [days]);
  for (const one of contents) if (existsSync(placeOf(one))) utimesSync(placeOf(one), 0, 0);
  await forgetOld(database.pool, files);
}

test('a file that no record names is forgotten in the end; one that a record names, or that somebody else handed over lately, is not', async () => {
  const [named, left, shared] = [pdf('named'), pdf('left'), pdf('shared')];
  const file = await handOver('borrower', named, 'rooms.pdf');
  await handOver('borrower', left, 'other.pdf');
  await handOver('borrower', shared, 'mine.pdf');
  const borrower = await server.as('borrower');
  const begun = await borrower('POST', '/api/intakes/objectLoan/records', {
    stage: 'request',
    handOff: 'submit',
    values: { ...loanRequest(objectRow('a', 'Lamp', 'metal', '100.00')), facilityReport: [file] },
  });
  expect(begun.status).toBe(201);
  const there = (): readonly boolean[] => [named, left, shared].map((one) => existsSync(placeOf(one)));

  await tidyAfter(UNNAMED_KEPT_DAYS - 1, named, left, shared);
  expect(there()).toEqual([true, true, true]);
  await handOver('registrar', shared, 'theirs.pdf');
  await tidyAfter(2, named, left, shared);
  expect(there()).toEqual([true, false, true]);
  const { rows } = await server.server.context.database.pool.query('select name from files order by name');
  expect(rows.map(({ name }) => name)).toEqual(['rooms.pdf', 'theirs.pdf']);
  const saved = await borrower('GET', `/api/records/${begun.body.record.id}/files/${file.sha256}`);
  expect(saved.status).toBe(200);
});
