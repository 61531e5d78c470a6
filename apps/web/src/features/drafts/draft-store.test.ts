import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { applyEdit, type Edit, renamesIn, type Workflow } from '@ypomet/core';
import { sampleWorkflow } from '@ypomet/testkit/sample-workflow';
import { DraftStore } from './draft-store.ts';

type Entry = { readonly id: string; readonly revision: number; readonly edit: Edit };

/** The server's side, small: one draft, checked by revision, with what was changed; it can be made to fail. */
class FakeServer {
  definition: Workflow = sampleWorkflow();
  revision = 1;
  entries: Entry[] = [];
  isDown = false;
  /** The next so many answers are lost on the way back. */
  losesAnswers = 0;
  posts = 0;

  readonly fetch = async (address: string, init: RequestInit): Promise<Response> => {
    if (this.isDown) throw new TypeError('no network');
    if (init.method === 'GET') return this.read(address);
    this.posts += 1;
    const ifMatch = (init.headers as Record<string, string>)['if-match'];
    if (ifMatch !== `"${this.revision}"`)
      return this.answer(412, { code: 'revision/stale', title: 'It has changed.', details: [] });
    const { edits } = JSON.parse(String(init.body)) as { edits: { id: string; edit: Edit }[] };
    for (const { id, edit } of edits) this.apply(edit, id);
    if (this.losesAnswers > 0) {
      this.losesAnswers -= 1;
      throw new TypeError('connection reset');
    }
    return this.answer(200, { revision: this.revision, differs: true, address });
  };

  /** What another analyst does, or what came in. */
  apply(edit: Edit, id = crypto.randomUUID() as string): void {
    const result = applyEdit(this.definition, edit);
    if (!result.ok) throw new Error('refused');
    this.definition = result.value.definition;
    this.revision += 1;
    this.entries.push({ id, revision: this.revision, edit });
  }

  private read(address: string): Response {
    const since = /since=(\d+)/.exec(address)?.[1];
    if (since === undefined)
      return this.answer(200, { definition: this.definition, revision: this.revision, publishedVersion: null, differs: true });
    const entries = this.entries
      .filter(({ revision }) => revision > Number(since))
      .map(({ id, revision, edit }) => ({ id, revision, renames: renamesIn([edit]) }));
    return this.answer(200, { entries, next: null });
  }

  private answer(status: number, body: unknown): Response {
    return new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } });
  }
}

const cell = (field: string, treatment: 'hidden' | 'optional' | 'nudged', stage = 'done'): Edit => ({
  type: 'set-treatments',
  cells: [{ field, stage, treatment }],
});
const added = (key: string): Edit => ({
  type: 'add-part',
  to: 'fields',
  part: { type: 'text', key, name: key, section: sampleWorkflow().sections[0]?.key ?? '' },
  before: null,
});

let server: FakeServer;
let notices: string[];
let store: DraftStore;
const fieldKeys = (): readonly string[] => store.get().definition.fields.map(({ key }) => key);

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

// What is still under way would reach the next test's server.
afterEach(() => store.settle().catch(() => {}));

describe('a draft on the page', () => {
  test('shows an edit at once and keeps it on the server in order', async () => {
    store.edit(cell('price', 'hidden'));
    store.edit(cell('price', 'nudged'));
    expect(store.get().definition.plan.price?.done).toBe('nudged');
    const said: string[] = [];
    store.subscribe(() => said.push(store.get().keep.status));
    await store.settle();
    expect(said).toContain('keeping');
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

  test('an edit that is made as the page goes away is sent at once, and is there once if the page stays', async () => {
    store.edit(added('late'));
    store.leave();
    expect(server.posts).toBe(1);
    await store.settle();
    const keys = (definition: Workflow) => definition.fields.filter(({ key }) => key === 'late');
    expect([keys(server.definition).length, keys(store.get().definition).length]).toEqual([1, 1]);
    // Nothing is pending: nothing is sent.
    const { posts } = server;
    store.leave();
    expect(server.posts).toBe(posts);
  });

  test('an edit that can’t be made changes nothing and says why', () => {
    const before = store.get();
    expect(store.edit({ type: 'change-part', part: 'handOffs.pass.branches.gone', set: { name: 'x' } })).toBe(false);
    expect(store.get()).toBe(before);
    expect(notices).toEqual(['That change can’t be made. There is no part “gone” here.']);
  });

  test('whoever watches is told of each change, to replay it', () => {
    const seen: string[] = [];
    store.watch((change) => seen.push(change.type === 'edited' ? `${change.edit.type} ${change.touches.join()}` : 'replaced'));
    store.edit(cell('price', 'hidden'));
    store.undo();
    expect(seen).toEqual(['set-treatments plan.price', 'revert plan.price']);
  });
});

describe('an answer that was lost', () => {
  test('leaves what was added there once, not twice, and still to be taken back', async () => {
    server.losesAnswers = 1;
    store.edit(added('fresh'));
    await expect(store.settle()).rejects.toThrow();
    store.edit(added('second'));
    store.retry();
    await store.settle();
    expect(fieldKeys().filter((key) => key === 'fresh' || key === 'second')).toEqual(['fresh', 'second']);
    expect(server.definition).toEqual(store.get().definition);
    expect(notices).toEqual([]);
    store.undo();
    store.undo();
    await store.settle();
    expect(server.definition).toEqual(sampleWorkflow());
  });

  test('beside another analyst’s change', async () => {
    server.losesAnswers = 1;
    store.edit(added('fresh'));
    await expect(store.settle()).rejects.toThrow();
    server.apply(cell('kind', 'optional'));
    store.retry();
    store.edit(cell('price', 'hidden'));
    await store.settle();
    expect(server.definition).toEqual(store.get().definition);
    expect(server.entries.filter(({ edit }) => edit.type === 'add-part')).toHaveLength(1);
    expect(notices).toHaveLength(1);
  });
});

describe('another analyst', () => {
  const theirs = 'Another analyst changed this draft. Their changes are here now, with yours on top.';

  test('their change comes in, and one’s own goes on top', async () => {
    server.apply(cell('kind', 'optional'));
    store.edit(cell('price', 'hidden'));
    await store.settle();
    expect(store.get().definition.plan).toMatchObject({ kind: { done: 'optional' }, price: { done: 'hidden' } });
    expect(server.definition).toEqual(store.get().definition);
    expect(notices).toEqual([theirs]);
  });

  test('taking back one’s own doesn’t overwrite what they set since', async () => {
    store.edit(cell('price', 'hidden'));
    await store.settle();
    server.apply(cell('price', 'optional'));
    store.edit(cell('kind', 'hidden'));
    await store.settle();
    store.undo();
    store.undo();
    await store.settle();
    expect(server.definition.plan.price?.done).toBe('optional');
    expect(server.definition.plan.kind?.done).toBeUndefined();
    expect(notices).toEqual([theirs, 'That change can’t be made. Somebody else has changed plan.price since.']);
  });

  test('an edit on top of theirs is taken back to what they had set, not to what was before', async () => {
    server.apply(cell('price', 'optional'));
    store.edit(cell('price', 'hidden'));
    await store.settle();
    store.undo();
    await store.settle();
    expect(server.definition.plan.price?.done).toBe('optional');
  });

  test('keys they gave are followed, by what isn’t kept yet and by what takes back', async () => {
    store.edit(cell('price', 'hidden'));
    await store.settle();
    server.apply({ type: 'rename-key', part: 'fields.price', key: 'cost' });
    store.edit({ type: 'change-part', part: 'fields.price', set: { name: 'Cost' } });
    await store.settle();
    expect(server.definition.fields.find(({ key }) => key === 'cost')?.name).toBe('Cost');
    store.undo();
    store.undo();
    await store.settle();
    expect(server.definition.fields.find(({ key }) => key === 'cost')?.name).toBe('Price');
    expect(server.definition.plan.cost?.done).toBe(sampleWorkflow().plan.price?.done);
  });

  test('a condition of one’s own names the field by the key they gave, and a deleted part comes back under it', async () => {
    const adjustment = () => server.definition.adjustments.find(({ key }) => key === 'dear')?.when;
    store.edit({ type: 'delete-part', part: 'adjustments.dear', withUses: true });
    await store.settle();
    server.apply({ type: 'rename-key', part: 'fields.price', key: 'cost' });
    store.edit({ type: 'change-part', part: 'handOffs.sign', set: { offeredWhen: 'price != null' } });
    await store.settle();
    expect(server.definition.handOffs.find(({ key }) => key === 'sign')?.offeredWhen).toBe('cost != null');
    expect(adjustment()).toBeUndefined();
    store.undo();
    store.undo();
    await store.settle();
    expect(server.definition.handOffs.find(({ key }) => key === 'sign')?.offeredWhen).toBe('cost < 100000');
    expect(adjustment()).toBe('cost > 1000');
    expect(server.definition).toEqual(store.get().definition);
  });

  test('what they set under a new key is met, not overwritten', async () => {
    server.isDown = true;
    store.edit({ type: 'change-part', part: 'fields.price', set: { name: 'Mine' } });
    await expect(store.settle()).rejects.toThrow();
    server.isDown = false;
    server.apply({ type: 'rename-key', part: 'fields.price', key: 'cost' });
    server.apply({ type: 'change-part', part: 'fields.cost', set: { name: 'Theirs' } });
    store.retry();
    await store.settle();
    expect(server.definition.fields.find(({ key }) => key === 'cost')?.name).toBe('Theirs');
    expect(store.get().conflicts.map(({ edit }) => edit)).toEqual([
      { type: 'change-part', part: 'fields.cost', set: { name: 'Mine' } },
    ]);
  });

  test('a second edit of what was kept a moment ago meets nothing', async () => {
    server.losesAnswers = 1;
    store.edit({ type: 'change-part', part: 'fields.price', set: { name: 'First' } });
    await store.settle().catch(() => {});
    store.edit({ type: 'change-part', part: 'fields.price', set: { name: 'Second' } });
    store.retry();
    await store.settle();
    expect(store.get().conflicts).toEqual([]);
    expect(server.definition.fields.find(({ key }) => key === 'price')?.name).toBe('Second');
  });

  test('what no longer fits is named, and isn’t among what can be taken back', async () => {
    server.apply({ type: 'delete-part', part: 'fields.outcome', withUses: true });
    store.edit({ type: 'change-part', part: 'fields.outcome', set: { name: 'Result' } });
    await store.settle();
    expect(notices).toEqual([
      'Another analyst changed this draft. Of yours this no longer fits: There is no part “outcome” here.',
    ]);
    expect(store.get().canUndo).toBe(false);
    expect(server.definition).toEqual(store.get().definition);
  });
});

describe('others’ changes as they come', () => {
  test('are taken over quietly, one’s own kept on top', async () => {
    server.apply(cell('thing', 'hidden'));
    store.edit(cell('price', 'hidden'));
    await store.settle();
    server.apply(cell('kind', 'nudged'));
    notices.length = 0;
    await store.refresh(server.revision);
    expect(store.get().definition.plan.kind?.done).toBe('nudged');
    expect(store.get()).toMatchObject({ revision: server.revision, canUndo: true });
    expect(notices).toEqual([]);
  });

  test('that are known already are not asked for again', async () => {
    store.edit(cell('price', 'hidden'));
    await store.settle();
    const before = store.get();
    server.isDown = true;
    await store.refresh(before.revision);
    expect(store.get()).toBe(before);
  });

  test('what was done while they were loaded is kept, too', async () => {
    server.apply(cell('kind', 'nudged'));
    const refreshed = store.refresh(server.revision);
    store.edit(cell('price', 'hidden'));
    await refreshed;
    await store.settle();
    expect(server.definition.plan).toMatchObject({ kind: { done: 'nudged' }, price: { done: 'hidden' } });
    expect(store.get().definition).toEqual(server.definition);
  });

  test('a connection that came back keeps what waited', async () => {
    server.isDown = true;
    store.edit(cell('price', 'hidden'));
    await expect(store.settle()).rejects.toThrow();
    server.isDown = false;
    await store.refresh(null);
    expect(server.definition.plan.price?.done).toBe('hidden');
    expect(store.get().keep.status).toBe('kept');
  });
});

describe('two changes of the same thing', () => {
  /** One's own wait for the connection while the other's come in. */
  async function meet(mine: Edit, theirs: Edit): Promise<void> {
    server.isDown = true;
    store.edit(mine);
    await expect(store.settle()).rejects.toThrow();
    server.isDown = false;
    server.apply(theirs);
    store.retry();
    await store.settle();
  }

  test('theirs stands, and one’s own is set aside to be settled', async () => {
    await meet(cell('price', 'hidden'), cell('price', 'nudged'));
    expect(store.get().definition.plan.price?.done).toBe('nudged');
    const [conflict] = store.get().conflicts;
    expect(store.get()).toMatchObject({ canUndo: false, keep: { status: 'kept' } });
    expect([conflict?.mine.params.treatment, conflict?.theirs.params.treatment]).toEqual([
      { term: 'treatment/hidden' },
      { term: 'treatment/nudged' },
    ]);
  });

  test('settled for one’s own, it is made and can be taken back to theirs', async () => {
    await meet(cell('price', 'hidden'), cell('price', 'nudged'));
    store.resolve(store.get().conflicts[0]?.id ?? '', true);
    await store.settle();
    expect(server.definition.plan.price?.done).toBe('hidden');
    expect(store.get().conflicts).toEqual([]);
    store.undo();
    expect(store.get().definition.plan.price?.done).toBe('nudged');
  });

  test('settled for theirs, nothing more happens', async () => {
    await meet(cell('price', 'hidden'), cell('price', 'nudged'));
    store.resolve(store.get().conflicts[0]?.id ?? '', false);
    expect(store.get().conflicts).toEqual([]);
    expect(store.get().definition).toEqual(server.definition);
  });

  test('the same change made by both, and changes beside each other, are none', async () => {
    await meet(cell('price', 'hidden'), cell('price', 'hidden'));
    expect(store.get().conflicts).toEqual([]);
    await meet(cell('kind', 'nudged', 'check'), cell('kind', 'optional', 'done'));
    expect(store.get().conflicts).toEqual([]);
    expect(store.get().definition.plan.kind).toMatchObject({ check: 'nudged', done: 'optional' });
  });
});

describe('the page that comes after', () => {
  /** A reload: what the page before kept, read by a page that loads the draft anew. */
  const reloaded = async (): Promise<DraftStore> => {
    const steps = store.steps();
    const { definition, revision } = server;
    const next = new DraftStore('purchase', { definition, revision, publishedVersion: null, differs: true }, (message) =>
      notices.push(message),
    );
    await next.recall(JSON.parse(JSON.stringify(steps)));
    return next;
  };

  test('goes on with undo and redo where the one before left them', async () => {
    const states = [store.get().definition];
    for (const edit of [added('first'), cell('price', 'hidden'), added('second')]) {
      store.edit(edit);
      states.push(store.get().definition);
    }
    store.undo();
    await store.settle();
    const next = await reloaded();
    expect(next.get()).toMatchObject({ canUndo: true, canRedo: true, definition: states[2] });
    next.redo();
    expect(next.get().definition).toEqual(states[3]);
    for (const before of [states[2], states[1], states[0]]) {
      next.undo();
      expect(next.get().definition).toEqual(before);
    }
    expect(next.get().canUndo).toBe(false);
    await next.settle();
    expect(server.definition).toEqual(states[0]);
    expect(notices).toEqual([]);
  });

  test('has what arrived although the answer was lost', async () => {
    store.edit(added('kept'));
    await store.settle();
    store.edit(added('late'));
    store.leave();
    const arrives = await reloaded();
    arrives.undo();
    await arrives.settle();
    expect(server.definition.fields.some(({ key }) => key === 'late')).toBe(false);
    await store.settle();
  });

  test('leaves out what never reached the server', async () => {
    store.edit(added('kept'));
    await store.settle();
    server.isDown = true;
    store.edit(added('lost'));
    await store.settle().catch(() => {});
    const steps = store.steps();
    server.isDown = false;
    const { definition, revision } = server;
    const next = new DraftStore('purchase', { definition, revision, publishedVersion: null, differs: true }, () => {});
    await next.recall(steps);
    next.undo();
    await next.settle();
    expect(notices).toEqual([]);
    expect(server.definition).toEqual(sampleWorkflow());
  });

  test('leaves alone what a colleague did meanwhile, and takes over nothing where they gave other keys', async () => {
    store.edit(cell('price', 'hidden'));
    await store.settle();
    server.apply(added('theirs'));
    const next = await reloaded();
    next.undo();
    await next.settle();
    expect(server.definition.fields.some(({ key }) => key === 'theirs')).toBe(true);
    expect(server.definition.plan.price?.done).toBe(sampleWorkflow().plan.price?.done);
    server.apply({ type: 'rename-key', part: 'fields.price', key: 'cost' });
    expect((await reloaded()).get()).toMatchObject({ canUndo: false, canRedo: false });
  });

  test('that begins with a draft of before the steps catches up first', async () => {
    const { definition, revision } = server;
    store.edit(added('kept'));
    store.undo();
    await store.settle();
    const next = new DraftStore('purchase', { definition, revision, publishedVersion: null, differs: true }, (message) =>
      notices.push(message),
    );
    await next.recall(store.steps());
    expect(next.get().revision).toBe(server.revision);
    next.redo();
    await next.settle();
    expect(server.definition.fields.at(-1)?.key).toBe('kept');
    expect(notices).toEqual([]);
    // Where the server can't be reached, nothing is taken over that may not fit.
    const apart = new DraftStore('purchase', { definition, revision, publishedVersion: null, differs: true }, () => {});
    server.isDown = true;
    await apart.recall(next.steps());
    expect(apart.get()).toMatchObject({ canUndo: false, canRedo: false });
    server.isDown = false;
  });

  test('takes back first what it did itself before the steps were there', async () => {
    store.edit(added('before'));
    await store.settle();
    const { definition, revision } = server;
    const next = new DraftStore('purchase', { definition, revision, publishedVersion: null, differs: true }, () => {});
    const recalled = next.recall(store.steps());
    next.edit(added('after'));
    await recalled;
    next.undo();
    expect(next.get().definition.fields.at(-1)?.key).toBe('before');
    next.undo();
    expect(next.get()).toMatchObject({ canUndo: false });
    await next.settle();
  });
});
