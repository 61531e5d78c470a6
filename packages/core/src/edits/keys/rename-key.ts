import { z } from 'zod';
import { findRenames, type Replacement, replaceIn } from '../../expressions/rewrite.ts';
import { fieldPath, splitFieldPath } from '../../model/field-path.ts';
import { joinPath, type Path, splitPath } from '../../model/path.ts';
import { keyPropertyOf, type PartKind } from '../../model/shape.ts';
import { type KeySite, mapDefinition, type Place, type TextSite } from '../../model/walk.ts';
import type { Workflow } from '../../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../../shared/diagnostic.ts';
import { equalJson } from '../../shared/equal-json.ts';
import type { Json } from '../../shared/json.ts';
import { failure, success } from '../../shared/result.ts';
import { term } from '../../shared/terms.ts';
import { differencesBetween } from '../../structure/differences.ts';
import { findPart, keyOf } from '../../structure/places.ts';
import { optionPaths, pathOfTarget } from '../../structure/references.ts';
import { type ReadText, TextReader } from '../../structure/texts.ts';
import { type EditKind, NewKey, PartPath } from '../edit.ts';
import { findInList, nameOfPart, placeOf, unknownPart } from '../naming.ts';
import { isTaken } from '../parts/add-part.ts';
import { keyInListAfter, listOf, pathAfter } from '../renamed-paths.ts';
import type { Revert } from '../whole/revert.ts';
import type { Together } from '../whole/together.ts';

const schema = z.strictObject({
  type: z.literal('rename-key'),
  part: PartPath,
  /** The new key, or an option's new code. */
  key: NewKey,
});
export type RenameKey = z.infer<typeof schema>;

/**
 * Gives a part another key wherever it is named: by key, and in expressions, of which only the names change. Decisions stay
 * as they are. Codes: `edit/unknown-part`, `edit/fixed-key` for roles, which members have by their keys, `edit/taken`, and
 * `edit/captured` where the new name would mean something else in an expression.
 */
export const renameKey: EditKind<RenameKey, RenameKey | Revert | Together<RenameKey | Revert>> = {
  type: 'rename-key',
  schema,
  apply: (definition, { part: path, key }, { findWorkflow }) => {
    const at = findInList(definition, path);
    if (!at) return unknownPart(path);
    const { kind } = at.found;
    if (at.key === key) return success(definition);
    if (kind === 'role') return failure([diagnostic('edit/fixed-key', path, { part: term('part/role') })]);
    if (
      isTaken(
        definition,
        at.listPath,
        key,
        at.list.list.map((own) => keyOf(kind, own)),
      )
    )
      return failure([diagnostic('edit/taken', path, { part: term(`part/${kind}`), key })]);
    const renaming = new Renaming(definition, kind, path, key, new TextReader(definition, findWorkflow));
    const after = mapDefinition(definition, {
      part: (place) => renaming.part(place),
      key: (site) => renaming.key(site),
      text: (site) => renaming.text(site),
    });
    return renaming.faults.length > 0 ? failure(renaming.faults) : success(after);
  },
  invert: (before, after, { part: path, key }, context) => {
    const steps = splitPath(path) ?? [];
    const back: RenameKey = { type: 'rename-key', part: joinPath(...steps.slice(0, -1), key), key: steps.at(-1) ?? '' };
    const undone = renameKey.apply(after, back, context);
    if (undone.ok && equalJson(undone.value, before)) return back;
    const rest: Revert = {
      type: 'revert',
      differences: differencesBetween(undone.ok ? undone.value : after, before) as Revert['differences'],
    };
    return undone.ok ? { type: 'together', edits: [back, rest] } : rest;
  },
  map: (edit, { rename }) => ({
    ...edit,
    part: pathAfter(edit.part, rename),
    // A key that comes back, because a renaming is taken back, is the one that it has been given meanwhile.
    key: keyInListAfter(listOf(edit.part), edit.key, rename),
  }),
  describe: ({ part: path, key }, before) => {
    const found = findPart(before, path);
    const kind = found?.kind ?? 'workflow';
    const params = { part: term(`part/${kind}`), name: found ? nameOfPart(kind, found.part) : path, key };
    return { code: 'rename-key', params: { ...params, place: placeOf(before, path) } };
  },
};

const isObject = (json: Json | undefined): json is { readonly [key: string]: Json } =>
  json !== null && typeof json === 'object' && !Array.isArray(json);

/** One renaming, carried through a definition. */
class Renaming {
  readonly faults: Diagnostic[] = [];
  private readonly old: string;
  private readonly owner: string;
  /** Key of the sub-field whose option is renamed. */
  private readonly column: string;
  private readonly isInRows: boolean;
  private readonly options: ReturnType<typeof optionPaths>;

  constructor(
    definition: Workflow,
    private readonly kind: PartKind,
    private readonly path: Path,
    private readonly to: string,
    private readonly reader: TextReader,
  ) {
    const steps = splitPath(path) ?? [];
    this.old = steps.at(-1) ?? '';
    /** The table, or decision table, that a sub-field or a column belongs to. */
    this.owner = steps[1] ?? '';
    this.isInRows = steps[2] === 'fields';
    this.column = steps[3] ?? '';
    this.options = optionPaths(definition, reader.layout.keyOptions);
  }

  part({ part, path, kind }: Place): Place['part'] {
    if (path === this.path) return { ...part, [keyPropertyOf(kind)]: this.to };
    if (kind === 'test') return this.withValues(part, 'start');
    return kind === 'step' ? this.withValues(part, 'entered') : part;
  }

  /** Returns a test (or one of its steps) whose values have the option's new code, or the sub-field's new key. */
  private withValues(part: Place['part'], property: 'start' | 'entered'): Place['part'] {
    if (this.kind !== 'option' && this.kind !== 'sub-field') return part;
    const values = part[property] as Readonly<Record<string, Json>>;
    const value = values[this.owner];
    if (value === undefined) return part;
    const after = this.kind === 'option' && !this.isInRows ? this.withCode(value) : this.withCells(value);
    return after === value ? part : { ...part, [property]: { ...values, [this.owner]: after } };
  }

  private withCode(value: Json): Json {
    if (Array.isArray(value)) return value.includes(this.old) ? value.map((one) => this.withCode(one)) : value;
    return value === this.old ? this.to : value;
  }

  /** Returns the rows of a table value, `[{"id": …, "values": {…}}]`, after the renaming of a sub-field or of one of its options. */
  private withCells(rows: Json): Json {
    if (!Array.isArray(rows)) return rows;
    return rows.map((row) => {
      const cells = isObject(row) ? row.values : undefined;
      if (!isObject(row) || !isObject(cells)) return row;
      const changed = Object.entries(cells).map(([key, value]): readonly [string, Json] => {
        if (this.kind === 'sub-field') return [key === this.old ? this.to : key, value];
        return [key, key === this.column ? this.withCode(value) : value];
      });
      return { ...row, values: Object.fromEntries(changed) };
    });
  }

  key(site: KeySite): string {
    if (site.of === 'field-path') {
      const { field, sub } = splitFieldPath(site.key);
      if (this.kind === 'field' && field === this.old) return fieldPath(this.to, sub);
      return this.kind === 'sub-field' && field === this.owner && sub === this.old ? fieldPath(field, this.to) : site.key;
    }
    return pathOfTarget(site) === this.path ? this.to : site.key;
  }

  text(site: TextSite): string {
    const replacements = new Map<number, Replacement>();
    for (const read of this.reader.read(site)) {
      for (const { span, text } of this.replacementsIn(read, site)) {
        const at = { start: span.start + read.offset, end: span.end + read.offset };
        replacements.set(at.start, { span: at, text });
      }
    }
    return replacements.size === 0 ? site.text : replaceIn(site.text, [...replacements.values()]);
  }

  private replacementsIn(read: ReadText, site: TextSite): readonly Replacement[] {
    switch (this.kind) {
      case 'field':
      case 'decision-table':
        return this.names(read, site, null);
      case 'sub-field':
        return [...this.names(read, site, this.owner), ...(read.table === this.owner ? this.names(read, site, 'row') : [])];
      case 'output':
        return this.names(read, site, this.owner);
      case 'option':
      case 'stage':
      case 'track':
      case 'hand-off':
        return this.codes(read);
      default:
        return [];
    }
  }

  private names({ checked, foreign }: ReadText, site: TextSite, part: string | null): readonly Replacement[] {
    const found = findRenames(checked, { from: this.old, to: this.to, ...(part === null ? {} : { within: part }) }, foreign);
    if (found.ok) return found.value;
    this.faults.push(diagnostic('edit/captured', site.path, { key: this.to, path: site.path }));
    return [];
  }

  /** Texts in quotes that stand for the option. */
  private codes({ checked, foreign }: ReadText): readonly Replacement[] {
    return [...checked.chosen].flatMap(([node, option]) =>
      this.options.get(option) === this.path && !foreign.has(node) ? [{ span: node.span, text: JSON.stringify(this.to) }] : [],
    );
  }
}
