import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { FileStore as PartStore } from '@tus/file-store';
import { BODY_LIMITS, UPLOADS_PATH } from '@ypomet/contract';
import { PARTS_KEPT_MS } from './modules/files/begun-uploads.ts';
import { mediaTypeOf } from './modules/files/content.ts';
import { makePartStore } from './modules/files/resumable.ts';
import { TestServer } from './testing/test-server.ts';

// Files in parts, by the tus protocol 1.0.0 (tus.io): creation, offsets, and going on after a break.
let server: TestServer;
let base: string;
let cookie: string;
let other: string;

beforeAll(async () => {
  server = await TestServer.make();
  base = `http://127.0.0.1:${await server.listen()}`;
  [cookie, other] = await Promise.all([server.cookieOf('borrower'), server.cookieOf('registrar')]);
});
afterAll(() => server.close());

const coded = (text: string): string => Buffer.from(text).toString('base64');
const TUS = { 'tus-resumable': '1.0.0' };
const send = (method: string, url: string, headers: Record<string, string>, body?: Buffer) =>
  fetch(`${base}${url}`, { method, headers: { ...TUS, cookie, ...headers }, ...(body ? { body: new Uint8Array(body) } : {}) });
const create = (bytes: number, name = 'rooms.pdf', headers: Record<string, string> = {}) =>
  send('POST', UPLOADS_PATH, {
    'upload-length': String(bytes),
    'upload-metadata': `filename ${coded(name)},filetype ${coded('application/pdf')}`,
    ...headers,
  });
const patch = (at: string, offset: number, body: Buffer, headers: Record<string, string> = {}) =>
  send('PATCH', at, { 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream', ...headers }, body);
const pdf = (bytes: number): Buffer => Buffer.concat([Buffer.from('%PDF-1.7\n'), Buffer.alloc(bytes - 9, 'x')]);
const partsThere = (): string[] => readdirSync(path.join(server.dataDir, 'files', 'parts'));

describe('a file in parts', () => {
  test('is put together as it was, and answered with as a field names it', async () => {
    const file = pdf(300_000);
    const created = await create(file.length);
    expect(created.status).toBe(201);
    const at = created.headers.get('location') ?? '';
    expect(at).toMatch(/^\/api\/uploads\/[0-9a-f-]{36}_[0-9a-f-]{36}$/);
    expect((await patch(at, 0, file.subarray(0, 100_000))).status).toBe(204);
    // The connection is gone; whoever comes back asks how far it is.
    const head = await send('HEAD', at, {});
    expect([head.headers.get('upload-offset'), head.headers.get('upload-length')]).toEqual(['100000', '300000']);
    expect((await patch(at, 0, file.subarray(0, 10))).status).toBe(409);
    const done = await patch(at, 100_000, file.subarray(100_000));
    expect(done.status).toBe(200);
    const sha256 = createHash('sha256').update(file).digest('hex');
    expect(await done.json()).toEqual({ name: 'rooms.pdf', mediaType: 'application/pdf', bytes: 300_000, sha256 });
    expect(partsThere()).toEqual([]);
    expect((await send('HEAD', at, {})).status).toBeGreaterThanOrEqual(404);
  });

  test('is nobody else’s to see, to go on with, or to take away', async () => {
    const at = (await create(1000)).headers.get('location') ?? '';
    for (const [method, body] of [
      ['HEAD', undefined],
      ['PATCH', pdf(1000)],
      ['DELETE', undefined],
    ] as const) {
      const headers = { cookie: other, 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' };
      expect([method, (await send(method, at, headers, body)).status]).toEqual([method, 404]);
      expect([method, (await send(method, at, { ...headers, cookie: '' }, body)).status]).toEqual([method, 401]);
    }
    // Nor is anything of it ever read there.
    expect((await send('GET', at, {})).status).toBe(404);
    expect((await send('DELETE', at, {})).status).toBe(204);
    expect(partsThere()).toEqual([]);
  });

  test('can’t be said to be somebody else’s', async () => {
    const created = await create(1000, 'rooms.pdf', { 'x-ypomet-member': '6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0001' });
    const at = created.headers.get('location') ?? '';
    expect(at).toContain('6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0005_');
    await send('DELETE', at, {});
  });

  test.each([
    ['2 GB', () => create(2_000_000_000), 413],
    ['one byte more than fits', () => create(BODY_LIMITS.file + 1), 413],
    ['nothing', () => create(0), 422],
    ['of no said size', () => create(10, 'a.pdf', { 'upload-length': '', 'upload-defer-length': '1' }), 400],
    ['with marks that turn its name around', () => create(10, 'invoice\u202efdp.exe'), 422],
    ['with a folder in its name', () => create(10, '../../etc/passwd'), 400],
    ['of another version of the protocol', () => create(10, 'a.pdf', { 'tus-resumable': '0.2.2' }), 400],
  ])('%s is refused before anything of it is sent', async (_, begin, status) => {
    expect((await begin()).status).toBe(status);
    expect(partsThere()).toEqual([]);
  });

  test('sent whole with marks that turn its name around is refused too, in a sentence; marks of a script’s own letters are not', async () => {
    const whole = (name: string) =>
      fetch(`${base}/api/files?name=${encodeURIComponent(name)}`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'application/pdf', origin: base },
        body: new Uint8Array(pdf(100)),
      });
    const refused = await whole('rooms\u2067fdp.pdf');
    expect([refused.status, await refused.json()]).toMatchObject([422, { code: 'file/turned-name' }]);
    // A right-to-left mark, as Hebrew and Arabic keyboards write it.
    expect((await whole('חדרים\u200f.pdf')).status).toBe(201);
  });

  test('whose contents aren’t its name’s is refused at its end, and nothing of it stays', async () => {
    const png = Buffer.concat([Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex'), Buffer.alloc(200)]);
    const at = (await create(png.length)).headers.get('location') ?? '';
    const done = await patch(at, 0, png);
    expect(done.status).toBe(422);
    expect(await done.json()).toMatchObject({ code: 'file/other-content', detail: expect.stringContaining('holds image/png') });
    expect(partsThere()).toEqual([]);
  });

  test('that isn’t gone on with is forgotten after a day', async () => {
    const at = (await create(1000)).headers.get('location') ?? '';
    await patch(at, 0, pdf(500));
    const store = makePartStore(server.dataDir);
    await store.deleteExpired();
    expect(partsThere()).toHaveLength(2);
    const said = path.join(server.dataDir, 'files', 'parts', `${at.split('/').at(-1)}.json`);
    const old = new Date(Date.now() - PARTS_KEPT_MS - 1000).toISOString();
    writeFileSync(said, JSON.stringify({ ...JSON.parse(readFileSync(said, 'utf8')), creation_date: old }));
    await store.deleteExpired();
    expect(partsThere()).toEqual([]);
  });

  test('is named as the server named it: no other file beside its parts is reached', async () => {
    const at = (await create(1000)).headers.get('location') ?? '';
    for (const name of [`${at}.json`, `${at}%00`, `${at}/..`, `${UPLOADS_PATH}/6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0005_`])
      expect([name, (await send('DELETE', name, {})).status]).toEqual([name, 404]);
    expect(partsThere()).toHaveLength(2);
    await send('DELETE', at, {});
    expect(partsThere()).toEqual([]);
  });

  test('is answered like everything else: problem details, kept by nobody, for no other site', async () => {
    const created = await create(1000, 'rooms.pdf', { origin: base });
    const at = created.headers.get('location') ?? '';
    const wrong = await patch(at, 7, pdf(100), { origin: base });
    expect([wrong.status, wrong.headers.get('content-type')]).toEqual([
      409,
      expect.stringMatching(/^application\/problem\+json/),
    ]);
    expect(await wrong.json()).toMatchObject({ code: 'upload/offset', status: 409 });
    for (const { headers } of [created, wrong]) {
      expect(headers.get('cache-control')).toBe('no-store');
      expect(headers.get('access-control-allow-origin')).toBeNull();
    }
    await send('DELETE', at, { origin: base });
    const gone = await send('PATCH', at, { 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' }, pdf(10));
    expect(await gone.json()).toMatchObject({ code: 'thing/not-found' });
  });

  test('is taken from another site’s page no more than anything else', async () => {
    expect((await create(10, 'a.pdf', { origin: 'https://elsewhere.example' })).status).toBe(403);
  });
});

describe('files that are begun and never ended', () => {
  const places: string[] = [];
  const begin = async (bytes: number): Promise<string> => {
    const answer = await create(bytes, 'rooms.pdf', { cookie: other });
    if (answer.status === 201) places.push(answer.headers.get('location') ?? '');
    return answer.status === 201 ? 'begun' : `${answer.status} ${(await answer.json()).code}`;
  };
  const letGo = async (): Promise<void> => {
    for (const place of places.splice(0)) await send('DELETE', place, { cookie: other });
  };

  test('are twenty at most for one member; one that is let go makes room', async () => {
    const all = await Promise.all(Array.from({ length: 25 }, () => begin(1000)));
    expect(all.filter((one) => one === 'begun')).toHaveLength(20);
    expect(all.filter((one) => one === '429 upload/too-many')).toHaveLength(5);
    await send('DELETE', places.pop() ?? '', { cookie: other });
    expect(await begin(1000)).toBe('begun');
    await letGo();
    expect(partsThere()).toEqual([]);
  });

  test('count towards the day’s bytes by what was announced', async () => {
    const all = await Promise.all(Array.from({ length: 12 }, () => begin(50_000_000)));
    expect(all.filter((one) => one === 'begun')).toHaveLength(10);
    expect(all.filter((one) => one === '429 request/too-many')).toHaveLength(2);
    await letGo();
    expect(await begin(50_000_000)).toBe('begun');
    await letGo();
  });

  test.each([
    ['a full disk', { code: 'ENOSPC' }, 507, 'server/no-room'],
    ['a database that is away', { code: 'ECONNREFUSED' }, 503, 'server/busy'],
    ['anything else', { code: 'EIO' }, 500, 'server/fault'],
  ])('whose parts can’t be stored because of %s are answered with what that means', async (_, more, status, code) => {
    const failing = jest
      .spyOn(PartStore.prototype, 'create')
      .mockRejectedValueOnce(Object.assign(new Error('at /srv/data'), more));
    try {
      const answer = await create(1000);
      const text = await answer.text();
      expect([answer.status, JSON.parse(text).code]).toEqual([status, code]);
      expect(text).not.toContain('/srv/data');
    } finally {
      failing.mockRestore();
    }
  });

  test('leave room on the disk: where there is little, a sentence says so', async () => {
    const full = await TestServer.make({ keepFreeBytes: 1e15 });
    try {
      const call = await full.as('borrower');
      const answer = await call('POST', '/api/files?name=a.pdf', '%PDF-1.7', { 'content-type': 'application/pdf' });
      expect([answer.status, answer.body.code]).toEqual([507, 'server/no-room']);
      expect((await full.anybody('GET', '/api/health')).body).toMatchObject({ status: 'full', room: false });
    } finally {
      await full.close();
    }
  });
});

// What files are by how they begin: their formats' own signatures (PNG: RFC 2083, 3.1; PDF: ISO 32000-1, 7.5.2; ZIP: APPNOTE
// 4.3.7), from memory.
describe('what a file holds', () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'ypomet-content-'));
  const PNG = Buffer.concat([
    Buffer.from('89504e470d0a1a0a0000000d4948445200000001000000010806000000', 'hex'),
    Buffer.alloc(100),
  ]);
  const ZIP = Buffer.concat([Buffer.from('504b0304140000000000', 'hex'), Buffer.alloc(200)]);
  const EXE = Buffer.concat([Buffer.from('MZ'), Buffer.alloc(300)]);
  const typeOf = (name: string, contents: Buffer | string, written = ''): Promise<string> => {
    const place = path.join(folder, createHash('sha256').update(name).update(contents).digest('hex'));
    writeFileSync(place, contents);
    return mediaTypeOf(place, name, written).catch((error: Error) => error.message);
  };

  test.each([
    ['report.pdf', '%PDF-1.7', '', 'application/pdf'],
    ['REPORT.PDF', '%PDF-1.7', 'text/html', 'application/pdf'],
    ['picture.png', PNG, '', 'image/png'],
    ['list.csv', 'a;b\n1;2', 'application/vnd.ms-excel', 'text/csv'],
    ['drawing.svg', '<svg xmlns="http://www.w3.org/2000/svg"/>', '', 'image/svg+xml'],
    ['book.xlsx', ZIP, '', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'],
    ['picture', PNG, '', 'image/png'],
    ['notes', 'just words', 'text/plain', 'text/plain'],
    ['data.unheardof', 'just words', '', 'application/octet-stream'],
  ])('%s is taken', async (name, contents, written, type) => {
    expect(await typeOf(name, contents, written)).toBe(type);
  });

  test.each([
    ['report.pdf', 'these are words'],
    ['report.pdf', PNG],
    ['picture.jpg', PNG],
    ['picture.png', '<script>alert(1)</script>'],
    ['book.xlsx', 'a;b\n1;2'],
    ['list.csv', EXE],
    ['notes.txt', ZIP],
    ['setup.pdf', EXE],
  ])('%s isn’t what it is called', async (name, contents) => {
    expect(await typeOf(name, contents)).toBe('file/other-content');
  });
});
