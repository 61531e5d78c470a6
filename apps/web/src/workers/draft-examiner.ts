import {
  applyEdit,
  CompilationMemory,
  checkSurroundings,
  compileWorkflow,
  type FindWorkflow,
  makeReferences,
  type Surroundings,
  usedPartsOf,
  type Workflow,
} from '@ypomet/core';
import type { FromWorker, ToWorker } from './draft-messages.ts';

/**
 * Replays the page's edits and compiles the whole of the draft after them, so that all that is wrong is known without
 * holding up the page. Of several changes that come while it compiles, only the last is looked at.
 */
export class DraftExaminer {
  private definition: Workflow | null = null;
  private findWorkflow: FindWorkflow | null = null;
  private surroundings: Surroundings | null = null;
  private sequence = 0;
  private readonly memory = new CompilationMemory();
  private isWaiting = false;
  /** What was told last, as text: most edits change neither what is wrong nor what names what. */
  private toldFound = '';
  private toldUsed = '';

  constructor(
    private readonly answer: (message: FromWorker) => void,
    /** Runs something after all messages that have come in. */
    private readonly later: (run: () => void) => void,
  ) {}

  take(message: ToWorker): void {
    if (message.type === 'open') {
      const known = message.neighbours && new Map(message.neighbours.map((one) => [one.key, one]));
      this.findWorkflow = known && ((key) => known.get(key) ?? null);
      this.definition = message.definition;
      this.surroundings = message.surroundings;
      this.toldFound = '';
      this.toldUsed = '';
    } else if (!this.definition || !this.replay(this.definition, message)) {
      this.definition = null;
      this.answer({ type: 'lost', sequence: message.sequence });
      return;
    }
    this.sequence = message.sequence;
    if (this.isWaiting) return;
    this.isWaiting = true;
    this.later(() => this.examine());
  }

  private replay(definition: Workflow, { edit }: Extract<ToWorker, { type: 'edit' }>): boolean {
    const result = applyEdit(definition, edit, { findWorkflow: this.findWorkflow ?? (() => null) });
    if (result.ok) this.definition = result.value.definition;
    return result.ok;
  }

  private examine(): void {
    this.isWaiting = false;
    if (!this.definition) return;
    const { definition, sequence, surroundings } = this;
    const compiled = compileWorkflow(definition, this.findWorkflow, this.memory);
    // All of these are faults: they come before the warnings.
    const strangers = surroundings ? checkSurroundings(definition, surroundings) : [];
    const diagnostics = [...strangers, ...compiled.diagnostics];
    const found = JSON.stringify(diagnostics);
    this.answer({ type: 'found', sequence, diagnostics: found === this.toldFound ? null : diagnostics });
    this.toldFound = found;
    this.later(() => this.lookForUses(definition, sequence));
  }

  /** Not where another change has come in meanwhile: its own look follows. */
  private lookForUses(definition: Workflow, sequence: number): void {
    if (definition !== this.definition) return;
    const references = makeReferences(definition, this.findWorkflow ?? (() => null));
    const used = usedPartsOf(references);
    const text = JSON.stringify(used);
    if (text !== this.toldUsed) this.answer({ type: 'used', sequence, used });
    this.toldUsed = text;
  }
}
