import { beforeEach, describe, expect, test } from '@jest/globals';
import { applyEdit, type Edit, type Workflow } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { DraftStore } from './draft-store.ts';

/** The server's side, small: one draft, checked by revision; it can be made to fail. */
class FakeServer {
  definition: Workflow = sampleWorkflow();
  revision = 1;
  isDown = false;
  posts = 0;

  readonly fetch = async (address: string, init: RequestInit): Promise<Response> => {
    if (this.isDown) throw new TypeError('no network');
    if (init.method === 'GET')
      return this.answer(200, { definition: this.definition, revision: this.revision, publishedVersion: null, differs: true });
    this.posts += 1;
    const ifMatch = (init.headers as Record<string, string>)['if-match'];
    if (ifMatch !== `"${this.revision}"`)
      return this.answer(412, { code: 'revision/stale', title: 'It has changed.', details: [] });
    const { edits } = JSON.parse(String(init.body)) as { edits: Edit[] };
    for (const edit of edits) this.apply(edit);
    this.revision += 1;
    return this.answer(200, { revision: this.revision, differs: true, address });
  };

  apply(edit: Edit): void {
    const result = applyEdit(this.definition, edit);
    if (!result.ok) throw new Error('refused');
    this.definition = result.value.definition;
  }

  private answer(status: number, body: unknown): Response {
    return new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } });
  }
}

const cell = (field: string, treatment: 'hidden' | 'optional' | 'nudged'): Edit => ({
  type: 'set-treatments',
  cells: [{ field, stage: 'done', treatment }],
});

let server: FakeServer;
let notices: string[];
let store: DraftStore;

beforeEach(() => {
  server = new FakeServer();
  notices = [];
  globalThis.fetch = server.fetch as typeof fetch;
  store = new DraftStore(
    'purchase',
    { definition: server.definition, revision: 1, publishedVersion: null, differs: false },
    (message) => notices.push(message),
  );
});

describe('a draft on the page', () => {
  test('shows an edit at once and keeps it on the server in order', async () => {
    store.edit(cell('price', 'hidden'));
    store.edit(cell('price', 'nudged'));
    expect(store.get().definition.plan.price?.done).toBe('nudged');
    expect(store.get().keep.status).toBe('keeping');
    await store.settle();
    expect(store.get()).toMatchObject({ keep: { status: 'kept' }, differs: true });
    expect(server.definition).toEqual(store.get().definition);
  });

  test('undo and redo are kept too', async () => {
    const before = store.get().definition;
    store.edit(cell('price', 'hidden'));
    const after = store.get().definition;
    store.undo();
    expect(store.get()).toMatchObject({ definition: before, canUndo: false, canRedo: true });
    store.redo();
    expect(store.get().definition).toEqual(after);
    store.undo();
    await store.settle();
    expect(server.definition).toEqual(before);
  });

  test('another analyst’s change comes in, and one’s own goes on top', async () => {
    server.apply(cell('kind', 'optional'));
    server.revision = 2;
    store.edit(cell('price', 'hidden'));
    await store.settle();
    expect(store.get().definition.plan).toMatchObject({ kind: { done: 'optional' }, price: { done: 'hidden' } });
    expect(server.definition).toEqual(store.get().definition);
    expect(notices).toEqual(['Another analyst changed this draft. Their changes are here now, with yours on top.']);
  });

  test('what can’t be kept for now is not lost: it says so and can be tried again', async () => {
    server.isDown = true;
    store.edit(cell('price', 'hidden'));
    await expect(store.settle()).rejects.toThrow('can’t be reached');
    expect(store.get().keep.status).toBe('not-kept');
    expect(store.get().definition.plan.price?.done).toBe('hidden');
    server.isDown = false;
    store.retry();
    await store.settle();
    expect(server.definition.plan.price?.done).toBe('hidden');
  });

  test('an edit that no longer fits changes nothing and says so', () => {
    const before = store.get();
    store.edit({ type: 'rename-branch', handOff: 'pass', branch: 'gone', name: 'x' });
    expect(store.get()).toBe(before);
    expect(notices).toEqual(['That change no longer fits the draft.']);
  });
});
