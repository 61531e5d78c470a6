import type { CheckedExpression } from '../expressions/check.ts';
import type { CompiledExpression } from '../expressions/compiler.ts';
import { makeFrame } from '../expressions/frame.ts';
import { readsTheMoment, referencesOf } from '../expressions/rewrite.ts';
import { childrenOf, type Node } from '../expressions/tree.ts';
import { limitsBroken } from '../forms/validate-form.ts';
import { isComputed } from '../model/computed.ts';
import type { Field, SubField } from '../model/field.ts';
import { readGivenValue } from '../model/field-value.ts';
import { joinPath, within } from '../model/path.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { placesOf } from '../values/exact.ts';
import { isList, type Value } from '../values/value.ts';
import { ORDINARY_CALENDAR } from '../values/working-calendar.ts';
import type { CompiledSet, CompiledWorkflow } from './compiled-workflow.ts';

type Checked = Pick<CompiledWorkflow, 'definition' | 'forms' | 'stages' | 'handOffs'>;

/**
 * What defaults can't be: those of computed fields, values outside the field's limits, retired options.
 * Codes: `default/computed`, `default/beyond-limits`, `default/retired-option`, `default/rounded`.
 */
export function checkDefaults({ forms }: Checked): readonly Diagnostic[] {
  return forms.fields.flatMap((of) => {
    const path = joinPath('fields', of.field.key);
    const columns = of.subFields.map(({ field, fills }) => [field, fills, within(path, 'fields', field.key)] as const);
    return [[of.field, of.fills, path] as const, ...columns].flatMap(([field, fills, at]) => {
      const own = within(at, 'default');
      if (isComputed(field) && 'default' in field && field.default !== null)
        return [diagnostic('default/computed', own, { field: field.name })];
      return fills?.checked ? checkGiven('default', field, fills, fills.checked, own, forms) : [];
    });
  });
}

/**
 * What set-values can't do: set a computed field or a note, give a value outside the field's limits or a retired option.
 * A number that can have more places than its field is rounded, and that is said.
 * Codes: `set/computed`, `set/note`, `set/beyond-limits`, `set/retired-option`, `set/rounded`.
 */
export function checkSets({ definition, forms, stages, handOffs }: Checked): readonly Diagnostic[] {
  const lists = [
    ...definition.stages.map(
      (stage) => [stages.get(stage.key)?.sets ?? [], joinPath('stages', stage.key, 'onArrival', 'sets')] as const,
    ),
    ...definition.handOffs.map(
      (handOff) => [handOffs.get(handOff.key)?.sets ?? [], joinPath('handOffs', handOff.key, 'sets')] as const,
    ),
  ];
  return lists.flatMap(([sets, path]) => sets.flatMap((one) => checkSet(one, `${path}.${one.set.key}`, forms)));
}

function checkSet({ of, value }: CompiledSet, path: string, forms: CompiledWorkflow['forms']): readonly Diagnostic[] {
  const { field } = of;
  if (isComputed(field)) return [diagnostic('set/computed', `${path}.field`, { field: field.name })];
  if (field.type === 'note') return [diagnostic('set/note', `${path}.field`, { field: field.name })];
  return value.checked ? checkGiven('set', field, value, value.checked, `${path}.value`, forms) : [];
}

/** Whether what a field is given can have more places than it keeps, and whether a constant is one that it may have. */
function checkGiven(
  by: 'set' | 'default',
  field: Field | SubField,
  value: CompiledExpression,
  checked: CheckedExpression,
  path: string,
  forms: CompiledWorkflow['forms'],
): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  if (field.type === 'number' || field.type === 'money') {
    const places = placesAtMost(checked.node, checked, forms);
    if (places === null || places > field.scale)
      found.push(diagnostic(`${by}/rounded`, path, { field: field.name, scale: field.scale }));
  }
  return isConstant(checked) ? [...found, ...checkConstant(by, field, value.evaluate(emptyFrame()), path)] : found;
}

const emptyFrame = () => makeFrame([], { now: 0, zone: 'UTC', calendar: ORDINARY_CALENDAR });

/** Whether an expression gives the same whatever the record, the moment and the workspace. */
const isConstant = (checked: CheckedExpression): boolean =>
  referencesOf(checked).length === 0 && !readsTheMoment(checked.node) && !hasTemporal(checked.node);

const hasTemporal = (node: Node): boolean => node.kind === 'temporal' || childrenOf(node).some(hasTemporal);

function checkConstant(by: 'set' | 'default', field: Field | SubField, value: Value, path: string): readonly Diagnostic[] {
  const read = readGivenValue(field, value, { zone: 'UTC', findRecord: () => null });
  if (!read.ok) return [{ ...read.diagnostic, path }];
  const broken = limitsBroken(field, read.value, field.name).map(({ code, params }) =>
    diagnostic(`${by}/beyond-limits`, path, { field: field.name, code, ...params }),
  );
  if (field.type !== 'choice' && field.type !== 'multi-choice') return broken;
  const chosen = isList(read.value) ? read.value : [read.value];
  const retired = field.options.filter((option) => option.retired && chosen.includes(option.code));
  return [
    ...broken,
    ...retired.map((option) => diagnostic(`${by}/retired-option`, path, { field: field.name, option: option.label })),
  ];
}

/** The most decimal places a number can have; null where that can't be said. */
function placesAtMost(node: Node, checked: CheckedExpression, forms: CompiledWorkflow['forms']): number | null {
  const of = (inner: Node): number | null => placesAtMost(inner, checked, forms);
  const most = (parts: readonly (number | null)[]): number | null =>
    parts.reduce((a, b) => (a === null || b === null ? null : Math.max(a, b)), 0);
  switch (node.kind) {
    case 'null':
      return 0;
    case 'number':
      return placesOf(node.value);
    case 'name': {
      const field = checked.references.get(node)?.kind === 'slot' ? forms.fieldByKey.get(node.name)?.field : undefined;
      return field?.type === 'number' || field?.type === 'money' ? field.scale : null;
    }
    case 'path': {
      const table = node.of.kind === 'name' ? forms.fieldByKey.get(node.of.name)?.field : undefined;
      const own = table?.type === 'table' ? table.fields.find((field) => field.key === node.name) : undefined;
      return own?.type === 'number' || own?.type === 'money' ? own.scale : null;
    }
    case 'negate':
    case 'filter':
      return of(node.of);
    case 'list':
      return most(node.of.map(of));
    case 'if':
      return most([of(node.then), of(node.otherwise)]);
    case 'arithmetic': {
      const [left, right] = [of(node.left), of(node.right)];
      if (node.operator === '+' || node.operator === '-') return most([left, right]);
      return node.operator === '*' && left !== null && right !== null ? left + right : null;
    }
    case 'call':
      return placesOfCall(node, of, most);
    default:
      return null;
  }
}

const ROUNDING: ReadonlySet<string> = new Set([
  'decimal',
  'round up',
  'round down',
  'round half up',
  'round half down',
  'floor',
  'ceiling',
]);
const WHOLE: ReadonlySet<string> = new Set(['count', 'string length', 'day of year', 'week of year']);
const KEEPING: ReadonlySet<string> = new Set([
  'sum',
  'min',
  'max',
  'abs',
  'concatenate',
  'append',
  'sublist',
  'reverse',
  'union',
]);

function placesOfCall(
  node: Extract<Node, { kind: 'call' }>,
  of: (node: Node) => number | null,
  most: (parts: readonly (number | null)[]) => number | null,
): number | null {
  if (WHOLE.has(node.name)) return 0;
  if (KEEPING.has(node.name)) return most(node.of.map(of));
  if (!ROUNDING.has(node.name) || node.parameters) return null;
  const scale = node.of[1];
  if (!scale) return 0;
  return scale.kind === 'number' && scale.value.big === null && scale.value.scale === 0
    ? Math.max(0, scale.value.coefficient)
    : null;
}
