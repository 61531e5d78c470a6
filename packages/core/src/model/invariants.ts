import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { findSuggestion } from '../shared/suggestion.ts';
import { type TermCode, term } from '../shared/terms.ts';
import { fieldPath } from './field-path.ts';
import type { HandOff } from './flow.ts';
import type { FindDefinition } from './lookup.ts';
import { findField, findHandOff, findStage } from './lookup.ts';
import { joinPath, type Path, within } from './path.ts';
import { type KeyTarget, keyPropertyOf } from './shape.ts';
import { type Place, walkDefinition } from './walk.ts';
import type { Workflow } from './workflow.ts';

/**
 * What the shape alone can't say: keys are unique, everything named exists, kinds of stages fit their hand-offs.
 * Codes: those of {@link checkKeys}, `workflow/no-intake`, `workflow/leads-nowhere`, `workflow/junction-hand-off`,
 * `workflow/junction-part`, `workflow/end-hand-off`, `workflow/end-assignment`, `workflow/two-defaults`.
 */
export function checkInvariants(workflow: Workflow): readonly Diagnostic[] {
  const found: Diagnostic[] = [...checkKeys(workflow)];
  for (const stage of workflow.stages) {
    const path = joinPath('stages', stage.key);
    if (stage.kind === 'junction' && stage.assignment) found.push(junctionPart(stage.name, path, 'assignment'));
    if (stage.kind === 'junction' && stage.roles.length > 0) found.push(junctionPart(stage.name, path, 'roles'));
    if (stage.kind === 'end' && stage.assignment)
      found.push(diagnostic('workflow/end-assignment', within(path, 'assignment'), { stage: stage.name }));
  }
  for (const handOff of workflow.handOffs) {
    const path = joinPath('handOffs', handOff.key);
    found.push(...checkPlace(workflow, handOff, path), ...checkJunctionParts(workflow, handOff, path));
    if (handOff.acknowledgements.filter((one) => one.when === null).length > 1)
      found.push(diagnostic('workflow/two-defaults', within(path, 'acknowledgements'), { handOff: handOff.name }));
  }
  if (!workflow.stages.some((stage) => stage.kind === 'intake')) found.push(diagnostic('workflow/no-intake', 'stages', {}));
  for (const stage of workflow.stages) {
    const leaving = workflow.handOffs.filter((handOff) => handOff.from === stage.key).length;
    const path = joinPath('stages', stage.key);
    if (stage.kind === 'junction' && leaving !== 1)
      found.push(diagnostic('workflow/junction-hand-off', path, { stage: stage.name }));
    if (stage.kind === 'end' && leaving > 0) found.push(diagnostic('workflow/end-hand-off', path, { stage: stage.name }));
  }
  return found;
}

/**
 * That keys are unique in their lists and everything they name exists. Field keys and keys of decision tables are names of
 * one scope. Codes: `workflow/duplicate-key`, `workflow/unknown-key`, `workflow/unknown-key-near`.
 */
export function checkKeys(workflow: Workflow): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  const keysOf = makeKeys(workflow);
  const names = new Set(workflow.fields.map((field) => field.key));
  walkDefinition(workflow, {
    list: (list, kind, path) => {
      const seen = new Set<unknown>(kind === 'decision-table' ? names : []);
      for (const part of list) {
        const key = part[keyPropertyOf(kind)] as string;
        if (seen.has(key)) found.push(diagnostic('workflow/duplicate-key', within(path, key), { key }));
        seen.add(key);
      }
    },
    key: ({ of, key, path, place }) => {
      const known = of === 'input' || of === 'output' ? columnsOf(place, of) : keysOf[of];
      if (!known.has(key)) found.push(unknownKey(key, known, path, `part/${of}`));
      return key;
    },
  });
  return found;
}

type Keyed = readonly { readonly key: string }[];

/** The columns of a rule's table. */
function columnsOf({ owner }: Place, of: 'input' | 'output'): ReadonlySet<string> {
  const columns = (owner?.part[`${of}s`] ?? []) as Keyed;
  return new Set(columns.map(({ key }) => key));
}

/** The keys there are for what a key can name. */
function makeKeys(workflow: Workflow): Readonly<Record<Exclude<KeyTarget, 'input' | 'output'>, ReadonlySet<string>>> {
  const keys = (list: Keyed): ReadonlySet<string> => new Set(list.map((item) => item.key));
  const fields = keys(workflow.fields);
  const tables = workflow.fields.flatMap((field) => (field.type === 'table' ? [field] : []));
  return {
    role: keys(workflow.roles),
    section: keys(workflow.sections),
    track: keys(workflow.tracks),
    stage: keys(workflow.stages),
    'hand-off': keys(workflow.handOffs),
    field: fields,
    'table-field': keys(tables),
    'field-path': new Set([...fields, ...tables.flatMap((table) => table.fields.map((own) => fieldPath(table.key, own.key)))]),
  };
}

const junctionPart = (
  stage: string,
  path: Path,
  part: 'assignment' | 'roles' | 'offeredWhen' | 'acknowledgements' | 'checking',
) => diagnostic('workflow/junction-part', within(path, part), { stage, part: term(`property/${part}`) });

function unknownKey(key: string, among: ReadonlySet<string>, path: Path, what: TermCode): Diagnostic {
  const suggestion = findSuggestion(key, among);
  return suggestion
    ? diagnostic('workflow/unknown-key-near', path, { key, what: term(what), suggestion })
    : diagnostic('workflow/unknown-key', path, { key, what: term(what) });
}

/** What a junction's hand-off has and nobody would ever see. Its deliveries, set-values and follow-ups do happen. */
function checkJunctionParts(workflow: Workflow, handOff: HandOff, path: Path): readonly Diagnostic[] {
  const stage = findStage(workflow, handOff.from);
  if (stage?.kind !== 'junction') return [];
  const parts = [
    [handOff.offeredWhen !== null, 'offeredWhen'],
    [handOff.acknowledgements.length > 0, 'acknowledgements'],
    [handOff.checking !== 'full', 'checking'],
    [handOff.roles.length > 0, 'roles'],
  ] as const;
  return parts.flatMap(([isThere, part]) => (isThere ? [junctionPart(stage.name, path, part)] : []));
}

/**
 * That the workflows a definition refers to are there, with the hand-offs and fields it names of them.
 * Codes: `workflow/unknown-key`, `workflow/unknown-key-near`.
 */
export function checkNeighbours(workflow: Workflow, findDefinition: FindDefinition): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  const missing = (key: string, path: Path, what: TermCode, among: readonly string[] = []): void => {
    found.push(unknownKey(key, new Set(among), path, what));
  };
  for (const field of workflow.fields) {
    const path = joinPath('fields', field.key);
    const places = [
      [field, path] as const,
      ...(field.type === 'table' ? field.fields.map((own) => [own, within(path, 'fields', own.key)] as const) : []),
    ];
    for (const [own, at] of places) {
      if (own.type === 'reference' && !findDefinition(own.workflow))
        missing(own.workflow, within(at, 'workflow'), 'part/workflow');
    }
  }
  for (const handOff of workflow.handOffs) {
    for (const followUp of handOff.followUps) {
      const path = joinPath('handOffs', handOff.key, 'followUps', followUp.key);
      const target = findDefinition(followUp.workflow);
      if (!target) {
        missing(followUp.workflow, within(path, 'workflow'), 'part/workflow');
        continue;
      }
      const keys = target.fields.map((field) => field.key);
      const entry = findHandOff(target, followUp.handOff);
      if (!entry || findStage(target, entry.from)?.kind !== 'intake') {
        const entries = target.handOffs.map((one) => one.key);
        missing(followUp.handOff, within(path, 'handOff'), 'part/intake-hand-off', entries);
      }
      if (followUp.link !== null && findField(target, followUp.link)?.type !== 'reference')
        missing(followUp.link, within(path, 'link'), 'part/reference-field', keys);
      for (const set of followUp.carried) {
        if (!findField(target, set.field)) missing(set.field, within(path, 'carried', set.key, 'field'), 'part/field', keys);
      }
    }
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
