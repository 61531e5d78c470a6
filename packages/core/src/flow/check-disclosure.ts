import type { CheckedExpression } from '../expressions/check.ts';
import type { CompiledCondition, CompiledExpression } from '../expressions/compiler.ts';
import { namesReadBy } from '../expressions/rewrite.ts';
import { canBeEntered, canBeShown } from '../forms/compiled-forms.ts';
import { areWithin, isReader, type Readers } from '../forms/readers.ts';
import { isDisclosed } from '../model/computed.ts';
import type { Field } from '../model/field.ts';
import { joinPath } from '../model/path.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { type Term, term } from '../shared/terms.ts';
import type { CompiledLine, CompiledTemplate, TemplatePart } from '../templates/compile-template.ts';
import type { CompiledDelivery, CompiledFile, CompiledSet, CompiledWeb, CompiledWorkflow } from './compiled-workflow.ts';

export type Checked = Pick<CompiledWorkflow, 'definition' | 'forms' | 'stages' | 'handOffs' | 'findWorkflow'>;

/**
 * Where values could reach people who may not read what they are made from: fields that disclose, set and carried values,
 * texts that stay empty for some of their readers, and conditions by which a hidden value could be searched for.
 * Codes: `readers/…`.
 */
export function checkDisclosure(workflow: Checked): readonly Diagnostic[] {
  const isOpen = workflow.definition.fields.every((field) => field.confidentialTo.length === 0);
  const searchable = findSearchable(workflow);
  if (isOpen) return searchable;
  return [...findDisclosing(workflow), ...findLeaks(workflow), ...findWithheld(workflow), ...findDue(workflow), ...searchable];
}

/** Due dates that are made from confidential values: whoever sees the record sees them. */
function findDue(workflow: Checked): readonly Diagnostic[] {
  const { readers } = workflow.forms;
  return [...workflow.stages.values()].flatMap(({ stage, due }) => {
    if (!due || readers.ofExpression(due.checked).length === 0) return [];
    const sources = readers.sourcesOf(due.checked).map((key) => nameOf(workflow, key));
    return [diagnostic('readers/due', due.path, { stage: stage.name, sources })];
  });
}

const nameOf = ({ forms }: Checked, key: string): string => forms.fieldByKey.get(key)?.field.name ?? key;

function findDisclosing(workflow: Checked): readonly Diagnostic[] {
  const { readers } = workflow.forms;
  return workflow.forms.fields.flatMap((of) => {
    const whole = { of: of.field, computes: of.computes, path: joinPath('fields', of.field.key), table: undefined };
    const cells = of.subFields.map(({ field, computes }) => ({
      of: field,
      computes,
      path: joinPath('fields', of.field.key, 'fields', field.key),
      table: of.field.key,
    }));
    return [whole, ...cells].flatMap(({ of: field, computes, path, table }) => {
      const sources = isDisclosed(field) ? readers.sourcesOf(computes?.checked, table) : [];
      if (sources.length === 0) return [];
      const params = { field: field.name, sources: sources.map((key) => nameOf(workflow, key)) };
      return [diagnostic('readers/discloses', `${path}.discloses`, params)];
    });
  });
}

/** Set-values, defaults and carried values that give a confidential value to a field which others may read. */
function findLeaks(workflow: Checked): readonly Diagnostic[] {
  const { definition, stages, handOffs, findWorkflow } = workflow;
  const ofSets = (sets: readonly CompiledSet[]): readonly Diagnostic[] =>
    sets.flatMap(({ of, value }) => leak(workflow, of.field, value, undefined));
  const ofDefaults = workflow.forms.fields.flatMap(({ field, fills, subFields }) =>
    [fills, ...subFields.map((own) => own.fills)].flatMap((one) => (one ? leak(workflow, field, one, undefined) : [])),
  );
  return [
    ...ofDefaults,
    ...definition.stages.flatMap((stage) => ofSets(stages.get(stage.key)?.sets ?? [])),
    ...definition.handOffs.flatMap((handOff) => {
      const compiled = handOffs.get(handOff.key);
      const carried = (compiled?.followUps ?? []).flatMap(({ followUp, carried: list }) =>
        list.flatMap(({ field, value }) => {
          const isKnown = field !== null && findWorkflow(followUp.workflow) !== null;
          return isKnown ? leak(workflow, field, value, followUp.perRow ?? undefined) : [];
        }),
      );
      return [...ofSets(compiled?.sets ?? []), ...carried];
    }),
  ];
}

function leak(
  workflow: Checked,
  target: Field,
  { checked, path }: CompiledExpression,
  table: string | undefined,
): readonly Diagnostic[] {
  const { readers } = workflow.forms;
  const needed = readers.ofExpression(checked, table);
  const own: Readers = target.confidentialTo.length > 0 ? [target.confidentialTo] : [];
  if (needed.length === 0 || areWithin(own, needed)) return [];
  const sources = readers.sourcesOf(checked, table).map((key) => nameOf(workflow, key));
  const code = isDisclosed(target) ? 'readers/discloses' : 'readers/leak';
  return [diagnostic(code, path, { field: target.name, sources })];
}

/** Values in texts that stay empty, because somebody who gets the text may not read them. */
function findWithheld(workflow: Checked): readonly Diagnostic[] {
  const { definition, stages, handOffs } = workflow;
  const ofDeliveries = (deliveries: readonly CompiledDelivery[]): readonly Diagnostic[] =>
    deliveries.flatMap((one) => ofDelivery(workflow, one));
  return [
    ...definition.stages.flatMap(({ key }) => {
      const compiled = stages.get(key);
      return ofDeliveries([...(compiled?.deliveries ?? []), ...(compiled?.reminders.flatMap((one) => one.deliveries) ?? [])]);
    }),
    ...definition.handOffs.flatMap((handOff) => {
      const compiled = handOffs.get(handOff.key);
      const acting = handOff.roles.length > 0 ? handOff.roles : (stages.get(handOff.from)?.stage.roles ?? []);
      const actors: readonly Receiver[] =
        acting.length > 0 ? acting.map((role) => ({ kind: 'role', role })) : [{ kind: 'submitter' }];
      return [
        ...ofDeliveries(compiled?.deliveries ?? []),
        ...(compiled?.acknowledgements ?? []).flatMap(({ text }) =>
          withheld(workflow, text, (needed) => firstWithout(workflow, actors, needed)),
        ),
      ];
    }),
  ];
}

const logged = () => term('reader/dispatch-log');

/** Values that don't arrive with a delivery, and those that an outlet is given although others may not read them. */
function ofDelivery(workflow: Checked, compiled: CompiledDelivery): readonly Diagnostic[] {
  switch (compiled.kind) {
    case 'mail': {
      const { to, cc, bcc } = compiled.delivery;
      return [
        ...[...compiled.to, ...compiled.cc, ...compiled.bcc, ...compiled.replyTo].flatMap(({ expression }) =>
          expression ? addressed(workflow, expression) : [],
        ),
        ...[compiled.senderName, compiled.subject].flatMap((line) => withheld(workflow, line, logged)),
        ...withheld(workflow, compiled.body, (needed) => firstWithout(workflow, [...to, ...cc, ...bcc], needed)),
      ];
    }
    case 'web':
      return [
        ...withheld(workflow, compiled.address, logged),
        ...compiled.headers.flatMap(({ value }) => forOutlet(workflow, compiled, [...value.parts.values()])),
        ...forOutlet(workflow, compiled, compiled.properties.map(toPart)),
      ];
    case 'file':
      return [
        ...[compiled.folder, compiled.fileName].flatMap((line) => withheld(workflow, line, logged)),
        ...forOutlet(workflow, compiled, [...compiled.properties.map(toPart), ...compiled.body.parts.values()]),
      ];
    default:
      return compiled satisfies never;
  }
}

/** An address that is made from values which not everybody may read. */
function addressed(workflow: Checked, expression: CompiledExpression): readonly Diagnostic[] {
  const { readers } = workflow.forms;
  if (readers.ofExpression(expression.checked).length === 0) return [];
  const sources = readers.sourcesOf(expression.checked).map((key) => nameOf(workflow, key));
  return [diagnostic('readers/address', expression.path, { sources })];
}

type Part = Pick<TemplatePart, 'expression' | 'reads' | 'table'>;
const toPart = ({ value }: { readonly value: CompiledExpression }): Part => ({ expression: value, reads: 'value', table: null });

/** Returns the code of the warning: a withheld value stays empty, a passage under a withheld condition is left out. */
const withheldCode = ({ reads }: Part) => (reads === 'condition' ? 'readers/withheld-passage' : 'readers/withheld');

function forOutlet(workflow: Checked, { delivery }: CompiledWeb | CompiledFile, parts: readonly Part[]): readonly Diagnostic[] {
  const { readers } = workflow.forms;
  return parts.flatMap((part) => {
    const { expression, table } = part;
    const needed = readers.ofExpression(expression.checked, table ?? undefined);
    if (needed.length === 0) return [];
    const sources = readers.sourcesOf(expression.checked, table ?? undefined).map((key) => nameOf(workflow, key));
    return isReader(needed, delivery.readsAs)
      ? [diagnostic('readers/to-outlet', expression.path, { sources, outlet: delivery.outlet })]
      : [diagnostic(withheldCode(part), expression.path, { sources, who: term('reader/outlet', { outlet: delivery.outlet }) })];
  });
}

/** Who gets a text, or sees what comes of a condition, as far as a design says. */
export type Receiver =
  | { readonly kind: 'role'; readonly role: string }
  | { readonly kind: 'submitter' }
  | { readonly kind: 'member' | 'member-of' | 'role-of' }
  | { readonly kind: 'expression' | 'address' };

/** The first of those who get a text who may not read something. */
export function firstWithout({ definition }: Checked, recipients: readonly Receiver[], needed: Readers): string | Term | null {
  for (const recipient of recipients) {
    const roles = recipient.kind === 'role' ? [recipient.role] : [];
    if (isReader(needed, roles)) continue;
    if (recipient.kind === 'submitter') return term('reader/submitter');
    if (recipient.kind === 'expression' || recipient.kind === 'address') return term('reader/address');
    // What roles a member has, and which role an expression names, is known when it is sent.
    if (recipient.kind !== 'role') continue;
    return definition.roles.find(({ key }) => key === recipient.role)?.name ?? recipient.role;
  }
  return null;
}

function withheld(
  workflow: Checked,
  { parts }: CompiledTemplate | CompiledLine,
  without: (needed: Readers) => string | Term | null,
): readonly Diagnostic[] {
  const { readers } = workflow.forms;
  return [...parts.values()].flatMap((part) => {
    const { expression, table } = part;
    const needed = readers.ofExpression(expression.checked, table ?? undefined);
    const who = needed.length > 0 ? without(needed) : null;
    if (who === null) return [];
    const sources = readers.sourcesOf(expression.checked, table ?? undefined).map((key) => nameOf(workflow, key));
    return [diagnostic(withheldCode(part), expression.path, { sources, who })];
  });
}

/**
 * Conditions whose effect somebody sees at once, that put a field they enter beside a value they may not read: by trying
 * values they could search for it. Only what stands in one condition is looked at, computed fields followed.
 */
function findSearchable(workflow: Checked): readonly Diagnostic[] {
  const { definition, forms, handOffs } = workflow;
  const found: Diagnostic[] = [];
  for (const stage of definition.stages) {
    if (stage.kind === 'junction' || stage.kind === 'end') continue;
    const { fieldSteps, checks } = forms.stageForm(stage.key);
    const report = (condition: CompiledCondition | undefined, path: string): void => {
      const names = baseFields(workflow, condition?.expression?.checked);
      const entered = names.filter((key) => {
        const step = fieldSteps.get(key);
        return step !== undefined && canBeEntered(step.placement) && isReader(forms.readers.of(key), stage.roles);
      });
      const unread = names.filter((key) => {
        const step = fieldSteps.get(key);
        // Each role that acts here must be among the readers; a stage without roles is the submitter's, who has none.
        const mayReadAll = (stage.roles.length > 0 ? stage.roles : [null]).every((role) =>
          isReader(forms.readers.of(key), role === null ? [] : [role]),
        );
        return step !== undefined && (!canBeShown(step.placement) || !mayReadAll);
      });
      const [first] = entered.filter((key) => !unread.includes(key));
      if (first === undefined || unread.length === 0) return;
      const params = {
        stage: stage.name,
        entered: nameOf(workflow, first),
        fields: unread.map((key) => nameOf(workflow, key)),
      };
      if (!found.some((one) => one.path === path && one.params.stage === stage.name))
        found.push(diagnostic('readers/searchable', path, params));
    };
    for (const { adjustment, condition, rowConditions } of forms.adjustments) {
      if (adjustment.stages.length > 0 && !adjustment.stages.includes(stage.key)) continue;
      for (const one of [condition, ...rowConditions.values()]) report(one, joinPath('adjustments', adjustment.key, 'when'));
    }
    for (const { check, condition } of checks) report(condition, joinPath('checks', check.key, 'condition'));
    for (const handOff of definition.handOffs) {
      if (handOff.from === stage.key)
        report(handOffs.get(handOff.key)?.offered, joinPath('handOffs', handOff.key, 'offeredWhen'));
    }
  }
  return found;
}

/** The fields an expression reads that are not computed, through computed fields and decision tables. */
function baseFields({ forms }: Checked, checked: CheckedExpression | null | undefined): readonly string[] {
  const found = new Set<string>();
  const seen = new Set<string>();
  const follow = (one: CheckedExpression | null | undefined): void => {
    for (const name of one ? namesReadBy(one) : []) {
      if (seen.has(name)) continue;
      seen.add(name);
      const of = forms.fieldByKey.get(name);
      if (of?.computes) follow(of.computes.checked);
      else if (of) found.add(name);
      for (const inner of of ? [] : (forms.decisions.find(({ table }) => table.key === name)?.reads ?? [])) follow(inner);
    }
  };
  follow(checked);
  return [...found];
}
