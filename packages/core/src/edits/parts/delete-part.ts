import { z } from 'zod';
import { joinPath, type Path, splitPath } from '../../model/path.ts';
import { type KeySite, mapDefinition, walkDefinition } from '../../model/walk.ts';
import type { Workflow } from '../../model/workflow.ts';
import { diagnostic } from '../../shared/diagnostic.ts';
import { failure, type Result, success } from '../../shared/result.ts';
import { type Term, term } from '../../shared/terms.ts';
import { findList, findPart } from '../../structure/places.ts';
import { makeReferences, pathOfTarget, type Use } from '../../structure/references.ts';
import { type EditContext, type EditKind, PartPath } from '../edit.ts';
import { findInList, nameOfPart, placeOf, termOfPart, termsOfUses, unknownPart } from '../naming.ts';
import { readPart } from '../part-schemas.ts';
import { pathAfter } from '../renamed-paths.ts';

const schema = z.strictObject({
  type: z.literal('delete-part'),
  part: PartPath,
  /** Deletes what names the part, too: keys are taken out, parts that are about it go. Expressions that read it stay, as faults. */
  withUses: z.boolean().default(false),
});
export type DeletePart = z.infer<typeof schema>;

/**
 * Deletes a part. Its cells of the plan, of what the submitter sees and of rules go along. Codes: `edit/unknown-part`;
 * `edit/in-use` with what uses it, unless these go too; `edit/last-one` where that would open something to more
 * people, because nobody else is named there; `edit/unfit` where a list would be empty that must hold one.
 */
export const deletePart: EditKind<DeletePart, never> = {
  type: 'delete-part',
  schema,
  apply: (definition, { part: path, withUses }, context) => {
    const at = findInList(definition, path);
    if (!at) return unknownPart(path);
    const uses = withUses ? [] : usesOf(definition, path, context);
    if (uses.length > 0) {
      const { kind, part } = at.found;
      const params = { part: term(`part/${kind}`), name: nameOfPart(kind, part), by: termsOfUses(definition, uses) };
      return failure([diagnostic('edit/in-use', path, { ...params, uses: uses.map((use) => use.path) })]);
    }
    return deleteWithUses(definition, path);
  },
  map: (edit, { rename }) => ({ ...edit, part: pathAfter(edit.part, rename) }),
  describe: ({ part: path, withUses }, before) => {
    const found = findPart(before, path);
    const kind = found?.kind ?? 'workflow';
    const params = {
      part: term(`part/${kind}`),
      name: found ? nameOfPart(kind, found.part) : path,
      place: placeOf(before, path),
    };
    return { code: withUses ? 'delete-part-with-uses' : 'delete-part', params };
  },
};

const isWithin = (path: Path, part: Path): boolean => path === part || path.startsWith(`${part}.`);
/** Cells belong to the rows and columns they stand in. */
const isCell = ({ of, property, place }: KeySite): boolean =>
  property.is === 'cells' || property.is === 'texts' || (of === 'field-path' && place.kind === 'workflow');

/** What names a part, or something in it, from outside. */
export function usesOf(definition: Workflow, path: Path, { findWorkflow }: EditContext): readonly Use[] {
  const uses: Use[] = [];
  for (const [target, list] of makeReferences(definition, findWorkflow)) {
    if (!isWithin(target, path)) continue;
    for (const use of list) {
      const isOwn = isWithin(use.part, path) || use.path.startsWith('plan.') || use.path.startsWith('submitterSees.');
      const isRule = use.as === 'key' && /\.rules\.[^.]+\.(when|then)\.[^.]+$/.test(use.path);
      if (!isOwn && !isRule && !uses.some((known) => known.path === use.path)) uses.push(use);
    }
  }
  return uses;
}

/** The parts that go with one: those that are about it, those about these, and so on. */
function findDoomed(definition: Workflow, path: Path): Result<ReadonlySet<Path>> {
  const doomed = new Set([path]);
  const isDoomed = (target: Path): boolean => [...doomed].some((part) => isWithin(target, part));
  for (let before = 0; before !== doomed.size; ) {
    before = doomed.size;
    const kept = new Map<Path, { readonly site: KeySite; left: number; gone: number }>();
    walkDefinition(definition, {
      key: (site) => {
        if (isCell(site) || isDoomed(site.place.path)) return site.key;
        const { property, place } = site;
        const isGone = isDoomed(pathOfTarget(site));
        if (property.is === 'key' && isGone && property.whenGone === 'delete-part') doomed.add(place.path);
        if (property.is !== 'keys') return site.key;
        // An adjustment's fields and sections are one list: what it covers.
        const list = place.kind === 'adjustment' && site.of !== 'stage' ? `${place.path}/covers` : `${place.path}/${site.of}`;
        const counts = kept.get(list) ?? { site, left: 0, gone: 0 };
        kept.set(list, counts);
        if (isGone) counts.gone += 1;
        else counts.left += 1;
        return site.key;
      },
    });
    for (const [list, { site, left, gone }] of kept) {
      if (gone === 0 || left > 0 || site.property.is !== 'keys') continue;
      if (site.property.whenEmptied === 'refuse') {
        const params = { key: site.key, uses: [nameOfPart(site.place.kind, site.place.part)] };
        return failure([diagnostic('edit/last-one', site.path, params)]);
      }
      if (site.property.whenEmptied === 'delete-part' || list.endsWith('/covers')) doomed.add(site.place.path);
    }
  }
  return success(doomed);
}

/** What happens to other parts when a part is deleted together with its uses. */
export type Deletion = {
  /** Parts that are deleted too, because they would say nothing without it. */
  readonly goes: readonly Term[];
  /** Parts that stay, and no longer name it. */
  readonly loses: readonly Term[];
  /** Parts that stay and have an expression that reads it, which is a fault until somebody mends it. */
  readonly breaks: readonly Term[];
};

/** Returns what `delete-part` with `withUses` would do to other parts; null if that edit would be refused. */
export function foreseeDeletion(definition: Workflow, path: Path, context: EditContext): Deletion | null {
  const doomed = findDoomed(definition, path);
  if (!doomed.ok || !findInList(definition, path)) return null;
  const isDoomed = (part: Path): boolean => [...doomed.value].some((own) => isWithin(part, own));
  const staying = usesOf(definition, path, context).filter(({ part }) => !isDoomed(part));
  const gone = [...doomed.value].filter((part) => part !== path);
  const outermost = gone.filter((part) => !gone.some((other) => other !== part && isWithin(part, other)));
  const breaking = staying.filter(({ as }) => as === 'expression');
  const broken = new Set(breaking.map(({ part }) => part));
  return {
    goes: outermost.map((part) => termOfPart(definition, part)),
    loses: termsOfUses(
      definition,
      staying.filter(({ part }) => !broken.has(part)),
    ),
    breaks: termsOfUses(definition, breaking),
  };
}

function deleteWithUses(definition: Workflow, path: Path): Result<Workflow> {
  const doomed = findDoomed(definition, path);
  if (!doomed.ok) return doomed;
  const isDoomed = (target: Path): boolean => [...doomed.value].some((part) => isWithin(target, part));
  const after = mapDefinition(definition, {
    part: ({ part, path: own }) => (doomed.value.has(own) ? null : part),
    key: (site) => (isDoomed(pathOfTarget(site)) ? null : site.key),
  });
  return findEmptied(after, doomed.value) ?? success(after);
}

/** Why parts can't go: a list that must hold one, sections, a table's columns or a mail's receivers say, would hold none. */
function findEmptied(after: Workflow, gone: ReadonlySet<Path>): Result<never> | null {
  const lists = new Set([...gone].map((path) => joinPath(...(splitPath(path) ?? []).slice(0, -1))));
  for (const path of lists) {
    if (findList(after, path)?.list.length !== 0) continue;
    const around = joinPath(...(splitPath(path) ?? []).slice(0, -1));
    const owner = findPart(after, around);
    const read = owner && readPart(owner.kind, owner.part, around);
    if (read && !read.ok) return read;
  }
  return null;
}
