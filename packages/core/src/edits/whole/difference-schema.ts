import { z } from 'zod';
import { joinPath, splitPath } from '../../model/path.ts';
import { differencesBetween } from '../../structure/differences.ts';
import { AnyPart, Before, PartPath, type RenamedAround } from '../edit.ts';
import { cellAfter, keyInListAfter, pathAfter, type Rename } from '../renamed-paths.ts';

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

type DifferenceData = z.infer<typeof DifferenceSchema>;

/** Returns differences as they are after a renaming that came before them. */
export function differencesAfter(
  differences: readonly DifferenceData[],
  { rename, find }: RenamedAround,
): z.infer<typeof Differences> {
  const found = find();
  const made = found ? differencesBetween(found.renamedBefore, found.renamedAfter) : [];
  // Differences that others have overtaken make nothing here, and still lead where they led.
  if (made.length > 0) return made as z.infer<typeof Differences>;
  return differences.map((one) => differenceAfter(one, rename));
}

/** A difference after a renaming: cells are named by their field and stage, everything else by its path. */
function differenceAfter(one: DifferenceData, rename: Rename): DifferenceData {
  const path = pathAfter(one.path, rename);
  if (one.kind === 'moved') {
    const [key, from, to] = [one.key, one.from, one.to].map((own) => keyInListAfter(one.path, own, rename));
    return { ...one, path, key: key ?? one.key, from: from ?? null, to: to ?? null };
  }
  if (one.kind !== 'changed') return { ...one, path };
  const [list, row = ''] = splitPath(one.path) ?? [];
  if (list === 'plan') {
    const { field, stage } = cellAfter({ field: row, stage: one.property }, rename);
    return { ...one, path: joinPath('plan', field), property: stage };
  }
  if (list === 'submitterSees') return { ...one, property: cellAfter({ field: one.property }, rename).field };
  return { ...one, path };
}
