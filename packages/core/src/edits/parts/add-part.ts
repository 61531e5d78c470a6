import { z } from 'zod';
import { within } from '../../model/path.ts';
import { diagnostic } from '../../shared/diagnostic.ts';
import { failure, success } from '../../shared/result.ts';
import { term } from '../../shared/terms.ts';
import { findList, findPart, insertPart, keyOf, replaceAt } from '../../structure/places.ts';
import { AnyPart, Before, type EditKind, PartPath } from '../edit.ts';
import { nameOfPart, placeOf, unknownPart } from '../naming.ts';
import { readPart } from '../part-schemas.ts';
import { keyInListAfter, pathAfter } from '../renamed-paths.ts';

const schema = z.strictObject({
  type: z.literal('add-part'),
  /** The list it comes to, such as `handOffs.decide.branches`. */
  to: PartPath,
  part: AnyPart,
  before: Before.default(null),
});
export type AddPart = z.infer<typeof schema>;

/** Adds a part to a list. Codes: `edit/unknown-part`, `edit/unfit`, `edit/taken`. */
export const addPart: EditKind<AddPart, never> = {
  type: 'add-part',
  schema,
  apply: (definition, { to, part, before }) => {
    const found = findList(definition, to);
    if (!found) return unknownPart(to);
    const read = readPart(found.kind, part, within(to, keyOf(found.kind, part)));
    if (!read.ok) return read;
    const key = keyOf(found.kind, read.value);
    if (
      isTaken(
        definition,
        to,
        key,
        found.list.map((own) => keyOf(found.kind, own)),
      )
    )
      return failure([diagnostic('edit/taken', within(to, key), { part: term(`part/${found.kind}`), key })]);
    return success(replaceAt(definition, to, insertPart(found, read.value, before)));
  },
  map: (edit, { rename, find }) => {
    const to = pathAfter(edit.to, rename);
    const before = keyInListAfter(edit.to, edit.before, rename);
    const found = find();
    const kind = found && findList(found.after, edit.to)?.kind;
    if (!found || !kind) return { ...edit, to, before };
    const key = keyOf(kind, edit.part);
    const plain = findPart(found.after, within(edit.to, key))?.part;
    const renamed = findPart(found.renamedAfter, within(to, keyInListAfter(edit.to, key, rename)))?.part;
    return { ...edit, to, before, part: renamed && renamed !== plain ? renamed : edit.part };
  },
  describe: ({ to, part }, before) => {
    const kind = findList(before, to)?.kind ?? 'workflow';
    const params = { part: term(`part/${kind}`), name: nameOfPart(kind, part as never), place: placeOf(before, to) };
    return { code: 'add-part', params };
  },
};

/** Whether a key is taken in its list. Fields and decision tables are names of one scope. */
export function isTaken(
  definition: {
    readonly fields: readonly { readonly key: string }[];
    readonly decisionTables: readonly { readonly key: string }[];
  },
  list: string,
  key: string,
  there: readonly string[],
): boolean {
  const sharesScope = list === 'fields' || list === 'decisionTables';
  return (
    there.includes(key) || (sharesScope && [...definition.fields, ...definition.decisionTables].some((own) => own.key === key))
  );
}
