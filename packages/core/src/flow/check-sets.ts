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
import { isList, type Value } from '../values/value.ts';
import { ORDINARY_CALENDAR } from '../values/working-calendar.ts';
import type { CompiledSet, CompiledWorkflow } from './compiled-workflow.ts';
import { placesAtMost } from './decimal-places.ts';

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
 * Warns of computed numbers that can have more decimal places than their field takes. Unlike a set-value, such a value is not
 * rounded: it refuses everybody who hands the record on, and nobody at a form can mend it. Code: `computed/scale`.
 */
export function checkComputed({ forms }: Checked): readonly Diagnostic[] {
  const check = (
    field: Field | SubField,
    computes: CompiledExpression | null,
    path: string,
    columns: readonly SubField[],
  ): readonly Diagnostic[] => {
    if (!computes?.checked || (field.type !== 'number' && field.type !== 'money')) return [];
    const places = placesAtMost(computes.checked.node, computes.checked, forms, columns);
    if (places === null || places <= field.scale) return [];
    return [diagnostic('computed/scale', within(path, 'expression'), { field: field.name, scale: field.scale })];
  };
  return forms.fields.flatMap((of) => {
    const path = joinPath('fields', of.field.key);
    const columns = of.subFields.map(({ field }) => field);
    return [
      ...check(of.field, of.computes, path, []),
      ...of.subFields.flatMap(({ field, computes }) => check(field, computes, within(path, 'fields', field.key), columns)),
    ];
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
