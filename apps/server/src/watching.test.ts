import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { DraftEvent } from '@ypomet/contract';
import { applyEdit, type Edit, joinPath, parseWorkflow, type Workflow } from '@ypomet/core';
import { DEMO_MEMBERS, DEMO_PASSWORD } from './demo/members.ts';
import { type Call, editing, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

let server: TestServer;
let [analyst, borrower]: Call[] = [];
let base: string;
let cookie: string;
const call = (one: Call | undefined): Call => one as Call;

beforeAll(async () => {
  server = await TestServer.make();
  [analyst, borrower] = await Promise.all([server.as('analyst'), server.as('borrower')]);
  base = `http://127.0.0.1:${await server.listen()}`;
  const signedIn = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: DEMO_MEMBERS[0]?.email, password: DEMO_PASSWORD }),
  });
  cookie = signedIn.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .join('; ');
});
afterAll(() => server.close());

const draftOf = async (): Promise<{ readonly definition: Workflow; readonly revision: number }> =>
  (await call(analyst)('GET', '/api/workflows/objectLoan/draft')).body;

async function edit(change: Edit): Promise<number> {
  const { revision } = await draftOf();
  const answer = await call(analyst)('POST', '/api/workflows/objectLoan/draft/edits', editing(change), {
    'if-match': `"${revision}"`,
  });
  expect(answer.status).toBe(200);
  return answer.body.revision;
}

const rename = (name: string): Edit => ({ type: 'change-part', part: joinPath('stages', 'request'), set: { name } });

/** A page at the draft: what it is told, and how it leaves. */
async function openPage(tab = randomUUID()) {
  const controller = new AbortController();
  const response = await fetch(`${base}/api/workflows/objectLoan/draft/watch?tab=${tab}`, {
    headers: { cookie },
    signal: controller.signal,
  });
  const events: DraftEvent[] = [];
  let wake: () => void = () => {};
  const reading = (async () => {
    let text = '';
    const decoder = new TextDecoder();
    for await (const chunk of response.body ?? []) {
      text += decoder.decode(chunk as Uint8Array, { stream: true });
      const parts = text.split('\n\n');
      text = parts.pop() ?? '';
      for (const part of parts) if (part.startsWith('data: ')) events.push(JSON.parse(part.slice(6)) as DraftEvent);
      wake();
    }
  })().catch((error: unknown) => {
    if (!controller.signal.aborted) throw error;
  });
  const until = async (wanted: (event: DraftEvent) => boolean): Promise<DraftEvent> => {
    for (;;) {
      const found = events.find(wanted);
      if (found) return found;
      await new Promise<void>((resolve) => {
        wake = resolve;
      });
    }
  };
  const leave = async (): Promise<void> => {
    controller.abort();
    await reading;
  };
  return { tab, response, events, until, leave };
}

const standAt = (tab: string, part: string | null) =>
  call(analyst)('PUT', '/api/workflows/objectLoan/draft/place', { tab, part });

describe('pages at a draft', () => {
  test('are told of each change, with its revision and by whom', async () => {
    const page = await openPage();
    expect(page.response.headers.get('content-type')).toBe('text/event-stream; charset=utf-8');
    expect(page.response.headers.get('cache-control')).toBe('no-store');
    const revision = await edit(rename('Asking'));
    expect(await page.until(({ type }) => type === 'changed')).toEqual({ type: 'changed', revision, by: 'Ines Halvard' });
    await page.leave();
  });

  test('see who else is there and where, from whenever they come, until that one leaves; never themselves', async () => {
    const [first, second] = [await openPage(), await openPage()];
    expect((await standAt(first.tab, 'stages.request')).status).toBe(204);
    const seen = { type: 'here', tab: first.tab, name: 'Ines Halvard', part: 'stages.request' };
    expect(await second.until(({ type }) => type === 'here')).toEqual(seen);
    const third = await openPage();
    expect(await third.until(({ type }) => type === 'here')).toEqual(seen);
    await first.leave();
    expect(await second.until(({ type }) => type === 'gone')).toEqual({ type: 'gone', tab: first.tab });
    expect(first.events.filter((event) => event.type !== 'changed' && event.tab === first.tab)).toEqual([]);
    await Promise.all([second.leave(), third.leave()]);
  });

  test('hear of other servers’ changes: they go through PostgreSQL', async () => {
    const page = await openPage();
    const event = { type: 'changed', revision: 4711, by: 'Somebody' };
    await server.server.context.database.pool.query('select pg_notify($1, $2)', [
      'drafts',
      JSON.stringify({ key: 'objectLoan', event }),
    ]);
    expect(await page.until((one) => one.type === 'changed' && one.revision === 4711)).toEqual(event);
    await page.leave();
  });

  test('end when the connection that listens breaks, so that they come again', async () => {
    const page = await openPage();
    await server.server.context.database.pool.query(
      "select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'ypomet-watch' and datname = current_database()",
    );
    await page.leave();
    const again = await openPage();
    await edit(rename('Asking again'));
    await again.until(({ type }) => type === 'changed');
    await again.leave();
  });

  test('are twenty at most for a member', async () => {
    const pages = await Promise.all(Array.from({ length: 20 }, () => openPage()));
    const one = await fetch(`${base}/api/workflows/objectLoan/draft/watch?tab=${randomUUID()}`, { headers: { cookie } });
    expect([one.status, one.headers.get('retry-after')]).toEqual([429, '60']);
    await one.body?.cancel();
    await Promise.all(pages.map((page) => page.leave()));
  });

  test.each<[string, () => ReturnType<Call>, number]>([
    ['without a session', () => server.anybody('GET', `/api/workflows/objectLoan/draft/watch?tab=${randomUUID()}`), 401],
    ['as a participant', () => call(borrower)('GET', `/api/workflows/objectLoan/draft/watch?tab=${randomUUID()}`), 403],
    ['of no workflow', () => call(analyst)('GET', `/api/workflows/nothing/draft/watch?tab=${randomUUID()}`), 404],
    ['without a tab', () => call(analyst)('GET', '/api/workflows/objectLoan/draft/watch'), 400],
    [
      'standing somewhere as a participant',
      () => call(borrower)('PUT', '/api/workflows/objectLoan/draft/place', { tab: randomUUID(), part: null }),
      403,
    ],
    ['standing at a place that is too long', () => standAt(randomUUID(), 'x'.repeat(501)), 400],
  ])('%s: refused', async (_, ask, status) => {
    expect((await ask()).status).toBe(status);
  });
});

describe('a draft as it was', () => {
  test('is what it was after each revision, and going back to it is an edit like others', async () => {
    const start = await draftOf();
    const states = [start];
    for (const name of ['One', 'Two', 'Three']) {
      await edit(rename(name));
      states.push(await draftOf());
    }
    for (const { definition, revision } of states) {
      const answer = await call(analyst)('GET', `/api/workflows/objectLoan/draft/revisions/${revision}`);
      expect(answer.body).toEqual({ definition, revision });
    }
  });

  test.each<[string, string, number]>([
    ['one that isn’t there yet', '/api/workflows/objectLoan/draft/revisions/999999', 404],
    ['no number', '/api/workflows/objectLoan/draft/revisions/last', 400],
    ['of no workflow', '/api/workflows/nothing/draft/revisions/1', 404],
  ])('%s', async (_, url, status) => {
    expect((await call(analyst)('GET', url)).status).toBe(status);
  });

  test('too far back is refused, with what to do instead', async () => {
    const { pool } = server.server.context.database;
    const { revision } = await draftOf();
    await pool.query(
      `insert into draft_edits (workflow, revision, position, edit, inverse, sentence)
       select 'objectLoan', $1, n, '{}', '{}', '{"code":"read-in","params":{}}' from generate_series(1000, 6001) n`,
      [revision],
    );
    const answer = await call(analyst)('GET', `/api/workflows/objectLoan/draft/revisions/${revision - 1}`);
    expect(problemOf(answer)).toMatchObject({ status: 400 });
    expect(answer.body.detail).toContain('5000 changes');
    await pool.query('delete from draft_edits where position >= 1000');
  });
});

describe('a workflow', () => {
  const summary = async (key: string) =>
    (await call(analyst)('GET', '/api/workflows')).body.find((one: { key: string }) => one.key === key);

  test('is listed with its map, what waits where, who answers for it and who changed it', async () => {
    const found = await summary('objectLoan');
    expect(found).toMatchObject({ owner: { name: 'Ines Halvard' }, changedBy: 'Ines Halvard', archivedAt: null });
    const { definition } = await draftOf();
    expect(found.tracks).toEqual(definition.tracks.map(({ key, name }) => ({ key, name })));
    expect(found.stages.map(({ key }: { key: string }) => key)).toEqual(definition.stages.map(({ key }) => key));
    const waiting = found.stages.map((stage: { waiting: number }) => stage.waiting);
    expect(waiting.reduce((sum: number, count: number) => sum + count, 0)).toBe(found.recordsOpen);
    expect(found.recordsOpen).toBeGreaterThan(0);
  });

  test('that is put away begins no record, and its records go on; taken out again it does', async () => {
    const put = (body: object, who = analyst) => call(who)('PUT', '/api/workflows/objectLoan', body);
    const [entry] = (await call(borrower)('GET', '/api/submitted')).body.entries;
    expect((await put({ isArchived: true })).status).toBe(204);
    expect((await summary('objectLoan')).archivedAt).toMatch(/^20/);
    expect((await call(borrower)('GET', '/api/intakes')).body).toEqual([]);
    const begun = await call(borrower)('POST', '/api/intakes/objectLoan/records', {
      stage: 'request',
      handOff: 'submit',
      values: {},
    });
    expect(begun.body.code).toBe('workflow/not-published');
    expect((await call(borrower)('GET', `/api/records/${entry.record.id}`)).status).toBe(200);
    expect((await put({ isArchived: false })).status).toBe(204);
    expect((await call(borrower)('GET', '/api/intakes')).body).toHaveLength(1);
  });

  test.each<[string, object, number]>([
    ['an owner who isn’t there', { owner: randomUUID() }, 400],
    ['an owner that is no id', { owner: 'Ines' }, 400],
    ['something else', { name: 'x' }, 400],
    ['nobody', { owner: null }, 204],
    ['somebody', { owner: DEMO_MEMBERS[0]?.id }, 204],
  ])('is answered for by %s', async (_, body, status) => {
    expect((await call(analyst)('PUT', '/api/workflows/objectLoan', body)).status).toBe(status);
    expect((await call(borrower)('PUT', '/api/workflows/objectLoan', body)).status).toBe(403);
  });

  test('is published with notes', async () => {
    const read = parseWorkflow({ ...(await draftOf()).definition, key: 'noted' });
    if (!read.ok) throw new Error();
    await publishDefinition(call(analyst), read.value);
    const changed = applyEdit(read.value, rename('Noted'));
    expect(changed.ok).toBe(true);
    const edited = await call(analyst)('POST', '/api/workflows/noted/draft/edits', editing(rename('Noted')), {
      'if-match': '"1"',
    });
    const answer = await call(analyst)(
      'POST',
      '/api/workflows/noted/versions',
      { notes: '  The first stage has a better name. ' },
      { 'if-match': `"${edited.body.revision}"` },
    );
    expect(answer.body).toMatchObject({ number: 2, notes: 'The first stage has a better name.' });
    expect(
      (await call(analyst)('GET', '/api/workflows/noted/versions')).body.map(({ notes }: { notes: string }) => notes),
    ).toEqual(['The first stage has a better name.', '']);
  });
});
