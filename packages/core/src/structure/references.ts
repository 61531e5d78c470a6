import { type ReadReference, visitReads } from '../expressions/rewrite.ts';
import type { TypeOption } from '../expressions/types.ts';
import type { FindWorkflow } from '../expressions/workflow-scope.ts';
import { splitFieldPath } from '../model/field-path.ts';
import { joinPath, type Path, within } from '../model/path.ts';
import { type KeySite, walkDefinition } from '../model/walk.ts';
import type { Workflow } from '../model/workflow.ts';
import { type ReadText, TextReader } from './texts.ts';

/** A place that names a part: by its key, or in an expression. `part`: the path of the part that the place belongs to. */
export type Use = { readonly path: Path; readonly part: Path; readonly as: 'key' | 'expression' };

/** What names each part of a definition, by the part's path. */
export type References = ReadonlyMap<Path, readonly Use[]>;

/** The path of what a key names. */
export function pathOfTarget({ of, key, place }: Pick<KeySite, 'of' | 'key' | 'place'>): Path {
  switch (of) {
    case 'role':
      return joinPath('roles', key);
    case 'section':
      return joinPath('sections', key);
    case 'track':
      return joinPath('tracks', key);
    case 'stage':
      return joinPath('stages', key);
    case 'hand-off':
      return joinPath('handOffs', key);
    case 'field':
    case 'table-field':
      return joinPath('fields', key);
    case 'field-path': {
      const { field, sub } = splitFieldPath(key);
      return sub === null ? joinPath('fields', field) : joinPath('fields', field, 'fields', sub);
    }
    case 'input':
    case 'output':
      return within(place.owner?.path ?? '', `${of}s`, key);
    default:
      return of satisfies never;
  }
}

/**
 * Everything that names something in a definition, whether by key or in an expression: one table that where-used, deleting
 * and lighting up go by. Expressions with faults count as far as they can be read.
 */
export function makeReferences(definition: Workflow, findWorkflow: FindWorkflow = () => null): References {
  const uses = new Map<Path, Use[]>();
  const note = (target: Path, use: Use): void => {
    const known = uses.get(target);
    if (!known) uses.set(target, [use]);
    else if (!known.some(({ path }) => path === use.path)) known.push(use);
  };
  const reader = new TextReader(definition, findWorkflow);
  const targets = new Targets(definition, reader);
  walkDefinition(definition, {
    key: (site) => {
      note(pathOfTarget(site), { path: site.path, part: site.place.path, as: 'key' });
      return site.key;
    },
    text: (site) => {
      for (const read of reader.read(site))
        for (const target of targets.readBy(read)) note(target, { path: site.path, part: site.place.path, as: 'expression' });
      return site.text;
    },
  });
  return uses;
}

/** What expressions read, as paths into the definition. */
class Targets {
  private readonly fields: ReadonlySet<string>;
  private readonly tables: ReadonlyMap<string, ReadonlySet<string>>;
  private readonly decisions: ReadonlyMap<string, ReadonlySet<string>>;
  private readonly options: ReadonlyMap<TypeOption, Path>;

  constructor(definition: Workflow, { layout }: TextReader) {
    const keys = (list: readonly { readonly key: string }[]): ReadonlySet<string> => new Set(list.map(({ key }) => key));
    this.fields = keys(definition.fields);
    this.tables = new Map(
      definition.fields.flatMap((field) => (field.type === 'table' ? [[field.key, keys(field.fields)]] : [])),
    );
    this.decisions = new Map(definition.decisionTables.map((table) => [table.key, keys(table.outputs)]));
    this.options = optionPaths(definition, layout.keyOptions);
  }

  readBy({ checked, table, foreign }: ReadText): ReadonlySet<Path> {
    const found = new Set<Path>();
    visitReads(checked, (node, reference) => {
      if (!foreign.has(node)) for (const path of this.pathsOf(reference, table)) found.add(path);
    });
    for (const [node, option] of checked.chosen) {
      const path = foreign.has(node) ? undefined : this.options.get(option);
      if (path !== undefined) found.add(path);
    }
    return found;
  }

  private pathsOf({ name, part }: ReadReference, table: string | null): readonly Path[] {
    const key = name === 'row' && table !== null ? table : name;
    const [subFields, outputs] = [this.tables.get(key), this.decisions.get(key)];
    if (outputs) {
      const own = joinPath('decisionTables', key);
      return part !== null && outputs.has(part) ? [own, within(own, 'outputs', part)] : [own];
    }
    if (!this.fields.has(key)) return [];
    const own = joinPath('fields', key);
    return part !== null && subFields?.has(part) ? [own, within(own, 'fields', part)] : [own];
  }
}

/** Where each option that an expression can name stands: options of fields, and the keys that are choices themselves. */
export function optionPaths(definition: Workflow, keyOptions: TextReader['layout']['keyOptions']): ReadonlyMap<TypeOption, Path> {
  const paths = new Map<TypeOption, Path>();
  const ofField = (field: { readonly type: string; readonly options?: readonly TypeOption[] }, path: Path): void => {
    for (const option of field.options ?? []) paths.set(option, within(path, 'options', option.code));
  };
  for (const field of definition.fields) {
    const path = joinPath('fields', field.key);
    ofField(field, path);
    if (field.type === 'table') for (const own of field.fields) ofField(own, within(path, 'fields', own.key));
  }
  for (const list of ['stages', 'tracks', 'handOffs'] as const)
    for (const option of keyOptions[list]) paths.set(option, joinPath(list, option.code));
  return paths;
}
