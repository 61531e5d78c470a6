import type { Environment } from '../expressions/builtins/builtin.ts';
import type { CheckedExpression } from '../expressions/check.ts';
import { namesReadBy } from '../expressions/rewrite.ts';
import type { CompiledHandOff, CompiledWorkflow } from '../flow/compiled-workflow.ts';
import { passOn } from '../flow/pass.ts';
import { type Actor, type Outside, systemValues, type WorkflowRecord } from '../flow/record.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import { evaluateForm, type Form, type FormInput } from '../forms/evaluate-form.ts';
import type { Value } from '../values/value.ts';
import { type Atom, atomsOf, type Extent } from './atoms.ts';
import { constantsBeside } from './constants.ts';

/** Which way a hand-off sends a record: the branch it takes, `otherwise`, none, or several where just one may hold. */
export type Way =
  | { readonly kind: 'branch'; readonly branch: string }
  | { readonly kind: 'otherwise' }
  | { readonly kind: 'none' }
  | { readonly kind: 'clash'; readonly branches: readonly string[] };

/** A field along an edge of the picture, cut where the branches' conditions tell its values apart. */
export type Axis = { readonly field: string; readonly atoms: readonly Atom[] };

/** `ways[row][column]`: where a record goes that has a value of the row's extent and one of the column's. */
export type WhichWay = {
  readonly columns: readonly Atom[];
  readonly rows: readonly Atom[];
  readonly ways: readonly (readonly Way[])[];
};

/** The record from which all values are taken that no axis says. */
export type Basis = {
  readonly workflow: CompiledWorkflow;
  readonly record: WorkflowRecord;
  readonly given: FormInput;
  readonly actor: Actor;
  readonly outside: Outside;
};

/** The fields that the branches of a hand-off read, in the order in which they are first read. */
export function fieldsRead({ forms }: CompiledWorkflow, { branches }: CompiledHandOff): readonly CompiledField[] {
  const names = new Set(
    branches.flatMap(({ condition }) => (condition.expression?.checked ? namesReadBy(condition.expression.checked) : [])),
  );
  return [...names].flatMap((name) => forms.fieldByKey.get(name) ?? []);
}

/** The conditions of a hand-off's branches, and the expressions of the computed fields that these come from, each once. */
function expressionsBehind({ forms }: CompiledWorkflow, { branches }: CompiledHandOff): readonly CheckedExpression[] {
  const found = new Set<CheckedExpression>();
  const follow = (checked: CheckedExpression | null | undefined): void => {
    if (!checked || found.has(checked)) return;
    found.add(checked);
    for (const name of namesReadBy(checked)) follow(forms.fieldByKey.get(name)?.computes?.checked);
  };
  for (const { condition } of branches) follow(condition.expression?.checked);
  return [...found];
}

/**
 * A field's values as the branches of a hand-off tell them apart, also by what is computed from it; null where they can't be
 * cut. Where a computed value is more than a comparison (a sum, a product), one value may not stand for all of its extent.
 */
export function axisOf(
  workflow: CompiledWorkflow,
  handOff: CompiledHandOff,
  field: string,
  environment: Environment,
): Axis | null {
  const of = workflow.forms.fieldByKey.get(field);
  const entry = workflow.forms.layout.scope.entries.get(field);
  if (!of || !entry) return null;
  const constants = expressionsBehind(workflow, handOff).flatMap(({ node }) => constantsBeside(node, field, environment));
  const atoms = atomsOf(entry.typing.type, constants, of.field);
  return atoms && { field, atoms };
}

/** The two edges of a picture; without one down, it is a single row. */
export type Axes = { readonly across: Axis; readonly down: Axis | null };

/**
 * Where a record goes for each pair of values of two fields: one record for each is put together and handed on, by the same
 * function that decides. Rows and columns next to each other that agree throughout are one. Cost: one hand-off a pair.
 */
export function whichWay(basis: Basis, handOff: CompiledHandOff, held: ReadonlyMap<string, Value>, axes: Axes): WhichWay {
  return joinWays(
    axes,
    rowsOf(axes).map((row) => waysAlong(basis, handOff, held, axes, row)),
  );
}

/** The rows of a picture, one for each value down. */
export const rowsOf = ({ down }: Axes): readonly (Atom | null)[] => down?.atoms ?? [null];

/** One row of a picture, before neighbours are joined: for those who make it bit by bit. */
export function waysAlong(
  basis: Basis,
  handOff: CompiledHandOff,
  held: ReadonlyMap<string, Value>,
  { across, down }: Axes,
  row: Atom | null,
): readonly Way[] {
  return across.atoms.map((column) => {
    const values = new Map(held).set(across.field, column.value);
    return wayOf(basis, handOff, down && row ? values.set(down.field, row.value) : values);
  });
}

/** A picture of its rows, neighbours that agree joined. */
export function joinWays({ across, down }: Axes, ways: readonly (readonly Way[])[]): WhichWay {
  const transposed = across.atoms.map((_, column) => ways.map((row) => row[column] as Way));
  const columns = merged(across.atoms, transposed);
  const lines = ways.map((row) => columns.map(({ first }) => row[first] as Way));
  const joined = merged(down?.atoms ?? [], lines);
  return { columns, rows: joined, ways: down ? joined.map(({ first }) => lines[first] as readonly Way[]) : lines };
}

/** Where the record goes with some values in the place of its own. Values of computed fields stand for what they would come to. */
export function wayOf(basis: Basis, handOff: CompiledHandOff, values: ReadonlyMap<string, Value>): Way {
  const form = formWith(basis, handOff, values);
  const { workflow, record, actor, outside } = basis;
  const { result, trace } = passOn(
    { workflow, record: { ...record, stage: handOff.handOff.from }, handOff, form, actor, outside },
    true,
  );
  const own = trace.filter(({ owner }) => owner === handOff.handOff.key);
  const clash = own.filter(({ outcome }) => outcome === 'clash').map(({ key }) => key);
  if (clash.length > 0) return { kind: 'clash', branches: clash };
  const taken = own.find(({ kind, outcome }) => (kind === 'branch' || kind === 'otherwise') && outcome === 'taken');
  if (taken) return taken.kind === 'otherwise' ? { kind: 'otherwise' } : { kind: 'branch', branch: taken.key };
  return result.ok ? { kind: 'otherwise' } : { kind: 'none' };
}

/** The form of the stage the hand-off leaves. Entered values are put in and all follows from them; computed ones are put over it. */
function formWith(
  { workflow, record, given, actor, outside }: Basis,
  { handOff }: CompiledHandOff,
  values: ReadonlyMap<string, Value>,
): Form {
  const { forms } = workflow;
  const [stored, input, due] = [[...given.stored], new Map(given.input), new Set(given.due)];
  const computed: [number, Value][] = [];
  for (const [key, value] of values) {
    const of = forms.fieldByKey.get(key);
    if (!of) continue;
    if (of.computes) computed.push([of.slot, value]);
    else {
      stored[of.slot] = value;
      input.set(of.slot, value);
      due.delete(of.slot);
    }
  }
  const at = { ...record, stage: handOff.from };
  const system = systemValues(forms, at, actor, outside);
  const form = evaluateForm(forms, handOff.from, { ...given, stored, input, due, system });
  const slots = [...form.frame.slots];
  for (const [slot, value] of computed) slots[slot] = value;
  return { ...form, frame: { ...form.frame, slots } };
}

/** Neighbours as one: their extent, and the value and place of the first. */
type Merged = Atom & { readonly first: number };

/** Joins neighbours of a cut that agree throughout into one extent. What has no order (codes, texts) stays apart. */
function merged(atoms: readonly Atom[], lines: readonly (readonly Way[])[]): readonly Merged[] {
  const found: Merged[] = [];
  atoms.forEach(({ extent, value }, index) => {
    const last = found.at(-1);
    const isSame = last !== undefined && sameWays(lines[last.first] ?? [], lines[index] ?? []);
    const joined = last && isSame ? join(last.extent, extent) : null;
    if (last && joined) found[found.length - 1] = { ...last, extent: joined };
    else found.push({ extent, value, first: index });
  });
  return found;
}

const sameWays = (a: readonly Way[], b: readonly Way[]): boolean => JSON.stringify(a) === JSON.stringify(b);

function join(a: Extent, b: Extent): Extent | null {
  const low = a.kind === 'range' ? a : { kind: 'range' as const, low: orderedIn(a), includesLow: true };
  if (a.kind === 'value' && low.low === null) return null;
  if (b.kind === 'range')
    return a.kind === 'value' || a.kind === 'range' ? { ...b, low: low.low, includesLow: low.includesLow } : null;
  const high = orderedIn(b);
  if (high === null || (a.kind !== 'value' && a.kind !== 'range')) return null;
  return { kind: 'range', low: low.low, includesLow: low.includesLow, high, includesHigh: true };
}

/** A single value that has neighbours: a number, a date, a time. */
const orderedIn = (extent: Extent): Value => (extent.kind === 'value' && typeof extent.value === 'object' ? extent.value : null);
