/** @jest-environment jsdom */
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { type Content, meetingsOf, mergeContents, NOTHING, settled, withEntered } from './content.ts';
import { type Keeping, UnfinishedKeeper } from './keeper.ts';
import { forgetLocalCopies, readLocalCopy, writeLocalCopy } from './local-copy.ts';

const PLACE = 'intake.loan.request';
const content = (entered: Content['entered'], base: Content['base'] = {}): Content => ({ entered, base });

describe('what was entered', () => {
  test('remembers what the record had when a field was first entered, for as long as it is entered', () => {
    const first = withEntered(NOTHING, { why: 'a' }, { why: 'before', who: 'x' });
    expect(first.base).toEqual({ why: 'before' });
    const second = withEntered(first, { why: 'ab', who: 'y' }, { why: 'changed', who: 'x' });
    expect(second.base).toEqual({ why: 'before', who: 'x' });
    expect(withEntered(second, { who: 'y' }, {}).base).toEqual({ who: 'x' });
    expect(withEntered(NOTHING, { fresh: '1' }, {}).base).toEqual({ fresh: null });
  });

  test('of two windows keeps both, and this one’s where both have a field', () => {
    const merged = mergeContents(content({ a: '1', b: '2' }), content({ b: '3', c: '4' }));
    expect(merged.entered).toEqual({ a: '1', b: '2', c: '4' });
  });

  test.each([
    ['nobody changed it', { why: 'mine' }, { why: 'was' }, { why: 'was' }, []],
    ['somebody changed it', { why: 'mine' }, { why: 'was' }, { why: 'theirs' }, ['why']],
    ['somebody emptied it', { why: 'mine' }, { why: 'was' }, {}, ['why']],
    ['somebody filled it', { why: 'mine' }, { why: null }, { why: 'theirs' }, ['why']],
    ['somebody entered the same', { why: 'same' }, { why: 'was' }, { why: 'same' }, []],
    ['an emptied field that was changed', { why: null }, { why: 'was' }, { why: 'theirs' }, ['why']],
    ['lists are compared by what is in them', { why: ['a'] }, { why: ['b', 'c'] }, { why: ['b', 'c'] }, []],
    ['rows that were changed', { why: [{ id: '1', values: {} }] }, { why: [] }, { why: [{ id: '2', values: {} }] }, ['why']],
    ['another field was changed', { why: 'mine' }, { why: null }, { who: 'theirs' }, []],
  ] as const)('meets what others changed: %s', (_name, entered, base, stored, expected) => {
    expect(meetingsOf(content(entered as never, base as never), stored as never).map(({ key }) => key)).toEqual(expected);
  });

  test('a meeting is settled by keeping one’s own, or by taking what is there', () => {
    const mine = content({ why: 'mine', who: 'x' }, { why: 'was', who: null });
    const stored = { why: 'theirs' };
    const [meeting] = meetingsOf(mine, stored);
    if (!meeting) throw new Error('no meeting');
    const kept = settled(mine, meeting, true);
    expect(kept.entered).toEqual(mine.entered);
    expect(meetingsOf(kept, stored)).toEqual([]);
    // Changed once more, it is asked once more.
    expect(meetingsOf(kept, { why: 'again' })).toHaveLength(1);
    expect(settled(mine, meeting, false)).toEqual(content({ who: 'x' }, { who: null }));
  });
});

describe('the copy in this browser', () => {
  beforeEach(() => window.localStorage.clear());
  test('is one member’s, and gone when they sign out; what isn’t ours stays', () => {
    window.localStorage.setItem('other', '1');
    const copy = { content: content({ why: 'a' }), revision: 3 };
    expect(writeLocalCopy('me', PLACE, copy)).toBe(true);
    expect(readLocalCopy('me', PLACE)).toEqual(copy);
    expect(readLocalCopy('you', PLACE)).toBeNull();
    forgetLocalCopies();
    expect(readLocalCopy('me', PLACE)).toBeNull();
    expect(window.localStorage.getItem('other')).toBe('1');
  });

  test.each(['{', '7', '[]', 'null', '"x"'])('a text that isn’t a copy is none: %s', (text) => {
    window.localStorage.setItem(`ypomet.form.me.${PLACE}`, text);
    expect(readLocalCopy('me', PLACE)).toBeNull();
  });
});

/** The server's side, small. */
class FakeServer {
  content: Content | null = null;
  revision = 0;
  isDown = false;
  refusal: { readonly status: number; readonly code: string } | null = null;
  asked: string[] = [];

  readonly fetch = async (_address: string, init: RequestInit): Promise<Response> => {
    this.asked.push(String(init.method));
    if (this.isDown) throw new TypeError('no network');
    if (this.refusal) return this.answer(this.refusal.status, { title: 'No.', detail: 'Not so.', details: [], ...this.refusal });
    if (init.method === 'GET') return this.answer(200, { ...(this.content ?? NOTHING), revision: this.revision, at: null });
    if (init.method === 'DELETE') {
      this.content = null;
      this.revision = 0;
      return this.answer(204, null);
    }
    if ((init.headers as Record<string, string>)['if-match'] !== `"${this.revision}"`)
      return this.answer(412, { status: 412, code: 'revision/stale', title: 'It has changed.', detail: '', details: [] });
    this.content = JSON.parse(String(init.body)) as Content;
    this.revision += 1;
    return this.answer(200, { revision: this.revision });
  };

  private answer(status: number, body: unknown): Response {
    // jsdom has no Response: as much of one as a call looks at.
    const headers = { get: () => 'application/json' };
    return { status, ok: status < 400, headers, json: async () => body } as unknown as Response;
  }
}

describe('the keeper', () => {
  let server: FakeServer;
  let said: Keeping[];
  let merged: Content[];
  let keeper: UnfinishedKeeper;
  const make = (revision = 0): UnfinishedKeeper =>
    new UnfinishedKeeper('me', PLACE, revision, {
      onKeeping: (keeping) => said.push(keeping),
      onMerged: (one) => merged.push(one),
    });

  beforeEach(() => {
    jest.useFakeTimers();
    window.localStorage.clear();
    server = new FakeServer();
    globalThis.fetch = server.fetch as typeof fetch;
    [said, merged] = [[], []];
    keeper = make();
  });
  afterEach(() => {
    jest.useRealTimers();
  });

  test('has it in the browser at once, on the server a moment after the last key, and then there alone', async () => {
    keeper.put(content({ why: 'a' }));
    expect(readLocalCopy('me', PLACE)?.content.entered).toEqual({ why: 'a' });
    await jest.advanceTimersByTimeAsync(500);
    keeper.put(content({ why: 'ab' }));
    await jest.advanceTimersByTimeAsync(900);
    expect(server.asked).toEqual([]);
    await jest.advanceTimersByTimeAsync(200);
    expect(server.content).toEqual(content({ why: 'ab' }));
    expect(readLocalCopy('me', PLACE)).toBeNull();
    expect(said.map(({ status }) => status)).toEqual(['keeping', 'keeping', 'kept']);
  });

  test('what can’t be sent stays in the browser, says why, and is sent when the server is there again', async () => {
    server.isDown = true;
    keeper.put(content({ why: 'a' }));
    await jest.advanceTimersByTimeAsync(1000);
    expect(said.at(-1)).toEqual({ status: 'here', why: expect.stringContaining('can’t be reached') });
    await jest.advanceTimersByTimeAsync(13_000);
    expect(server.asked).toHaveLength(3);
    expect(readLocalCopy('me', PLACE)?.content.entered).toEqual({ why: 'a' });
    server.isDown = false;
    await jest.advanceTimersByTimeAsync(30_000);
    expect(said.at(-1)).toEqual({ status: 'kept' });
    expect(server.content?.entered).toEqual({ why: 'a' });
    expect(readLocalCopy('me', PLACE)).toBeNull();
  });

  test('a refusal waits for the next change: the session has ended, say', async () => {
    server.refusal = { status: 401, code: 'session/none' };
    keeper.put(content({ why: 'a' }));
    await jest.advanceTimersByTimeAsync(120_000);
    expect(server.asked).toHaveLength(1);
    expect(said.at(-1)?.status).toBe('here');
    server.refusal = null;
    keeper.put(content({ why: 'ab' }));
    await jest.advanceTimersByTimeAsync(1000);
    expect(server.content?.entered).toEqual({ why: 'ab' });
  });

  test('two windows of one person end with what was entered in both', async () => {
    const other = make();
    keeper.put(content({ a: '1', both: 'first' }));
    await keeper.flush();
    other.put(content({ b: '2', both: 'second' }));
    await other.flush();
    expect(merged.at(-1)?.entered).toEqual({ a: '1', b: '2', both: 'second' });
    expect(server.content?.entered).toEqual({ a: '1', b: '2', both: 'second' });
    keeper.put(content({ a: '1', both: 'third' }));
    await keeper.flush();
    expect(server.content?.entered).toEqual({ a: '1', b: '2', both: 'third' });
  });

  test('what is forgotten is nowhere, also when it was on its way; what is taken back to nothing too', async () => {
    keeper.put(content({ why: 'a' }));
    const sending = keeper.flush();
    await keeper.forget();
    await sending;
    expect([server.content, readLocalCopy('me', PLACE)]).toEqual([null, null]);
    keeper.put(content({ why: 'b' }));
    await keeper.flush();
    keeper.put(NOTHING);
    // Until the server knows, the copy says that nothing is left.
    expect(readLocalCopy('me', PLACE)).toEqual({ content: NOTHING, revision: 1 });
    await keeper.flush();
    expect([server.content, said.at(-1)?.status]).toEqual([null, 'nothing']);
    keeper.put(content({ why: 'c' }));
    await keeper.flush();
    expect(server.content?.entered).toEqual({ why: 'c' });
  });

  test('what couldn’t be sent comes back after it was forgotten no more than the rest', async () => {
    server.isDown = true;
    keeper.put(content({ why: 'a' }));
    const sending = keeper.flush();
    await expect(keeper.forget()).rejects.toThrow('can’t be reached');
    await sending;
    server.isDown = false;
    await jest.advanceTimersByTimeAsync(120_000);
    expect([server.content, readLocalCopy('me', PLACE), said.at(-1)?.status]).toEqual([null, null, 'nothing']);
  });

  test('leaving the form sends what waits, and nothing is told any more', async () => {
    keeper.put(content({ why: 'a' }));
    void keeper.end();
    await jest.advanceTimersByTimeAsync(0);
    expect(server.content?.entered).toEqual({ why: 'a' });
    expect(said.map(({ status }) => status)).toEqual(['keeping']);
  });
});
