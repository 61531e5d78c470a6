import { z } from 'zod';
import type { FindWorkflow } from '../expressions/workflow-scope.ts';
import { Key } from '../model/keys.ts';
import { type Path, splitPath } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import type { DiagnosticParams } from '../shared/diagnostic.ts';
import type { Result } from '../shared/result.ts';
import type { Rename } from './renamed-paths.ts';

/** What an edit did, for history: a code and what its sentence in `messages/` is filled with. */
export type EditSentence = { readonly code: EditSentenceCode; readonly params: DiagnosticParams };
export type EditSentenceCode =
  | 'add-part'
  | 'change-part'
  | 'change-text'
  | 'rename-part'
  | 'delete-part'
  | 'delete-part-with-uses'
  | 'move-part'
  | 'move-part-to-end'
  | 'duplicate-part'
  | 'rename-key'
  | 'set-treatments'
  | 'set-treatments-many'
  | 'set-submitter-sees'
  | 'set-submitter-sees-many'
  | 'set-cells'
  | 'together'
  | 'read-in'
  | 'read-in-changing'
  | 'back-to-version'
  | 'back-to-revision'
  | 'revert';

/** What edits need to know from outside: the other workflows, through whose fields expressions can read. */
export type EditContext = { readonly findWorkflow: FindWorkflow };

/** A renaming that somebody made before an edit, of which its maker didn't know yet. */
export type RenamedAround = {
  readonly rename: Rename;
  /**
   * Returns the definition that the edit led to, and what the renaming makes of the definitions before and after the edit. Null if the
   * edit or the renaming can't be made.
   */
  readonly find: () => { readonly after: Workflow; readonly renamedBefore: Workflow; readonly renamedAfter: Workflow } | null;
};

/**
 * One kind of edit. `map` returns the edit as it must be after a renaming: all paths, keys and expressions it holds name what they
 * named before. `apply` gives the definition after it, in which everything that doesn't change keeps its identity; codes
 * `edit/…`. What undoes an edit, what it touches, and whether the definition stays readable follow from the definitions
 * before and after: see `apply-edit.ts`. An edit whose opposite says more than the differences do has an `invert` of its own.
 */
export type EditKind<E extends { readonly type: string }, Inverse, Mapped = E> = {
  readonly type: E['type'];
  readonly schema: z.ZodType<E>;
  readonly apply: (definition: Workflow, edit: E, context: EditContext) => Result<Workflow>;
  readonly invert?: (before: Workflow, after: Workflow, edit: E, context: EditContext) => Inverse;
  readonly map: (edit: E, around: RenamedAround) => Mapped;
  readonly describe: (edit: E, before: Workflow, after: Workflow) => EditSentence;
};

const PathText = z
  .string()
  .max(500)
  .refine((text) => splitPath(text) !== null, 'shape/path');
/** The path of a part; the empty path is the definition itself. */
export const PartPath: z.ZodType<Path> = PathText;
/** A key before which a part is put; null for the end. */
export const Before = z.string().max(70).nullable();
export const AnyPart = z.record(z.string().max(70), z.unknown());
/** What is said of a part by property, as in the definition's JSON Schema. */
export const Properties = AnyPart.refine((set) => Object.keys(set).length > 0, 'shape/nothing');
export const NewKey = z.union([Key, z.string().min(1).max(60)]);
