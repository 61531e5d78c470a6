import { splitFieldPath } from './field-path.ts';
import { type Path, within } from './path.ts';
import { type KeyTarget, keyPropertyOf, type PartKind, type Property, type Reading, SHAPES, type Shape } from './shape.ts';
import type { Workflow } from './workflow.ts';

/** A part as the walk sees it: what it has, by property. */
export type Part = Readonly<Record<string, unknown>>;

/** Where a part stands: its path, its key within its list, and the part it belongs to. */
export type Place = {
  readonly kind: PartKind;
  readonly part: Part;
  readonly path: Path;
  readonly key: string;
  readonly owner: Place | null;
};

/** A key that names another part. */
export type KeySite = {
  readonly of: KeyTarget;
  readonly key: string;
  readonly path: Path;
  readonly place: Place;
  readonly property: Property;
};

/** The text of an expression. `tables`: the table whose rows it reads as `row`; null for the record itself. */
export type TextSite = {
  readonly text: string;
  readonly reads: Reading;
  readonly path: Path;
  readonly place: Place;
  readonly tables: readonly (string | null)[];
};

/** What becomes of a key: another, or null where it goes. */
export type Mapping = {
  /** Null takes the part out of its list. */
  readonly part?: (place: Place) => Part | null;
  readonly list?: (list: readonly Part[], kind: PartKind, path: Path) => void;
  readonly key?: (site: KeySite) => string | null;
  readonly text?: (site: TextSite) => string;
};

/**
 * Goes over everything in a definition: its parts from the outside in, the keys that name others, the expressions. What the
 * mapping gives stands in the new definition; what doesn't change keeps its identity.
 */
export function mapDefinition(definition: Workflow, mapping: Mapping): Workflow {
  const root: Place = { kind: 'workflow', part: definition, path: '', key: definition.key, owner: null };
  return mapPart(root, mapping) as Workflow;
}

/** The same, for its effects alone. */
export const walkDefinition = (definition: Workflow, visitor: Mapping): void => {
  mapDefinition(definition, visitor);
};

/** The definition with every expression's text changed. */
export const mapExpressions = (definition: Workflow, change: (site: TextSite) => string): Workflow =>
  mapDefinition(definition, { text: change });

function mapPart(place: Place, mapping: Mapping): Part {
  return mapProperties(place.part, SHAPES[place.kind], place, place.path, mapping);
}

function mapProperties(object: Part, shape: Shape, place: Place, path: Path, mapping: Mapping): Part {
  let result = object;
  for (const name in shape) {
    const value = object[name];
    if (value === undefined || value === null) continue;
    const after = mapProperty(value, shape[name] as Property, place, within(path, name), mapping);
    if (after !== value) result = { ...result, [name]: after };
  }
  return result;
}

function mapProperty(value: unknown, property: Property, place: Place, path: Path, mapping: Mapping): unknown {
  switch (property.is) {
    case 'parts':
      return mapParts(value as readonly Part[], property.part, place, path, mapping);
    case 'part': {
      const own: Place = { kind: property.part, part: value as Part, path, key: '', owner: place };
      return mapPart(own, mapping);
    }
    case 'nested':
      return mapNested(value as Part, property.properties, place, path, mapping);
    case 'key':
      return mapping.key ? mapping.key({ of: property.of, key: value as string, path, place, property }) : value;
    case 'keys':
      return mapKeys(value as readonly string[], property, place, path, mapping);
    case 'text':
      return mapping.text ? mapText(value as string, property.reads, place, path, mapping.text) : value;
    case 'texts':
      return mapTexts(value as Readonly<Record<string, string>>, property, place, path, mapping);
    case 'cells':
      return mapping.key ? mapCells(value as Readonly<Record<string, unknown>>, property, place, path, mapping.key) : value;
    default:
      return property satisfies never;
  }
}

/** An object goes with the key that it is about. */
function mapNested(object: Part, shape: Shape, place: Place, path: Path, mapping: Mapping): Part | null {
  const after = mapProperties(object, shape, place, path, mapping);
  for (const name in shape) {
    const property = shape[name];
    if (property?.is === 'key' && property.whenGone === 'clear-around' && object[name] !== after[name] && after[name] === null)
      return null;
  }
  return after;
}

function mapParts(list: readonly Part[], kind: PartKind, owner: Place, path: Path, mapping: Mapping): readonly Part[] {
  mapping.list?.(list, kind, path);
  const named = keyPropertyOf(kind);
  let after: Part[] | null = null;
  list.forEach((part, index) => {
    const key = part[named] as string;
    const place: Place = { kind, part, path: within(path, key), key, owner };
    const changed = mapping.part ? mapping.part(place) : part;
    const result = changed === null ? null : mapPart(changed === part ? place : { ...place, part: changed }, mapping);
    if (result !== part) after ??= list.slice(0, index);
    if (after && result) after.push(result);
  });
  return after ?? list;
}

function mapKeys(
  list: readonly string[],
  property: Extract<Property, { is: 'keys' }>,
  place: Place,
  path: Path,
  mapping: Mapping,
): readonly string[] {
  const { key: change } = mapping;
  if (!change) return list;
  const after = list.map((key) => change({ of: property.of, key, path: within(path, key), place, property }));
  return after.every((key, index) => key === list[index]) ? list : after.filter((key) => key !== null);
}

function mapText(text: string, reads: Reading, place: Place, path: Path, change: (site: TextSite) => string): string {
  return change({ text, reads, path, place, tables: tablesOf(place) });
}

function mapTexts(
  texts: Readonly<Record<string, string>>,
  property: Extract<Property, { is: 'texts' }>,
  place: Place,
  path: Path,
  mapping: Mapping,
): Readonly<Record<string, string>> {
  let isChanged = false;
  const entries = Object.entries(texts).flatMap(([key, text]): [string, string][] => {
    const at = within(path, key);
    const column = mapping.key ? mapping.key({ of: property.by, key, path: at, place, property }) : key;
    const after = mapping.text ? mapping.text({ text, reads: property.reads, path: at, place, tables: [null] }) : text;
    if (column !== key || after !== text) isChanged = true;
    return column === null ? [] : [[column, after]];
  });
  return isChanged ? Object.fromEntries(entries) : texts;
}

/** Rows of cells whose field goes, go; cells whose stage goes, too. */
function mapCells(
  rows: Readonly<Record<string, unknown>>,
  property: Extract<Property, { is: 'cells' }>,
  place: Place,
  path: Path,
  change: (site: KeySite) => string | null,
): Readonly<Record<string, unknown>> {
  const after: [string, unknown][] = [];
  let isChanged = false;
  for (const [row, cells] of Object.entries(rows)) {
    const at = within(path, row);
    const key = change({ of: 'field-path', key: row, path: at, place, property });
    const kept =
      property.byStage && key !== null ? mapRow(cells as Readonly<Record<string, unknown>>, property, place, at, change) : cells;
    const isEmptied = property.byStage && kept !== cells && Object.keys(kept as object).length === 0;
    if (key !== row || kept !== cells) isChanged = true;
    if (key !== null && !isEmptied) after.push([key, kept]);
  }
  return isChanged ? Object.fromEntries(after) : rows;
}

/** A cell's stage. There are many, and nearly none is asked for its path. */
class CellSite implements KeySite {
  readonly of = 'stage';

  constructor(
    readonly key: string,
    private readonly row: Path,
    readonly place: Place,
    readonly property: Property,
  ) {}

  get path(): Path {
    return within(this.row, this.key);
  }
}

function mapRow(
  cells: Readonly<Record<string, unknown>>,
  property: Property,
  place: Place,
  path: Path,
  change: (site: KeySite) => string | null,
): Readonly<Record<string, unknown>> {
  let isChanged = false;
  const after = Object.entries(cells).flatMap(([stage, cell]): [string, unknown][] => {
    const key = change(new CellSite(stage, path, place, property));
    if (key !== stage) isChanged = true;
    return key === null ? [] : [[key, cell]];
  });
  return isChanged ? Object.fromEntries(after) : cells;
}

/** The tables whose rows an adjustment reads, and null where it reads the record: by the fields and sections it covers. */
export function tablesAdjusted(adjustment: { readonly fields: readonly string[]; readonly sections: readonly string[] }) {
  const paths = adjustment.fields.map(splitFieldPath);
  const tables = [...new Set(paths.flatMap(({ field, sub }) => (sub === null ? [] : [field])))];
  const isPlain = adjustment.sections.length > 0 || paths.some(({ sub }) => sub === null) || tables.length === 0;
  return { tables, isPlain };
}

function tablesOf({ kind, part, owner }: Place): readonly (string | null)[] {
  switch (kind) {
    case 'sub-field':
      return [owner?.key ?? null];
    case 'follow-up':
      return [(part.perRow as string | null | undefined) ?? null];
    case 'carried':
      return owner ? tablesOf(owner) : [null];
    case 'adjustment': {
      const { tables, isPlain } = tablesAdjusted(part as never);
      return isPlain ? [null, ...tables] : tables;
    }
    default:
      return [null];
  }
}
