import { type Json, makeKey } from '@ypomet/core';
import { COMPLAINT } from './complaint.ts';
import { EQUIPMENT_HANDOVER } from './equipment-handover.ts';
import { GRANT_ROUND } from './grant-round.ts';

type Definition = Readonly<Record<string, Json>>;

/** Outlines to start from: loaded when one is asked for. */
export const EXAMPLES: readonly Definition[] = [GRANT_ROUND, COMPLAINT, EQUIPMENT_HANDOVER];

/** A definition under a name and a key of its own. */
export const renamed = (definition: Definition, name: string, taken: ReadonlySet<string>): Definition => ({
  ...definition,
  name,
  key: makeKey(name, taken, 'workflow'),
});
