import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { findSuggestion } from '../shared/suggestion.ts';
import type { HandOff } from './flow.ts';
import { findSubField } from './lookup.ts';
import type { Workflow } from './workflow.ts';

/**
 * What the shape alone can't say: keys are unique, everything named exists, kinds of stages fit their hand-offs.
 * Codes: `workflow/duplicate-key`, `workflow/unknown-key`, `workflow/unknown-key-near`, `workflow/no-intake`,
 * `workflow/leads-nowhere`, `workflow/junction-hand-off`, `workflow/end-hand-off`, `workflow/decision-rule-width`.
 */
export function checkInvariants(workflow: Workflow): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  const keys = <T extends { readonly key: string }>(list: readonly T[]): readonly string[] => list.map((item) => item.key);
  const unique = (list: readonly { readonly key: string }[], path: string): void => {
    const seen = new Set<string>();
    list.forEach(({ key }, index) => {
      if (seen.has(key)) found.push(diagnostic('workflow/duplicate-key', `${path}.${index}.key`, { key }));
      seen.add(key);
    });
  };
  const known = (key: string | null, among: readonly string[], path: string, what: string): void => {
    if (key === null || among.includes(key)) return;
    const suggestion = findSuggestion(key, among);
    found.push(
      suggestion
        ? diagnostic('workflow/unknown-key-near', path, { key, what, suggestion })
        : diagnostic('workflow/unknown-key', path, { key, what }),
    );
  };

  const [roles, sections, fields] = [keys(workflow.roles), keys(workflow.sections), keys(workflow.fields)];
  const [tracks, stages] = [keys(workflow.tracks), keys(workflow.stages)];
  const isFieldPath = (path: string): boolean => fields.includes(path) || findSubField(workflow, path) !== null;

  for (const part of ['roles', 'sections', 'tracks', 'stages', 'adjustments', 'handOffs', 'checks'] as const)
    unique(workflow[part], part);
  unique([...workflow.fields, ...workflow.decisionTables], 'fields');

  workflow.fields.forEach((field, index) => {
    known(field.section, sections, `fields.${index}.section`, 'section');
    field.confidentialTo.forEach((role, at) => known(role, roles, `fields.${index}.confidentialTo.${at}`, 'role'));
    if (field.type === 'table') unique(field.fields, `fields.${index}.fields`);
  });
  workflow.stages.forEach((stage, index) => {
    stage.tracks.forEach((track, at) => known(track, tracks, `stages.${index}.tracks.${at}`, 'track'));
    stage.roles.forEach((role, at) => known(role, roles, `stages.${index}.roles.${at}`, 'role'));
    if (stage.assignment?.kind === 'role') known(stage.assignment.role, roles, `stages.${index}.assignment.role`, 'role');
    stage.onArrival.sets.forEach((set, at) => known(set.field, fields, `stages.${index}.onArrival.sets.${at}.field`, 'field'));
  });
  for (const [path, cells] of Object.entries(workflow.plan)) {
    if (!isFieldPath(path)) known(path, fields, `plan.${path}`, 'field');
    for (const stage of Object.keys(cells)) known(stage, stages, `plan.${path}.${stage}`, 'stage');
  }
  workflow.adjustments.forEach((adjustment, index) => {
    adjustment.stages.forEach((stage, at) => known(stage, stages, `adjustments.${index}.stages.${at}`, 'stage'));
    adjustment.sections.forEach((section, at) => known(section, sections, `adjustments.${index}.sections.${at}`, 'section'));
    adjustment.fields.forEach((path, at) => {
      if (!isFieldPath(path)) known(path, fields, `adjustments.${index}.fields.${at}`, 'field');
    });
  });
  workflow.checks.forEach((check, index) => {
    check.stages.forEach((stage, at) => known(stage, stages, `checks.${index}.stages.${at}`, 'stage'));
    known(check.field, fields, `checks.${index}.field`, 'field');
  });
  workflow.decisionTables.forEach((table, index) => {
    unique(table.outputs, `decisionTables.${index}.outputs`);
    table.rules.forEach((rule, at) => {
      if (rule.when.length !== table.inputs.length || rule.then.length !== table.outputs.length) {
        found.push(
          diagnostic('workflow/decision-rule-width', `decisionTables.${index}.rules.${at}`, { table: table.name, rule: at + 1 }),
        );
      }
    });
  });
  workflow.handOffs.forEach((handOff, index) => {
    const path = `handOffs.${index}`;
    known(handOff.from, stages, `${path}.from`, 'stage');
    handOff.roles.forEach((role, at) => known(role, roles, `${path}.roles.${at}`, 'role'));
    unique(handOff.branches, `${path}.branches`);
    handOff.branches.forEach((branch, at) => {
      known(branch.to, stages, `${path}.branches.${at}.to`, 'stage');
      known(branch.track, tracks, `${path}.branches.${at}.track`, 'track');
    });
    known(handOff.otherwise?.to ?? null, stages, `${path}.otherwise.to`, 'stage');
    known(handOff.otherwise?.track ?? null, tracks, `${path}.otherwise.track`, 'track');
    handOff.sets.forEach((set, at) => known(set.field, fields, `${path}.sets.${at}.field`, 'field'));
    handOff.deliveries.forEach((delivery, at) => {
      delivery.to.forEach((recipient, to) => {
        if (recipient.kind === 'role') known(recipient.role, roles, `${path}.deliveries.${at}.to.${to}.role`, 'role');
      });
    });
    handOff.followUps.forEach((followUp, at) => known(followUp.perRow, fields, `${path}.followUps.${at}.perRow`, 'table field'));
    found.push(...checkPlace(workflow, handOff, path));
  });
  if (!workflow.stages.some((stage) => stage.kind === 'intake')) found.push(diagnostic('workflow/no-intake', 'stages', {}));
  for (const [index, stage] of workflow.stages.entries()) {
    const leaving = workflow.handOffs.filter((handOff) => handOff.from === stage.key).length;
    if (stage.kind === 'junction' && leaving !== 1)
      found.push(diagnostic('workflow/junction-hand-off', `stages.${index}`, { stage: stage.name }));
    if (stage.kind === 'end' && leaving > 0)
      found.push(diagnostic('workflow/end-hand-off', `stages.${index}`, { stage: stage.name }));
  }
  return found;
}

function checkPlace(workflow: Workflow, handOff: HandOff, path: string): readonly Diagnostic[] {
  if (handOff.branches.length === 0 && handOff.otherwise === null) {
    return [diagnostic('workflow/leads-nowhere', path, { handOff: handOff.name })];
  }
  const intakes = new Set(workflow.stages.filter((stage) => stage.kind === 'intake').map((stage) => stage.key));
  return handOff.otherwise === null &&
    handOff.branches.every((branch) => branch.to === handOff.from) &&
    !intakes.has(handOff.from)
    ? [diagnostic('workflow/leads-nowhere', path, { handOff: handOff.name })]
    : [];
}
