import { z } from 'zod';
import { fieldPath } from '../../model/field-path.ts';
import { joinPath, splitPath, within } from '../../model/path.ts';
import { keyPropertyOf, type PartKind } from '../../model/shape.ts';
import type { Part } from '../../model/walk.ts';
import type { Workflow } from '../../model/workflow.ts';
import { diagnostic } from '../../shared/diagnostic.ts';
import { failure, success } from '../../shared/result.ts';
import { term } from '../../shared/terms.ts';
import { findPart, insertPart, keyAfter, keyOf, replaceAt } from '../../structure/places.ts';
import { type EditKind, NewKey, PartPath } from '../edit.ts';
import type { RenameKey } from '../keys/rename-key.ts';
import { findInList, nameOfPart, placeOf, unknownPart } from '../naming.ts';
import { readPart } from '../part-schemas.ts';
import { keyInListAfter, listOf, pathAfter } from '../renamed-paths.ts';
import type { Together } from '../whole/together.ts';
import { isTaken } from './add-part.ts';

const schema = z.strictObject({
  type: z.literal('duplicate-part'),
  part: PartPath,
  /** The copy's key, or an option's code. */
  key: NewKey,
  /** The copy's name, or an option's label; the same name where there is none. */
  name: z.string().min(1).max(200).nullable().default(null),
});
export type DuplicatePart = z.infer<typeof schema>;

/**
 * Puts a copy of a part right after it: with its cells of the plan and of what the submitter sees, or, for a column of a
 * decision table, of its rules. What names the part doesn't name the copy. Codes: `edit/unknown-part`, `edit/taken`, `edit/unfit`.
 */
export const duplicatePart: EditKind<DuplicatePart, never, DuplicatePart | Together<DuplicatePart | RenameKey>> = {
  type: 'duplicate-part',
  schema,
  apply: (definition, { part: path, key, name }) => {
    const at = findInList(definition, path);
    if (!at) return unknownPart(path);
    const { found, list, listPath } = at;
    const { kind } = found;
    if (
      isTaken(
        definition,
        listPath,
        key,
        list.list.map((own) => keyOf(kind, own)),
      )
    )
      return failure([diagnostic('edit/taken', within(listPath, key), { part: term(`part/${kind}`), key })]);
    const naming = name === null ? {} : kind === 'option' ? { label: name } : 'name' in found.part ? { name } : {};
    const read = readPart(kind, { ...found.part, ...naming, [keyPropertyOf(kind)]: key }, path);
    if (!read.ok) return read;
    const copied = replaceAt(definition, listPath, insertPart(list, read.value, keyAfter(list, at.key)));
    return success(copyCells(copied, kind, path, at.key, key));
  },
  map: (edit, { rename, find }) => {
    const key = keyInListAfter(listOf(edit.part), edit.key, rename);
    const followed = { ...edit, part: pathAfter(edit.part, rename), key };
    // A copy of what holds the renamed part was made with the key of before, and keeps it.
    const steps = rename.part.startsWith(`${edit.part}.`) ? splitPath(rename.part.slice(edit.part.length + 1)) : null;
    const found = find();
    if (!steps || !found || !findPart(found.after, rename.part)) return followed;
    const copy = joinPath(...(splitPath(listOf(edit.part)) ?? []), key, ...steps.slice(0, -1), rename.key);
    return { type: 'together', edits: [followed, { type: 'rename-key', part: copy, key: steps.at(-1) ?? '' }] };
  },
  describe: ({ part: path, key, name }, before) => {
    const found = findPart(before, path);
    const kind = found?.kind ?? 'workflow';
    const params = { part: term(`part/${kind}`), name: found ? nameOfPart(kind, found.part) : path, copy: name ?? key };
    return { code: 'duplicate-part', params: { ...params, place: placeOf(before, path) } };
  },
};

type Cells = Readonly<Record<string, unknown>>;

/** Rows whose name begins with the field's, once more under the copy's. */
function copyRows<T>(rows: Readonly<Record<string, T>>, from: string, to: string): Readonly<Record<string, T>> {
  const own = Object.entries(rows).filter(([row]) => row === from || row.startsWith(`${from}.`));
  return own.length === 0
    ? rows
    : { ...rows, ...Object.fromEntries(own.map(([row, cells]) => [to + row.slice(from.length), cells])) };
}

const copyEntry = <T extends Cells>(cells: T, from: string, to: string): T =>
  Object.hasOwn(cells, from) ? { ...cells, [to]: cells[from] } : cells;

function copyCells(definition: Workflow, kind: PartKind, path: string, from: string, to: string): Workflow {
  const steps = splitPath(path) ?? [];
  const { plan, submitterSees } = definition;
  if (kind === 'field' || kind === 'sub-field') {
    const [before, after] = kind === 'field' ? [from, to] : [from, to].map((key) => fieldPath(steps[1] ?? '', key));
    const rows = (own: Cells): Cells => copyRows(own, before as string, after as string);
    return {
      ...definition,
      plan: rows(plan) as Workflow['plan'],
      submitterSees: rows(submitterSees) as Workflow['submitterSees'],
    };
  }
  if (kind === 'stage') {
    const rows = Object.entries(plan).map(([row, cells]) => [row, copyEntry(cells, from, to)] as const);
    return rows.every(([row, cells]) => cells === plan[row]) ? definition : { ...definition, plan: Object.fromEntries(rows) };
  }
  if (kind === 'input' || kind === 'output') {
    const side = kind === 'input' ? 'when' : 'then';
    const rulesPath = within(steps[0] ?? '', steps[1] ?? '', 'rules');
    const table = findPart(definition, within(steps[0] ?? '', steps[1] ?? ''))?.part;
    const rules = ((table?.rules ?? []) as readonly Part[]).map((rule) => ({
      ...rule,
      [side]: copyEntry(rule[side] as Cells, from, to),
    }));
    return replaceAt(definition, rulesPath, rules);
  }
  return definition;
}
