import { z } from 'zod';
import { AnyPart, Before, PartPath } from '../edit.ts';

/** A difference between two definitions, as edits carry it; see `structure/differences.ts`. */
export const DifferenceSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('added'), path: PartPath, value: AnyPart, before: Before }),
  z.strictObject({ kind: z.literal('removed'), path: PartPath, value: AnyPart }),
  z.strictObject({ kind: z.literal('moved'), path: PartPath, key: z.string().max(70), from: Before, to: Before }),
  z.strictObject({
    kind: z.literal('changed'),
    path: PartPath,
    property: z.string().max(130),
    from: z.unknown().optional(),
    to: z.unknown().optional(),
  }),
]);
export const Differences = z.array(DifferenceSchema).max(50_000);
