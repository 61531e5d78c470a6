import { splitFieldPath } from '../model/field-path.ts';
import { joinPath, type Path, splitPath } from '../model/path.ts';
import { keyPropertyOf, type PartKind } from '../model/shape.ts';
import type { Part } from '../model/walk.ts';
import type { Workflow } from '../model/workflow.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result } from '../shared/result.ts';
import { type Term, term } from '../shared/terms.ts';
import type { Difference } from '../structure/differences.ts';
import { type FoundList, type FoundPart, findList, findPart } from '../structure/places.ts';
import type { Use } from '../structure/references.ts';

/** What people call a part: its name or label; else its key. */
export const nameOfPart = (kind: PartKind, part: Part): string =>
  String(part.name ?? part.label ?? part[keyPropertyOf(kind)] ?? '');

/** A part's path in two: the list it stands in, and its key there. Null for the definition and for parts without a list. */
export function splitPlace(path: Path): { readonly list: Path; readonly key: string } | null {
  const steps = splitPath(path);
  const key = steps?.at(-1);
  return steps && key !== undefined ? { list: joinPath(...steps.slice(0, -1)), key } : null;
}

/** A part with the list it stands in; null where there is no such part, or it stands in none. */
export function findInList(
  definition: Workflow,
  path: Path,
): { readonly found: FoundPart; readonly list: FoundList; readonly listPath: Path; readonly key: string } | null {
  const place = splitPlace(path);
  const [found, list] = [findPart(definition, path), place && findList(definition, place.list)];
  return place && found && list ? { found, list, listPath: place.list, key: place.key } : null;
}

/** Where a list or a listed part stands, as a term: of which part, if it isn't the definition. */
export function placeOf(definition: Workflow, path: Path): Term {
  const steps = splitPath(path) ?? [];
  for (let length = steps.length - 1; length > 0; length--) {
    const owner = findPart(definition, joinPath(...steps.slice(0, length)));
    if (owner && owner.kind !== 'arrival')
      return term('place/of', { part: term(`part/${owner.kind}`), name: nameOfPart(owner.kind, owner.part) });
  }
  return term('place/none');
}

/** A part as a term: what it is, what it is called, and of which other part it is. */
export function termOfPart(definition: Workflow, path: Path): Term {
  const found = findPart(definition, path);
  const kind = found?.kind ?? 'workflow';
  const name = found ? nameOfPart(kind, found.part) : path;
  return term('place/named', { part: term(`part/${kind}`), name, place: placeOf(definition, path) });
}

/**
 * Returns the named part that a path leads to or, where it leads to a property or to something that is gone, the nearest one around
 * it; the empty path where that is the workflow itself. A cell of the plan belongs to its field: `plan.lux.request` gives `fields.lux`.
 */
export function partAround(definition: Workflow, path: Path): Path {
  const [list = '', key = '', ...more] = splitPath(path) ?? [];
  const isCell = list === 'plan' || list === 'submitterSees';
  const { field, sub } = splitFieldPath(key);
  const steps = isCell ? ['fields', field, ...(sub === null ? [] : ['fields', sub])] : [list, key, ...more];
  for (let length = steps.length; length > 1; length--) {
    const own = joinPath(...steps.slice(0, length));
    // Only parts that stand in a list have a name of their own.
    if (findInList(definition, own)) return own;
  }
  return '';
}

/** The parts that use something, as terms, each once. */
export const termsOfUses = (definition: Workflow, uses: readonly Use[]): readonly Term[] =>
  [...new Set(uses.map(({ part }) => part))].map((part) => termOfPart(definition, part));

/**
 * The parts of the definition that differences are about, by name and each once: a field whose cells changed, a stage whose mail
 * changed. What is there in neither definition isn't named; where nothing is left, it is the workflow.
 */
export function namesOfChanged(differences: readonly Difference[], before: Workflow, after: Workflow): readonly string[] {
  const names = differences.flatMap((difference): readonly string[] => {
    const [list = '', key = keyOfChanged(difference)] = splitPath(difference.path) ?? [];
    const isCell = list === 'plan' || list === 'submitterSees';
    const path = isCell ? joinPath('fields', splitFieldPath(key).field) : joinPath(list, key);
    const found = findPart(before, path) ?? findPart(after, path);
    return found && found.kind !== 'workflow' ? [nameOfPart(found.kind, found.part)] : [];
  });
  return names.length > 0 ? [...new Set(names)] : [after.name];
}

/** The key of the part that a list lost or gained, or the property that changed. */
const keyOfChanged = (difference: Difference): string => {
  if (difference.kind === 'changed') return difference.property;
  return difference.kind === 'moved' ? difference.key : String(difference.value.key ?? '');
};

export const unknownPart = (path: Path): Result<never> =>
  failure([diagnostic('edit/unknown-part', path, { key: splitPath(path)?.at(-1) ?? path, part: term('part/any') })]);
