import { z } from 'zod';
import { keyPropertyOf, type PartKind, SHAPES } from '../../model/shape.ts';
import { diagnostic } from '../../shared/diagnostic.ts';
import { failure, success } from '../../shared/result.ts';
import { term, termOfProperty } from '../../shared/terms.ts';
import { findPart, replaceAt } from '../../structure/places.ts';
import { type EditKind, PartPath, Properties } from '../edit.ts';
import { nameOfPart, placeOf, unknownPart } from '../naming.ts';
import { readChanged } from '../part-schemas.ts';
import { pathAfter } from '../renamed-paths.ts';

const schema = z.strictObject({
  type: z.literal('change-part'),
  part: PartPath,
  /** What the properties are from now on. What isn't named stays. */
  set: Properties,
});
export type ChangePart = z.infer<typeof schema>;

/** Expressions of more than this are not told in a sentence. */
const MAX_TOLD = 600;

/** The expression that is all that is set; null where it isn't one, or too long to be told. */
function expressionIn(kind: PartKind, set: ChangePart['set']): string | null {
  const [only, ...more] = Object.entries(set);
  if (!only || more.length > 0) return null;
  const [name, value] = only;
  const property = Object.hasOwn(SHAPES[kind], name) ? SHAPES[kind][name] : undefined;
  const isExpression = property?.is === 'text' && (property.reads === 'condition' || property.reads === 'value');
  return isExpression && typeof value === 'string' && value.length <= MAX_TOLD ? value : null;
}

/**
 * Sets properties of a part, of the definition itself where the path is empty. With a new type or kind, properties that it
 * doesn't have are dropped. Keys are changed by `rename-key`. Codes: `edit/unknown-part`, `edit/fixed-key`, `edit/unfit`.
 */
export const changePart: EditKind<ChangePart, never> = {
  type: 'change-part',
  schema,
  apply: (definition, { part: path, set }) => {
    const found = findPart(definition, path);
    if (!found) return unknownPart(path);
    const { kind, part } = found;
    const key = keyPropertyOf(kind);
    if (Object.hasOwn(set, key) && set[key] !== part[key])
      return failure([diagnostic('edit/fixed-key', path, { part: term(`part/${kind}`) })]);
    const read = readChanged(kind, part, set as never, path);
    return read.ok ? success(replaceAt(definition, path, read.value)) : read;
  },
  map: (edit, { rename, find }) => {
    const part = pathAfter(edit.part, rename);
    const found = find();
    const plain = found && findPart(found.after, edit.part)?.part;
    const renamed = found && findPart(found.renamedAfter, part)?.part;
    if (!plain || !renamed) return { ...edit, part };
    const set = Object.entries(edit.set).map(([name, value]) => [name, plain[name] === renamed[name] ? value : renamed[name]]);
    return { ...edit, part, set: Object.fromEntries(set) };
  },
  describe: ({ part: path, set }, before) => {
    const found = findPart(before, path);
    const kind = found?.kind ?? 'workflow';
    const name = found ? nameOfPart(kind, found.part) : path;
    const place = placeOf(before, path);
    const renamed = kind === 'option' ? set.label : set.name;
    if (typeof renamed === 'string' && Object.keys(set).length === 1)
      return { code: 'rename-part', params: { part: term(`part/${kind}`), before: name, name: renamed, place } };
    const params = { part: term(`part/${kind}`), name, place, properties: Object.keys(set).map(termOfProperty) };
    const text = expressionIn(kind, set);
    return text === null ? { code: 'change-part', params } : { code: 'change-text', params: { ...params, text } };
  },
};
