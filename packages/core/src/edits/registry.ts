import { z } from 'zod';
import { type SetCells, setCells } from './decisions/set-cells.ts';
import type { EditKind } from './edit.ts';
import { type RenameKey, renameKey } from './keys/rename-key.ts';
import { type AddPart, addPart } from './parts/add-part.ts';
import { type ChangePart, changePart } from './parts/change-part.ts';
import { type DeletePart, deletePart } from './parts/delete-part.ts';
import { type DuplicatePart, duplicatePart } from './parts/duplicate-part.ts';
import { type MovePart, movePart } from './parts/move-part.ts';
import { type SetSubmitterSees, setSubmitterSees } from './plan/set-submitter-sees.ts';
import { type SetTreatments, setTreatments } from './plan/set-treatments.ts';
import { type ReadIn, readIn } from './whole/read-in.ts';
import { type Revert, revert } from './whole/revert.ts';

/** An edit that stands alone. */
export type SingleEdit =
  | AddPart
  | ChangePart
  | DeletePart
  | MovePart
  | DuplicatePart
  | RenameKey
  | SetTreatments
  | SetSubmitterSees
  | SetCells
  | ReadIn
  | Revert;

/** One change to a draft. Undo, autosave, history, and two analysts at once all pass through these. */
export type Edit = SingleEdit | { readonly type: 'together'; readonly edits: readonly Edit[] };

/** All kinds of edits. Each works on every kind of part that it makes sense for; see `model/shape.ts`. */
export const EDIT_KINDS: { readonly [T in SingleEdit['type']]: EditKind<Extract<SingleEdit, { type: T }>, Edit, Edit> } = {
  'add-part': addPart,
  'change-part': changePart,
  'delete-part': deletePart,
  'move-part': movePart,
  'duplicate-part': duplicatePart,
  'rename-key': renameKey,
  'set-treatments': setTreatments,
  'set-submitter-sees': setSubmitterSees,
  'set-cells': setCells,
  'read-in': readIn,
  revert,
};

const MAX_TOGETHER = 500;

const singles = Object.values(EDIT_KINDS).map(({ schema }) => schema) as unknown as [z.ZodObject, ...z.ZodObject[]];
const single = z.discriminatedUnion('type', singles);

/** The form in which edits are sent and stored. */
export const Edit = z.union([
  single,
  z.strictObject({ type: z.literal('together'), edits: z.array(single).min(1).max(MAX_TOGETHER) }),
]) as unknown as z.ZodType<Edit>;
