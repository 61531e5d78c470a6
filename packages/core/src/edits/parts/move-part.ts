import { z } from 'zod';
import { diagnostic } from '../../shared/diagnostic.ts';
import { failure, success } from '../../shared/result.ts';
import { term } from '../../shared/terms.ts';
import { findPart, insertPart, keyAfter, keyOf, replaceAt } from '../../structure/places.ts';
import { Before, type EditKind, PartPath } from '../edit.ts';
import { findInList, nameOfPart, placeOf, unknownPart } from '../naming.ts';
import { keyInListAfter, listOf, pathAfter } from '../renamed-paths.ts';

const schema = z.strictObject({
  type: z.literal('move-part'),
  part: PartPath,
  /** The key of the part it is to stand before; null for the end. */
  before: Before,
});
export type MovePart = z.infer<typeof schema>;

/** Moves a part within its list. Code `edit/unknown-part`, also where the part it is to stand before isn't there. */
export const movePart: EditKind<MovePart, never> = {
  type: 'move-part',
  schema,
  apply: (definition, { part: path, before }) => {
    const at = findInList(definition, path);
    if (!at) return unknownPart(path);
    const { found, list, listPath, key } = at;
    if (before !== null && !list.list.some((own) => keyOf(list.kind, own) === before))
      return failure([diagnostic('edit/unknown-part', listPath, { part: term(`part/${list.kind}`), key: before })]);
    if (before === key || keyAfter(list, key) === before) return success(definition);
    const rest = list.list.filter((own) => own !== found.part);
    return success(replaceAt(definition, listPath, insertPart({ kind: list.kind, list: rest }, found.part, before)));
  },
  map: (edit, { rename }) => ({
    ...edit,
    part: pathAfter(edit.part, rename),
    before: keyInListAfter(listOf(edit.part), edit.before, rename),
  }),
  describe: ({ part: path, before }, definition) => {
    const found = findPart(definition, path);
    const kind = found?.kind ?? 'workflow';
    const params = {
      part: term(`part/${kind}`),
      name: found ? nameOfPart(kind, found.part) : path,
      place: placeOf(definition, path),
    };
    if (before === null) return { code: 'move-part-to-end', params };
    const next = findInList(definition, path)?.list.list.find((own) => keyOf(kind, own) === before);
    return { code: 'move-part', params: { ...params, next: next ? nameOfPart(kind, next) : before } };
  },
};
