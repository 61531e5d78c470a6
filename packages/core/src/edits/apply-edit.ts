import { checkKeys } from '../model/invariants.ts';
import type { Path } from '../model/path.ts';
import { joinPath, splitPath, within } from '../model/path.ts';
import type { PartKind } from '../model/shape.ts';
import { Workflow } from '../model/workflow.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { term } from '../shared/terms.ts';
import { type Difference, differencesBetween } from '../structure/differences.ts';
import { findList, findPart } from '../structure/places.ts';
import type { EditContext, EditKind, EditSentence } from './edit.ts';
import { readPart } from './part-schemas.ts';
import { EDIT_KINDS, type Edit, type SingleEdit } from './registry.ts';

/** What an edit came to. */
export type Edited = {
  readonly definition: Workflow;
  /** The edit that takes it back, and leaves alone what others did since. */
  readonly inverse: Edit;
  /** What it touched: paths of parts and lists, and of the plan's rows, that must be looked at again. */
  readonly touches: readonly Path[];
  readonly sentence: EditSentence;
};

const ALONE: EditContext = { findWorkflow: () => null };

/**
 * Applies one edit, or edits made together. Parts that don't change keep their identity. The definition stays readable: what
 * the edit touched has its form, and every key names something. Renaming reads expressions, and so needs to know the other
 * workflows that these read through references. Codes: `edit/…`.
 */
export function applyEdit(definition: Workflow, edit: Edit, context: EditContext = ALONE): Result<Edited> {
  if (edit.type === 'together') return applyTogether(definition, edit.edits, context);
  const kind = kindOf(edit);
  const applied = kind.apply(definition, edit, context);
  if (!applied.ok) return applied;
  const differences = differencesBetween(applied.value, definition);
  const after = differences.length === 0 ? definition : applied.value;
  const fault = findUnfit(after, differences) ?? findDangling(definition, after, differences);
  if (fault) return failure([fault]);
  return success({
    definition: after,
    inverse: kind.invert?.(definition, after, edit, context) ?? { type: 'revert', differences: differences as never },
    touches: [...new Set(differences.map(touchedBy))],
    sentence: kind.describe(edit, definition, after),
  });
}

const kindOf = <E extends SingleEdit>(edit: E): EditKind<E, Edit> => EDIT_KINDS[edit.type] as unknown as EditKind<E, Edit>;

function applyTogether(definition: Workflow, edits: readonly Edit[], context: EditContext): Result<Edited> {
  let current = definition;
  const done: Edited[] = [];
  for (const edit of edits) {
    const applied = applyEdit(current, edit, context);
    if (!applied.ok) return applied;
    done.push(applied.value);
    current = applied.value.definition;
  }
  const [first] = done;
  return success({
    definition: current,
    inverse: { type: 'together', edits: done.map(({ inverse }) => inverse).reverse() },
    touches: [...new Set(done.flatMap(({ touches }) => touches))],
    sentence:
      first && done.length === 1
        ? first.sentence
        : { code: 'together', params: { first: first?.sentence.code ?? '', count: done.length } },
  });
}

function touchedBy(difference: Difference): Path {
  if (difference.kind === 'changed') return difference.path;
  const key = difference.kind === 'moved' ? difference.key : String(difference.value.key ?? difference.value.code);
  return `${difference.path}.${joinPath(key)}`;
}

/** The first part that an edit left in a form that definitions don't have, or a list with too many or too few parts. */
function findUnfit(after: Workflow, differences: readonly Difference[]): Diagnostic | null {
  const seen = new Set<Path>();
  for (const difference of differences) {
    const path = ownerPath(after, difference);
    if (seen.has(path)) continue;
    seen.add(path);
    const found = findPart(after, path);
    if (!found) continue;
    const fault = found.kind === 'workflow' ? unfitIn(after, difference) : readFault(found.kind, found.part, path);
    if (fault) return fault;
  }
  return null;
}

/** The innermost part that a difference is in. */
function ownerPath(definition: Workflow, { path }: Difference): Path {
  const steps = splitPath(path) ?? [];
  for (let length = steps.length; length > 0; length--) {
    const prefix = joinPath(...steps.slice(0, length));
    if (findPart(definition, prefix)) return prefix;
  }
  return '';
}

function readFault(kind: PartKind, part: Parameters<typeof readPart>[1], path: Path): Diagnostic | null {
  const read = readPart(kind, part, path);
  return read.ok ? null : (read.diagnostics[0] ?? null);
}

/** The definition's own properties and lists: only what the difference is about is looked at. */
function unfitIn(after: Workflow, difference: Difference): Diagnostic | null {
  const [name = '', row] = splitPath(difference.path) ?? [];
  if (difference.kind === 'changed') {
    const property = name === '' ? difference.property : name;
    const value = name === 'plan' && row !== undefined ? { [row]: after.plan[row] ?? {} } : after[property as keyof Workflow];
    const parsed = Workflow.shape[property as keyof typeof Workflow.shape]?.safeParse(value);
    return parsed?.success ? null : unfit(property);
  }
  const list = findList(after, difference.path);
  const added = difference.kind === 'removed' ? list?.list.find((part) => part.key === difference.value.key) : undefined;
  const { minimum = 0, maximum = Number.POSITIVE_INFINITY } = boundsOf(name);
  const length = list?.list.length ?? 0;
  if (length < minimum || length > maximum) return unfit(name);
  return list && added ? readFault(list.kind, added, within(difference.path, String(added.key))) : null;
}

const unfit = (property: string): Diagnostic =>
  diagnostic('edit/unfit', property, { part: term('part/workflow'), key: property, detail: term('shape/form') });

/** How many parts a list of the definition can have. */
function boundsOf(name: string): { readonly minimum?: number; readonly maximum?: number } {
  const schema = Workflow.shape[name as 'fields'] as { readonly unwrap?: () => unknown } & (typeof Workflow.shape)['fields'];
  const list = ('innerType' in schema.def ? (schema.def as { innerType: typeof schema }).innerType : schema) as typeof schema;
  return list._zod.bag as { readonly minimum?: number; readonly maximum?: number };
}

type Dangling = ReadonlyMap<string, Diagnostic>;
const dangling = new WeakMap<Workflow, Dangling>();
const NO_CELLS = { plan: {}, submitterSees: {} };

const faultsOfKeys = (definition: Workflow): Dangling =>
  new Map(checkKeys(definition).map((one) => [`${one.path}/${String(one.params.key)}`, one]));

/** Keys that name nothing, or two parts, cells aside. Known from the edit before, as a rule. */
function danglingIn(definition: Workflow): Dangling {
  const known = dangling.get(definition) ?? faultsOfKeys({ ...definition, ...NO_CELLS });
  dangling.set(definition, known);
  return known;
}

/** The first key that names nothing since the edit, or names two parts. */
function findDangling(before: Workflow, after: Workflow, differences: readonly Difference[]): Diagnostic | null {
  if (differences.every(isCell)) return null;
  const fresh =
    firstNew(danglingIn(before), danglingIn(after)) ??
    (mayLoseCells(before, after, differences) ? lostCell(before, after) : null);
  if (!fresh) return null;
  const { key = '', what } = fresh.params;
  if (what === undefined) return diagnostic('edit/taken', fresh.path, { part: term('part/any'), key });
  return diagnostic('edit/unknown-key', fresh.path, { key, target: what });
}

const firstNew = (before: Dangling, after: Dangling): Diagnostic | null =>
  [...after].find(([place]) => !before.has(place))?.[1] ?? null;

/** Cells can come to name nothing only where they change, or where a field or stage goes. Differences lead back. */
const mayLoseCells = (before: Workflow, after: Workflow, differences: readonly Difference[]): boolean =>
  before.plan !== after.plan ||
  before.submitterSees !== after.submitterSees ||
  differences.some(({ kind, path }) => kind === 'added' && /^(fields|stages)(\.|$)/.test(path));

const lostCell = (before: Workflow, after: Workflow): Diagnostic | null => firstNew(faultsOfKeys(before), faultsOfKeys(after));

/** A cell that was set is of a field and a stage that there are: the edit looked. */
const isCell = ({ kind, path }: Difference): boolean => kind === 'changed' && /^(plan|submitterSees)(\.|$)/.test(path);
