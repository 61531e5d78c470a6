import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { findSuggestion } from '../shared/suggestion.ts';
import type { Delivery, HandOff } from './flow.ts';
import type { FindDefinition } from './lookup.ts';
import { findField, findHandOff, findStage, findSubField } from './lookup.ts';
import type { Workflow } from './workflow.ts';

/**
 * What the shape alone can't say: keys are unique, everything named exists, kinds of stages fit their hand-offs.
 * Codes: `workflow/duplicate-key`, `workflow/unknown-key`, `workflow/unknown-key-near`, `workflow/no-intake`,
 * `workflow/leads-nowhere`, `workflow/junction-hand-off`, `workflow/junction-part`, `workflow/end-hand-off`,
 * `workflow/end-assignment`, `workflow/two-defaults`, `workflow/decision-rule-width`.
 */
export function checkInvariants(workflow: Workflow): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  const keys = <T extends { readonly key: string }>(list: readonly T[]): ReadonlySet<string> =>
    new Set(list.map((item) => item.key));
  const unique = (list: readonly { readonly key: string }[], path: string): void => {
    const seen = new Set<string>();
    list.forEach(({ key }, index) => {
      if (seen.has(key)) found.push(diagnostic('workflow/duplicate-key', `${path}.${index}.key`, { key }));
      seen.add(key);
    });
  };
  const known = (key: string | null, among: ReadonlySet<string>, path: string, what: string): void => {
    if (key !== null && !among.has(key)) found.push(unknownKey(key, among, path, what));
  };

  const [roles, sections, fields] = [keys(workflow.roles), keys(workflow.sections), keys(workflow.fields)];
  const [tracks, stages] = [keys(workflow.tracks), keys(workflow.stages)];
  const isFieldPath = (path: string): boolean => fields.has(path) || findSubField(workflow, path) !== null;

  for (const part of ['roles', 'sections', 'tracks', 'stages', 'adjustments', 'handOffs', 'checks'] as const)
    unique(workflow[part], part);
  unique([...workflow.fields, ...workflow.decisionTables], 'fields');

  workflow.fields.forEach((field, index) => {
    known(field.section, sections, `fields.${index}.section`, 'section');
    field.confidentialTo.forEach((role, at) => known(role, roles, `fields.${index}.confidentialTo.${at}`, 'role'));
    if (field.type === 'member') known(field.role, roles, `fields.${index}.role`, 'role');
    if (field.type !== 'table') return;
    unique(field.fields, `fields.${index}.fields`);
    field.fields.forEach((own, at) => {
      if (own.type === 'member') known(own.role, roles, `fields.${index}.fields.${at}.role`, 'role');
    });
  });
  for (const path of Object.keys(workflow.submitterSees)) {
    if (!isFieldPath(path)) known(path, fields, `submitterSees.${path}`, 'field');
  }
  const deliveries = (list: readonly Delivery[], path: string): void =>
    list.forEach((delivery, at) => {
      delivery.to.forEach((recipient, to) => {
        if (recipient.kind === 'role') known(recipient.role, roles, `${path}.${at}.to.${to}.role`, 'role');
      });
    });
  workflow.stages.forEach((stage, index) => {
    stage.tracks.forEach((track, at) => known(track, tracks, `stages.${index}.tracks.${at}`, 'track'));
    stage.roles.forEach((role, at) => known(role, roles, `stages.${index}.roles.${at}`, 'role'));
    if (stage.assignment?.kind === 'role') known(stage.assignment.role, roles, `stages.${index}.assignment.role`, 'role');
    stage.onArrival.sets.forEach((set, at) => known(set.field, fields, `stages.${index}.onArrival.sets.${at}.field`, 'field'));
    deliveries(stage.onArrival.deliveries, `stages.${index}.onArrival.deliveries`);
    if (stage.kind === 'junction' && stage.assignment)
      found.push(diagnostic('workflow/junction-part', `stages.${index}.assignment`, { stage: stage.name, part: 'assignment' }));
    if (stage.kind === 'junction' && stage.roles.length > 0)
      found.push(diagnostic('workflow/junction-part', `stages.${index}.roles`, { stage: stage.name, part: 'roles' }));
    if (stage.kind === 'end' && stage.assignment)
      found.push(diagnostic('workflow/end-assignment', `stages.${index}.assignment`, { stage: stage.name }));
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
    deliveries(handOff.deliveries, `${path}.deliveries`);
    handOff.followUps.forEach((followUp, at) => known(followUp.perRow, fields, `${path}.followUps.${at}.perRow`, 'table field'));
    found.push(...checkPlace(workflow, handOff, path), ...checkJunctionParts(workflow, handOff, path));
    if (handOff.acknowledgements.filter((one) => one.when === null).length > 1)
      found.push(diagnostic('workflow/two-defaults', `${path}.acknowledgements`, { handOff: handOff.name }));
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

function unknownKey(key: string, among: ReadonlySet<string>, path: string, what: string): Diagnostic {
  const suggestion = findSuggestion(key, among);
  return suggestion
    ? diagnostic('workflow/unknown-key-near', path, { key, what, suggestion })
    : diagnostic('workflow/unknown-key', path, { key, what });
}

/** What a junction's hand-off has and nobody would ever see. Its deliveries, set-values and follow-ups do happen. */
function checkJunctionParts(workflow: Workflow, handOff: HandOff, path: string): readonly Diagnostic[] {
  const stage = findStage(workflow, handOff.from);
  if (stage?.kind !== 'junction') return [];
  const parts: readonly (readonly [boolean, string, string])[] = [
    [handOff.offeredWhen !== null, 'offeredWhen', '“offered when”'],
    [handOff.acknowledgements.length > 0, 'acknowledgements', 'acknowledgement'],
    [handOff.checking !== 'full', 'checking', 'checking'],
    [handOff.roles.length > 0, 'roles', 'roles'],
  ];
  return parts.flatMap(([isThere, key, part]) =>
    isThere ? [diagnostic('workflow/junction-part', `${path}.${key}`, { stage: stage.name, part })] : [],
  );
}

/**
 * That the workflows a definition refers to are there, with the hand-offs and fields it names of them.
 * Codes: `workflow/unknown-key`, `workflow/unknown-key-near`.
 */
export function checkNeighbours(workflow: Workflow, findDefinition: FindDefinition): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  const missing = (key: string, path: string, what: string, among: readonly string[] = []): void => {
    found.push(unknownKey(key, new Set(among), path, what));
  };
  workflow.fields.forEach((field, index) => {
    const places = [
      [field, `fields.${index}`] as const,
      ...(field.type === 'table' ? field.fields.map((own, at) => [own, `fields.${index}.fields.${at}`] as const) : []),
    ];
    for (const [own, path] of places) {
      if (own.type === 'reference' && !findDefinition(own.workflow)) missing(own.workflow, `${path}.workflow`, 'workflow');
    }
  });
  workflow.handOffs.forEach((handOff, index) =>
    handOff.followUps.forEach((followUp, at) => {
      const path = `handOffs.${index}.followUps.${at}`;
      const target = findDefinition(followUp.workflow);
      if (!target) return missing(followUp.workflow, `${path}.workflow`, 'workflow');
      const keys = target.fields.map((field) => field.key);
      const entry = findHandOff(target, followUp.handOff);
      if (!entry || findStage(target, entry.from)?.kind !== 'intake')
        missing(
          followUp.handOff,
          `${path}.handOff`,
          'hand-off of an intake',
          target.handOffs.map((one) => one.key),
        );
      if (followUp.link !== null && findField(target, followUp.link)?.type !== 'reference')
        missing(followUp.link, `${path}.link`, 'reference field', keys);
      followUp.carried.forEach((set, place) => {
        if (!findField(target, set.field)) missing(set.field, `${path}.carried.${place}.field`, 'field', keys);
      });
    }),
  );
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
