import type { CompiledCondition } from '../expressions/compiler.ts';
import { isReader, type Readers } from '../forms/readers.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { type Term, term } from '../shared/terms.ts';
import { type Checked, firstWithout, type Receiver } from './check-disclosure.ts';
import type { CompiledDelivery, CompiledHandOff } from './compiled-workflow.ts';

/**
 * Warns about conditions over a confidential value whose outcome is seen by somebody who may not read that value: where the
 * record goes, whether a field is asked for, whether a hand-off is offered or a mail comes tells them whether the condition
 * holds, which is a part of the value. Each condition is reported once, with the first who sees its outcome.
 * Code: `readers/tells`.
 */
export function checkTelling(workflow: Checked): readonly Diagnostic[] {
  if (workflow.definition.fields.every((field) => field.confidentialTo.length === 0)) return [];
  return [...ofForms(workflow), ...ofHandOffs(workflow), ...ofStages(workflow)];
}

/** A diagnostic if one of those who see the outcome of a condition may not read what it is over. */
function tells(
  { forms }: Checked,
  { expression }: CompiledCondition,
  whoOf: (needed: Readers) => string | Term | null,
): readonly Diagnostic[] {
  if (!expression) return [];
  const { checked, path } = expression;
  const needed = forms.readers.ofExpression(checked);
  const who = needed.length > 0 ? whoOf(needed) : null;
  if (who === null) return [];
  const sources = forms.readers.sourcesOf(checked).map((key) => forms.fieldByKey.get(key)?.field.name ?? key);
  return [diagnostic('readers/tells', path, { who, sources })];
}

/** Who acts at a stage: the holders of its roles, or the submitter where it has none. */
const toReceivers = (roles: readonly string[]): readonly Receiver[] =>
  roles.length > 0 ? roles.map((role) => ({ kind: 'role', role })) : [{ kind: 'submitter' }];

/** Adjustments and checks, whose outcome whoever acts at the stage sees in the form. */
function ofForms(workflow: Checked): readonly Diagnostic[] {
  const { definition, forms } = workflow;
  const working = definition.stages.filter(({ kind }) => kind === 'intake' || kind === 'work');
  const actorsAt = (stages: readonly string[]): readonly Receiver[] =>
    working.filter(({ key }) => stages.length === 0 || stages.includes(key)).flatMap(({ roles }) => toReceivers(roles));
  const ofAdjustments = forms.adjustments.flatMap(({ adjustment, condition, rowConditions }) => {
    const inSections = definition.fields.flatMap(({ key, section }) => (adjustment.sections.includes(section) ? [key] : []));
    // A cell of a table is named with its table, whose readers it has.
    const tables = adjustment.fields.map((path) => path.split('.')[0] ?? path);
    const touched = [...tables, ...inSections].map((field) => forms.readers.of(field));
    // Somebody who may read none of the fields that it treats sees nothing of it.
    const seeing = actorsAt(adjustment.stages).filter((actor) =>
      touched.some((readers) => isReader(readers, actor.kind === 'role' ? [actor.role] : [])),
    );
    return [condition, ...rowConditions.values()]
      .flatMap((one) => tells(workflow, one, (needed) => firstWithout(workflow, seeing, needed)))
      .slice(0, 1);
  });
  const ofChecks = [
    ...new Map(working.flatMap(({ key }) => forms.stageForm(key).checks.map((one) => [one.check.key, one]))),
  ].flatMap(([, { check, condition }]) =>
    tells(workflow, condition, (needed) => firstWithout(workflow, actorsAt(check.stages), needed)),
  );
  return [...ofAdjustments, ...ofChecks];
}

/** Conditions whose outcome the person who hands on sees: what is offered, where the record goes, what is answered, opened and sent. */
function ofHandOffs(workflow: Checked): readonly Diagnostic[] {
  return workflow.definition.handOffs.flatMap(({ key }) => {
    const compiled = workflow.handOffs.get(key);
    if (!compiled) return [];
    const actors = actorsOf(workflow, compiled, new Set());
    const seen = [
      compiled.offered,
      ...[...compiled.branches, ...compiled.acknowledgements, ...compiled.followUps].map(toCondition),
    ];
    return [
      ...seen.flatMap((one) => tells(workflow, one, (needed) => firstWithout(workflow, actors, needed))),
      ...ofDeliveries(workflow, compiled.deliveries),
    ];
  });
}

const toCondition = ({ condition }: { readonly condition: CompiledCondition }): CompiledCondition => condition;

/** Who sees where a hand-off leads: whoever may press it; for a junction's, whoever may press what leads there. */
function actorsOf(workflow: Checked, { handOff }: CompiledHandOff, seen: Set<string>): readonly Receiver[] {
  const { definition, stages, handOffs } = workflow;
  const from = stages.get(handOff.from)?.stage;
  if (from?.kind !== 'junction') return toReceivers(handOff.roles.length > 0 ? handOff.roles : (from?.roles ?? []));
  if (seen.has(from.key)) return [];
  seen.add(from.key);
  const leading = definition.handOffs.filter(
    ({ branches, otherwise }) => otherwise?.to === from.key || branches.some(({ to }) => to === from.key),
  );
  return leading.flatMap(({ key }) => {
    const compiled = handOffs.get(key);
    return compiled ? actorsOf(workflow, compiled, seen) : [];
  });
}

function ofStages(workflow: Checked): readonly Diagnostic[] {
  return workflow.definition.stages.flatMap(({ key }) => {
    const compiled = workflow.stages.get(key);
    const reminded = (compiled?.reminders ?? []).flatMap(({ deliveries }) => deliveries);
    return ofDeliveries(workflow, [...(compiled?.deliveries ?? []), ...reminded]);
  });
}

/** A delivery that comes, or doesn't, tells its receivers; a web endpoint or file register reads as its delivery says. */
function ofDeliveries(workflow: Checked, deliveries: readonly CompiledDelivery[]): readonly Diagnostic[] {
  return deliveries.flatMap(({ delivery, condition }) =>
    tells(workflow, condition, (needed) => {
      if (delivery.kind === 'mail') return firstWithout(workflow, [...delivery.to, ...delivery.cc, ...delivery.bcc], needed);
      return isReader(needed, delivery.readsAs) ? null : term('reader/outlet', { outlet: delivery.outlet });
    }),
  );
}
