import { parseExpression } from '../expressions/parse.ts';
import { canBeEntered } from '../forms/compiled-forms.ts';
import { defaultOf, isComputed } from '../model/computed.ts';
import type { Delivery, FileDelivery, FollowUp, MailDelivery, WebDelivery } from '../model/consequence.ts';
import type { Field } from '../model/field.ts';
import type { HandOff, Stage } from '../model/flow.ts';
import { destinationsOf, findField, findHandOff, findStage, plannedTreatment } from '../model/lookup.ts';
import { joinPath, type Path, within } from '../model/path.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { isConnectionHeader } from '../values/http-headers.ts';
import { isMailAddress } from '../values/mail-address.ts';
import { isAllowedPage } from '../values/next-page.ts';
import { checkOpenings, type Openings } from './check-openings.ts';
import type { CompiledFollowUp, CompiledWorkflow } from './compiled-workflow.ts';
import { isKeptBack } from './follow-ups.ts';
import { canBeAnswered } from './take-answer.ts';

type Checked = Pick<CompiledWorkflow, 'definition' | 'forms' | 'stages' | 'handOffs' | 'findWorkflow'>;

/**
 * What would go wrong with what hand-offs send and open, as far as the design tells.
 * Codes: `delivery/…`, `answer/…`, `follow-up/…`.
 */
export function checkConsequences(workflow: Checked): readonly Diagnostic[] {
  const { definition } = workflow;
  const carries = definition.handOffs.some(({ followUps }) => followUps.some(({ carried }) => carried.length > 0));
  const idle = carries ? [] : definition.handOffs.filter(({ refreshesCarried }) => refreshesCarried);
  return [
    ...idle.map(({ key, name }) =>
      diagnostic('follow-up/none-to-refresh', joinPath('handOffs', key, 'refreshesCarried'), { handOff: name }),
    ),
    ...definition.handOffs.flatMap((handOff) => {
      const path = joinPath('handOffs', handOff.key);
      const stages = restsOf(definition, handOff);
      return [
        ...handOff.deliveries.flatMap((one) => checkDelivery(workflow, one, within(path, 'deliveries', one.key), stages)),
        ...handOff.followUps.flatMap((one) => checkFollowUp(workflow, handOff, one, within(path, 'followUps', one.key))),
      ];
    }),
    ...definition.stages.flatMap((stage) =>
      deliveriesAt(stage).flatMap(({ delivery, path }) => checkDelivery(workflow, delivery, path, [stage])),
    ),
  ];
}

/** Where a record can rest after a hand-off while an answer comes: junctions are passed. */
const restsOf = (definition: Workflow, handOff: HandOff): readonly Stage[] =>
  destinationsOf(handOff)
    .flatMap(({ to }) => findStage(definition, to) ?? [])
    .filter(({ kind }) => kind !== 'junction');

function checkDelivery(workflow: Checked, delivery: Delivery, path: Path, rests: readonly Stage[]): readonly Diagnostic[] {
  switch (delivery.kind) {
    case 'mail':
      return checkMail(workflow, delivery, path);
    case 'file': {
      const found: Diagnostic[] = [];
      const params = { delivery: delivery.name };
      if (delivery.fileName.trim() === '') found.push(diagnostic('delivery/no-file-name', within(path, 'fileName'), params));
      if (delivery.format === 'pdf' && delivery.body.trim() === '')
        found.push(diagnostic('delivery/blank', within(path, 'body'), params));
      return delivery.format === 'json' ? [...found, ...checkProperties(delivery, path)] : found;
    }
    case 'web':
      return [
        ...(delivery.encoding === 'json' ? checkProperties(delivery, path) : []),
        ...delivery.headers.flatMap(({ key, name }) =>
          isConnectionHeader(name)
            ? [diagnostic('delivery/connection-header', within(path, 'headers', key), { delivery: delivery.name, header: name })]
            : [],
        ),
        ...delivery.answers.flatMap((answer) => checkAnswer(workflow, answer, within(path, 'answers', answer.key), rests)),
      ];
    default:
      return delivery satisfies never;
  }
}

/** Properties that stand in each other's place: `a` beside `a.b`, or the same name twice. One of them would be lost. */
function checkProperties({ name, properties }: WebDelivery | FileDelivery, path: Path): readonly Diagnostic[] {
  return properties.flatMap((one, index) => {
    const other = properties.find(
      (own, at) => (at < index && own.name === one.name) || (own !== one && one.name.startsWith(`${own.name}.`)),
    );
    const params = { delivery: name, property: one.name, other: other?.name ?? '' };
    return other ? [diagnostic('delivery/properties-cross', within(path, 'properties', one.key), params)] : [];
  });
}

/** Mails that say nothing, and receivers that are no addresses whatever the record holds. */
function checkMail({ forms }: Checked, delivery: MailDelivery, path: Path): readonly Diagnostic[] {
  const { name, subject, body, attach, attachFiles } = delivery;
  const isEmpty = subject.trim() === '' && body.trim() === '' && attach === 'nothing' && !attachFiles;
  const found: Diagnostic[] = isEmpty ? [diagnostic('delivery/blank-mail', within(path, 'body'), { delivery: name })] : [];
  for (const list of ['to', 'cc', 'bcc', 'replyTo'] as const)
    for (const one of delivery[list]) {
      const at = within(path, list, one.key);
      if (one.kind === 'address' && !isMailAddress(one.address))
        found.push(diagnostic('delivery/no-address', within(at, 'address'), { delivery: name, address: one.address }));
      if (one.kind !== 'expression') continue;
      const parsed = parseExpression(one.expression);
      const node = parsed.ok ? parsed.value : null;
      const params = { delivery: name, address: one.expression };
      if (node?.kind === 'text' && !isMailAddress(node.value.trim()))
        found.push(diagnostic('delivery/no-address', within(at, 'expression'), params));
      const field = forms.fieldByKey.get(one.expression.trim())?.field;
      if (field?.type === 'member')
        found.push(diagnostic('delivery/member-as-address', within(at, 'expression'), { ...params, field: field.name }));
      else if (field?.type === 'choice' || field?.type === 'multi-choice')
        found.push(diagnostic('delivery/no-address', within(at, 'expression'), params));
    }
  return found;
}

/** An answer goes to fields that nobody enters where the record is by then. */
function checkAnswer(
  { forms }: Checked,
  { field: key }: { readonly field: string },
  path: Path,
  rests: readonly Stage[],
): readonly Diagnostic[] {
  const of = forms.fieldByKey.get(key);
  if (!of) return [];
  const field = of.field.name;
  if (of.computes || !canBeAnswered(of.field)) return [diagnostic('answer/no-place', path, { field })];
  const stage = rests.find((one) => {
    const step = forms.stageForm(one.key).fieldSteps.get(key);
    return step !== undefined && canBeEntered(step.placement);
  });
  return stage ? [diagnostic('answer/entered-there', path, { field, stage: stage.name })] : [];
}

function checkFollowUp(workflow: Checked, handOff: HandOff, followUp: FollowUp, path: Path): readonly Diagnostic[] {
  const { findWorkflow, handOffs } = workflow;
  const target = findWorkflow(followUp.workflow);
  if (!target) return [];
  const compiled = handOffs.get(handOff.key)?.followUps.find((one) => one.followUp.key === followUp.key);
  const name = followUp.name;
  const files = (compiled?.carried ?? []).flatMap(({ set, field }) =>
    field && isKeptBack(field, followUp.carriesFiles)
      ? [diagnostic('follow-up/keeps-files', within(path, 'carried', set.key), { field: field.name, followUp: name })]
      : [],
  );
  const role = followUp.assignee?.kind === 'role' ? followUp.assignee.role : null;
  const lacking = lackingIn(target, followUp, compiled);
  return [
    ...files,
    ...(role !== null && !target.roles.some(({ key }) => key === role)
      ? [diagnostic('follow-up/unknown-role', within(path, 'assignee'), { role, workflow: target.name })]
      : []),
    ...(lacking.length > 0
      ? [diagnostic('follow-up/lacks', path, { followUp: name, fields: lacking.map((field) => field.name) })]
      : []),
  ];
}

/** What the target's form of entry requires and nothing gives it, so that every such record waits at its intake. */
function lackingIn(target: Workflow, followUp: FollowUp, compiled: CompiledFollowUp | undefined): readonly Field[] {
  const entry = findHandOff(target, followUp.handOff);
  const given = new Set([...(compiled?.carried ?? []).map(({ set }) => set.field), followUp.link]);
  if (!entry || entry.checking === 'none') return [];
  return target.fields.filter(
    (field) =>
      plannedTreatment(target, field.key, entry.from) === 'required' &&
      !isComputed(field) &&
      defaultOf(field) === null &&
      !given.has(field.key),
  );
}

/** What a workspace has that designs name: outlets by key with their kind, and the members there are. */
export type Surroundings = {
  /** Outlets by their keys, with their kinds. */
  readonly outlets: readonly (readonly [key: string, kind: Delivery['kind']])[];
  /** Members by their ids; null where whoever asks looks for them otherwise. */
  readonly members: readonly string[] | null;
  /** Pages that answers may lead to. */
  readonly nextPages: readonly string[];
  /** What the workspace's workflows open elsewhere: those that are published, and those that are published along with this. */
  readonly openings: readonly Openings[];
};

/**
 * That the outlets, members and pages a design names are there, and that its follow-ups go well with those of other workflows.
 * Codes: `delivery/unknown-outlet`, `delivery/other-outlet`, `delivery/unknown-member`, `set/unknown-member`,
 * `answer/next-page`, and those of `checkOpenings`.
 */
export function checkSurroundings(definition: Workflow, surroundings: Surroundings): readonly Diagnostic[] {
  const outlets = new Map(surroundings.outlets);
  const members = surroundings.members && new Set(surroundings.members);
  const found: Diagnostic[] = [...checkOpenings(definition, surroundings.openings)];
  for (const { delivery, path } of deliveriesOf(definition)) {
    const params = { delivery: delivery.name, outlet: delivery.outlet };
    const kind = outlets.get(delivery.outlet);
    if (kind === undefined) found.push(diagnostic('delivery/unknown-outlet', within(path, 'outlet'), params));
    else if (kind !== delivery.kind) found.push(diagnostic('delivery/other-outlet', within(path, 'outlet'), params));
    if (delivery.kind !== 'mail' || !members) continue;
    for (const list of ['to', 'cc', 'bcc', 'replyTo'] as const)
      for (const one of delivery[list])
        if (one.kind === 'member' && !members.has(one.member))
          found.push(diagnostic('delivery/unknown-member', within(path, list, one.key), { delivery: delivery.name }));
  }
  if (members) found.push(...checkMembersSet(definition, members));
  for (const { key, acknowledgements } of definition.handOffs)
    for (const one of acknowledgements) {
      // What values come to isn't known: what stands before the first of them must settle where it leads.
      const [before = '', ...values] = one.next.trim().split('{{');
      if (before === '' && values.length === 0) continue;
      if (isAllowedPage(values.length > 0 ? `${before}x` : before, surroundings.nextPages)) continue;
      const path = joinPath('handOffs', key, 'acknowledgements', one.key, 'next');
      found.push(diagnostic('answer/next-page', path, { address: before }));
    }
  return found;
}

/** Members that set-values name in quotes, by their ids: a name, or an id that nobody has, would be stored as if it were one. */
function checkMembersSet(definition: Workflow, members: ReadonlySet<string>): readonly Diagnostic[] {
  const lists = [
    ...definition.handOffs.map(({ key, sets }) => [sets, joinPath('handOffs', key, 'sets')] as const),
    ...definition.stages.map(({ key, onArrival }) => [onArrival.sets, joinPath('stages', key, 'onArrival', 'sets')] as const),
  ];
  return lists.flatMap(([sets, path]) =>
    sets.flatMap(({ key, field, value }) => {
      const target = findField(definition, field);
      const parsed = target?.type === 'member' ? parseExpression(value) : null;
      const isUnknown = parsed?.ok && parsed.value.kind === 'text' && !members.has(parsed.value.value);
      return isUnknown && target ? [diagnostic('set/unknown-member', within(path, key, 'value'), { field: target.name })] : [];
    }),
  );
}

type DeliveryAt = { readonly delivery: Delivery; readonly path: Path };

const placed = (deliveries: readonly Delivery[], ...list: readonly string[]): readonly DeliveryAt[] =>
  deliveries.map((delivery) => ({ delivery, path: joinPath(...list, delivery.key) }));

/** The deliveries of a stage with their paths: those on arrival, then those of its reminders. */
const deliveriesAt = ({ key, onArrival, reminders }: Stage): readonly DeliveryAt[] => [
  ...placed(onArrival.deliveries, 'stages', key, 'onArrival', 'deliveries'),
  ...reminders.flatMap((one) => placed(one.deliveries, 'stages', key, 'reminders', one.key, 'deliveries')),
];

/** Every delivery of a definition with its path: those of hand-offs, then those of stages. */
export const deliveriesOf = (definition: Workflow): readonly DeliveryAt[] => [
  ...definition.handOffs.flatMap(({ key, deliveries }) => placed(deliveries, 'handOffs', key, 'deliveries')),
  ...definition.stages.flatMap(deliveriesAt),
];
