import { applyEdit, type Edit, openStoredWorkflow, type Workflow } from '@ypomet/core';
import { ApiProblem, callApi } from '../../shared/api.ts';

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
  readonly canUndo: boolean;
  readonly canRedo: boolean;
};

type Initial = {
  readonly definition: Workflow;
  readonly revision: number;
  readonly publishedVersion: number | null;
  readonly differs: boolean;
};

/**
 * The draft as this page has it. Every edit is applied at once and kept on the server in order; undo and redo are edits
 * too. When another analyst changed the draft in between, theirs is loaded and what is not kept yet is applied again.
 */
export class DraftStore {
  private snapshot: DraftSnapshot;
  private readonly listeners = new Set<() => void>();
  private pending: Edit[] = [];
  private undoStack: Edit[] = [];
  private redoStack: Edit[] = [];
  private sending: Promise<void> | null = null;

  constructor(
    readonly key: string,
    initial: Initial,
    private readonly onNotice: (message: string) => void,
  ) {
    const definition = openStoredWorkflow(initial.definition);
    this.snapshot = { ...initial, definition, keep: { status: 'kept' }, canUndo: false, canRedo: false };
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly get = (): DraftSnapshot => this.snapshot;

  /** Applies an edit here and queues it for the server. Refused edits change nothing and say so. */
  edit(edit: Edit): void {
    const inverse = this.apply(edit);
    if (!inverse) return;
    this.undoStack.push(inverse);
    this.redoStack = [];
    this.update({});
  }

  undo(): void {
    this.step(this.undoStack, this.redoStack);
  }

  redo(): void {
    this.step(this.redoStack, this.undoStack);
  }

  /** Resolves when everything is kept; rejects when it can't be. */
  async settle(): Promise<number> {
    while (this.pending.length > 0 || this.sending) {
      await (this.sending ?? this.flush());
      if (this.snapshot.keep.status === 'not-kept') throw new Error(this.snapshot.keep.message);
    }
    return this.snapshot.revision;
  }

  /** Takes over what the server said of a publication. */
  published(version: number): void {
    this.update({ publishedVersion: version, differs: false });
  }

  /** Tries again after a failure. */
  retry(): void {
    void this.flush();
  }

  private step(from: Edit[], to: Edit[]): void {
    const edit = from.pop();
    if (!edit) return;
    const inverse = this.apply(edit);
    if (inverse) to.push(inverse);
    this.update({});
  }

  private apply(edit: Edit): Edit | null {
    const result = applyEdit(this.snapshot.definition, edit);
    if (!result.ok) {
      this.onNotice('That change no longer fits the draft.');
      return null;
    }
    this.pending.push(edit);
    this.update({ definition: result.value.definition, differs: true });
    void this.flush();
    return result.value.inverse;
  }

  private flush(): Promise<void> {
    this.sending ??= this.send().finally(() => {
      this.sending = null;
    });
    return this.sending;
  }

  private async send(): Promise<void> {
    while (this.pending.length > 0) {
      const edits = this.pending.slice(0, 200);
      this.update({ keep: { status: 'keeping' } });
      try {
        const { revision, differs } = await callApi('editDraft', {
          params: { key: this.key },
          revision: this.snapshot.revision,
          body: { edits },
        });
        this.pending = this.pending.slice(edits.length);
        this.update({ revision, differs, keep: { status: 'kept' } });
      } catch (error) {
        const isStale = error instanceof ApiProblem && error.problem.code === 'revision/stale';
        if (isStale && (await this.rebase())) continue;
        this.update({ keep: { status: 'not-kept', message: error instanceof Error ? error.message : 'It couldn’t be kept.' } });
        return;
      }
    }
  }

  /** Loads the present draft and applies what isn't kept yet on top of it. */
  private async rebase(): Promise<boolean> {
    const fresh = await callApi('draft', { params: { key: this.key } }).catch((error: unknown) => {
      if (error instanceof Error) return null;
      throw error;
    });
    if (!fresh) return false;
    let definition = openStoredWorkflow(fresh.definition);
    const fitting: Edit[] = [];
    for (const edit of this.pending) {
      const result = applyEdit(definition, edit);
      if (!result.ok) continue;
      definition = result.value.definition;
      fitting.push(edit);
    }
    const lost = this.pending.length - fitting.length;
    this.pending = fitting;
    this.update({ definition, revision: fresh.revision, publishedVersion: fresh.publishedVersion, differs: fresh.differs });
    this.onNotice(
      lost === 0
        ? 'Another analyst changed this draft. Their changes are here now, with yours on top.'
        : `Another analyst changed this draft. ${lost} of your last changes no longer fit it.`,
    );
    return true;
  }

  private update(change: Partial<DraftSnapshot>): void {
    this.snapshot = { ...this.snapshot, ...change, canUndo: this.undoStack.length > 0, canRedo: this.redoStack.length > 0 };
    for (const listener of this.listeners) listener();
  }
}
