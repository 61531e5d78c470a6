import type { DraftDocument } from '@ypomet/contract';
import {
  applyEdit,
  describeDiagnostic,
  type Edit,
  type EditContext,
  followRenames,
  type IdentifiedEdit,
  openStoredWorkflow,
  type Path,
  type RenameKey,
  rebaseEdits,
  type Workflow,
} from '@ypomet/core';
import { callApi } from '../../shared/api.ts';
import { ApiProblem } from '../../shared/problems.ts';
import { type Conflict, findConflicts } from './conflicts.ts';
import type { KeptSteps, Step } from './kept-steps.ts';

export type { Conflict } from './conflicts.ts';

export type KeepState =
  | { readonly status: 'kept' }
  | { readonly status: 'keeping' }
  | { readonly status: 'not-kept'; readonly message: string };

export type DraftSnapshot = {
  readonly definition: Workflow;
  readonly revision: number;
  readonly publishedVersion: number | null;
  readonly differs: boolean;
  readonly keep: KeepState;
  /** One's own changes that met others' of the same thing: those stand until it is settled. */
  readonly conflicts: readonly Conflict[];
  readonly canUndo: boolean;
  readonly canRedo: boolean;
};

/** What happened to the definition: an edit was applied, or it is another one altogether. */
export type DraftChange =
  | { readonly type: 'edited'; readonly edit: Edit; readonly touches: readonly Path[] }
  | { readonly type: 'replaced' };

const MAX_AT_ONCE = 200;
const ALONE: EditContext = { findWorkflow: () => null };

/**
 * The draft as this page has it. Every edit is applied at once and kept on the server in order; undo and redo are edits
 * too, each with an id, so that one whose answer was lost isn't made twice. When another analyst changed the draft in
 * between, theirs is loaded, and what is not kept yet goes on top of it. What takes back one's own edits leaves theirs alone.
 */
export class DraftStore {
  private snapshot: DraftSnapshot;
  /** The draft as the server has it at the snapshot's revision. */
  private base: Workflow;
  private context = ALONE;
  private readonly listeners = new Set<() => void>();
  private readonly watchers = new Set<(change: DraftChange) => void>();
  private pending: readonly IdentifiedEdit[] = [];
  private undoStack: readonly Step[] = [];
  private redoStack: readonly Step[] = [];
  private sending: Promise<void> | null = null;

  constructor(
    readonly key: string,
    initial: DraftDocument,
    private readonly onNotice: (message: string) => void,
  ) {
    const { revision, publishedVersion, differs } = initial;
    const definition = openStoredWorkflow(initial.definition);
    this.snapshot = {
      definition,
      revision,
      publishedVersion,
      differs,
      keep: { status: 'kept' },
      conflicts: [],
      canUndo: false,
      canRedo: false,
    };
    this.base = definition;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Tells of every change of the definition, in order. */
  readonly watch = (watcher: (change: DraftChange) => void): (() => void) => {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  };

  readonly get = (): DraftSnapshot => this.snapshot;
  readonly definition = (): Workflow => this.snapshot.definition;

  /** The other workflows, through whose fields expressions can read: renaming needs them. */
  know(findWorkflow: EditContext['findWorkflow'] | null): void {
    this.context = findWorkflow ? { findWorkflow } : ALONE;
  }

  /** What edits need to know from outside, as far as it is known. */
  get editing(): EditContext {
    return this.context;
  }

  /** Applies an edit here and queues it for the server. Refused edits change nothing and say so: whether it was applied. */
  edit(edit: Edit): boolean {
    const step = this.apply(edit);
    if (!step) return false;
    this.undoStack = [...this.undoStack, step];
    this.redoStack = [];
    this.update({});
    return true;
  }

  undo(): void {
    const step = this.undoStack.at(-1);
    if (!step) return;
    this.undoStack = this.undoStack.slice(0, -1);
    const back = this.apply(step.inverse);
    if (back) this.redoStack = [...this.redoStack, back];
    this.update({});
  }

  redo(): void {
    const step = this.redoStack.at(-1);
    if (!step) return;
    this.redoStack = this.redoStack.slice(0, -1);
    const back = this.apply(step.inverse);
    if (back) this.undoStack = [...this.undoStack, back];
    this.update({});
  }

  /** Returns what can be undone and redone now, to be stored for the page that opens this draft next. */
  steps(): KeptSteps {
    const { undoStack: undo, redoStack: redo, pending, snapshot } = this;
    return { revision: snapshot.revision, pending: pending.map(({ id }) => id), undo, redo };
  }

  /**
   * Takes over the undo and redo steps that the page before this one stored. Steps whose edits never reached the server are left out.
   * If somebody else has renamed a key since, no steps are taken over: they name parts by the former keys.
   */
  async recall({ revision, pending, undo, redo }: KeptSteps): Promise<void> {
    // This page may have loaded the draft before the last of the steps reached the server.
    if (revision > this.snapshot.revision) await this.refresh(revision);
    if (revision > this.snapshot.revision) return;
    const since = await this.editsSince(revision).catch((error: unknown) => {
      if (error instanceof Error) return null;
      throw error;
    });
    if (!since) return;
    const arrived = new Set(since.map(({ id }) => id));
    const own = new Set([...undo, ...redo].map(({ id }) => id));
    if (since.some(({ id, renames }) => renames.length > 0 && (id === null || !own.has(id)))) return;
    const lost = new Set(pending.filter((id) => !arrived.has(id)));
    const kept = (steps: readonly Step[]): readonly Step[] => steps.filter(({ id }) => !lost.has(id));
    // Edits made on this page while the steps were loading are the newer ones: they are undone first, and end the redo.
    if (this.undoStack.length === 0) this.redoStack = kept(redo);
    this.undoStack = [...kept(undo), ...this.undoStack];
    this.update({});
  }

  /** Resolves when everything is kept; rejects when it can't be. */
  async settle(): Promise<number> {
    while (this.pending.length > 0 || this.sending) {
      await (this.sending ?? this.flush());
      if (this.snapshot.keep.status === 'not-kept') throw new Error(this.snapshot.keep.message);
    }
    return this.snapshot.revision;
  }

  /**
   * Takes over what others changed, up to a revision that was heard of; null for whatever there is. Nothing is said of it unless
   * something of one's own no longer fits: who looks on sees it happen.
   */
  async refresh(revision: number | null): Promise<void> {
    await this.sending;
    const { keep } = this.snapshot;
    if (keep.status === 'not-kept') return this.flush();
    if (revision === null ? !(await this.isBehind()) : revision <= this.snapshot.revision) return;
    // Nothing is sent meanwhile: what is done goes on top, and is kept in its turn.
    this.sending ??= this.catchUp(true)
      .then(() => {})
      .finally(() => {
        this.sending = null;
      });
    await this.sending;
    if (this.pending.length > 0) await this.flush();
  }

  /** Settles what met a change of somebody else's: one's own is made all the same, or given up. */
  resolve(id: string, isMine: boolean): void {
    const conflict = this.snapshot.conflicts.find((one) => one.id === id);
    this.update({ conflicts: this.snapshot.conflicts.filter((one) => one.id !== id) });
    if (conflict && isMine) this.edit(conflict.edit);
  }

  /** Takes over what the server said of a publication. */
  published(version: number): void {
    this.update({ publishedVersion: version, differs: false });
  }

  /** Tries again after a failure. */
  retry(): void {
    void this.flush();
  }

  /**
   * Sends what isn't kept yet while the page goes away: nobody is there for the answer. Should the page come back, the usual
   * sending finds that these edits are kept.
   */
  leave(): void {
    const edits = this.pending.slice(0, MAX_AT_ONCE).map(({ id, edit }) => ({ id, edit }));
    if (edits.length === 0 || this.snapshot.keep.status !== 'kept') return;
    const { revision } = this.snapshot;
    const sending = callApi('editDraft', { params: { key: this.key }, revision, body: { edits }, keepalive: true });
    sending.catch(() => 'the page is gone, or sends them again itself');
  }

  private apply(edit: Edit): Step | null {
    const result = applyEdit(this.snapshot.definition, edit, this.context);
    if (!result.ok) {
      const [why] = result.diagnostics;
      this.onNotice(`That change can’t be made. ${why ? describeDiagnostic(why) : ''}`.trim());
      return null;
    }
    const { definition, inverse, touches } = result.value;
    if (definition === this.snapshot.definition) return null;
    const id = crypto.randomUUID();
    this.pending = [...this.pending, { id, edit }];
    this.update({ definition, differs: true });
    this.tell({ type: 'edited', edit, touches });
    void this.flush();
    return { id, inverse };
  }

  private flush(): Promise<void> {
    this.sending ??= this.send().finally(() => {
      this.sending = null;
    });
    return this.sending;
  }

  private async send(): Promise<void> {
    // What was done is painted first.
    await new Promise((resolve) => setTimeout(resolve));
    while (this.pending.length > 0) {
      const edits = this.pending.slice(0, MAX_AT_ONCE);
      this.update({ keep: { status: 'keeping' } });
      try {
        const body = { edits: edits.map(({ id, edit }) => ({ id, edit })) };
        const { revision, differs } = await callApi('editDraft', {
          params: { key: this.key },
          revision: this.snapshot.revision,
          body,
        });
        this.pending = this.pending.slice(edits.length);
        this.base = this.pending.length === 0 ? this.snapshot.definition : rebaseEdits(this.base, edits, this.context).definition;
        this.update({ revision, differs, keep: { status: 'kept' } });
      } catch (error) {
        const code = error instanceof ApiProblem ? error.problem.code : null;
        if (code === 'edit/refused' && error instanceof ApiProblem) this.drop(edits, error);
        const isBehind = code === 'revision/stale' || code === 'edit/refused';
        if (isBehind && (await this.catchUp())) continue;
        this.update({ keep: { status: 'not-kept', message: error instanceof Error ? error.message : 'It couldn’t be kept.' } });
        return;
      }
    }
    this.update({ keep: { status: 'kept' } });
  }

  /** The server doesn't take these: they are given up, and why is said. */
  private drop(edits: readonly IdentifiedEdit[], { problem }: ApiProblem): void {
    const gone = new Set(edits.map(({ id }) => id));
    this.pending = this.pending.filter(({ id }) => !gone.has(id));
    this.undoStack = this.undoStack.filter(({ id }) => !gone.has(id));
    this.redoStack = this.redoStack.filter(({ id }) => !gone.has(id));
    this.onNotice(`${problem.title} ${problem.details.map(({ message }) => message).join(' ')}`.trim());
  }

  /**
   * Loads the present draft and what led to it. Edits of ours that are in it were kept, though the answer was lost; the
   * others go on top, under the keys that parts have now.
   */
  private async catchUp(isQuiet = false): Promise<boolean> {
    const loaded = await this.load().catch((error: unknown) => {
      if (error instanceof Error) return null;
      throw error;
    });
    if (!loaded) return false;
    const { fresh, since } = loaded;
    if (isQuiet && fresh.revision === this.snapshot.revision) return true;
    const own = new Set(this.pending.map(({ id }) => id));
    const kept = new Set(since.flatMap(({ id }) => (id !== null && own.has(id) ? [id] : [])));
    const others = since.filter(({ id }) => id === null || !kept.has(id));
    const renames = others.flatMap((entry) => entry.renames.map((one): RenameKey => ({ type: 'rename-key', ...one })));
    const unkept = this.pending.filter(({ id }) => !kept.has(id));
    // What both began from: the draft as it was, with what of ours is kept already.
    const begun = rebaseEdits(
      this.base,
      this.pending.filter(({ id }) => kept.has(id)),
      this.context,
    ).definition;
    const mine = { definition: begun, edits: unkept.map(({ edit }) => edit) };
    const followed = followRenames(mine, renames, this.context);
    const rest = unkept.map(({ id }, index) => ({ id, edit: followed.edits[index] as Edit }));
    const theirs = openStoredWorkflow(fresh.definition);
    const { free, conflicts } = findConflicts(followed.definition, theirs, rest, this.context);
    this.base = theirs;
    const { definition, applied, refused } = rebaseEdits(theirs, free, this.context);
    this.pending = applied.map(({ id, edit }) => ({ id, edit }));
    const inverses = new Map(applied.map(({ id, edited }) => [id, edited.inverse]));
    const gone = new Set([...refused, ...conflicts].map(({ id }) => id));
    const present = this.snapshot.definition;
    const follow = (stack: readonly Step[]): readonly Step[] => {
      // The last step is taken first.
      const steps = [...stack].reverse();
      const { edits } = followRenames({ definition: present, edits: steps.map(({ inverse }) => inverse) }, renames, this.context);
      return steps
        .map(({ id, inverse }, index) => ({ id, inverse: inverses.get(id) ?? edits[index] ?? inverse }))
        .filter(({ id }) => !gone.has(id))
        .reverse();
    };
    this.undoStack = follow(this.undoStack);
    this.redoStack = follow(this.redoStack);
    const { revision, publishedVersion, differs } = fresh;
    this.update({
      definition,
      revision,
      publishedVersion,
      differs: differs || this.pending.length > 0,
      conflicts: [...this.snapshot.conflicts, ...conflicts],
    });
    this.tell({ type: 'replaced' });
    if (refused.length > 0) {
      const why = refused.flatMap(({ diagnostics }) => diagnostics.slice(0, 1)).map((one) => describeDiagnostic(one));
      this.onNotice(`Another analyst changed this draft. Of yours this no longer fits: ${[...new Set(why)].join(' ')}`);
    } else if (others.length > 0 && conflicts.length === 0 && !isQuiet)
      this.onNotice('Another analyst changed this draft. Their changes are here now, with yours on top.');
    return true;
  }

  /** Whether there are edits that this page doesn't know of; a server that can't be reached tells of none. */
  private async isBehind(): Promise<boolean> {
    const query = { since: this.snapshot.revision, limit: 1 };
    return callApi('draftEdits', { params: { key: this.key }, query }).then(
      ({ entries }) => entries.length > 0,
      () => false,
    );
  }

  private async load() {
    const fresh = await callApi('draft', { params: { key: this.key } });
    return { fresh, since: await this.editsSince(this.snapshot.revision) };
  }

  private async editsSince(revision: number) {
    const since = [];
    let after: string | undefined;
    do {
      const query = { since: revision, limit: MAX_AT_ONCE, ...(after === undefined ? {} : { after }) };
      const page = await callApi('draftEdits', { params: { key: this.key }, query });
      since.push(...page.entries);
      after = page.next ?? undefined;
    } while (after !== undefined);
    return since;
  }

  private tell(change: DraftChange): void {
    for (const watcher of this.watchers) watcher(change);
  }

  private update(change: Partial<DraftSnapshot>): void {
    this.snapshot = { ...this.snapshot, ...change, canUndo: this.undoStack.length > 0, canRedo: this.redoStack.length > 0 };
    for (const listener of this.listeners) listener();
  }
}
