import {
  type CompiledWorkflow,
  type HandedOn,
  type HandOffReason,
  joinPath,
  type Path,
  type Replay,
  type Workflow,
  within,
} from '@ypomet/core';
import { sayOffset } from './offset-words.ts';

export type ItemKind = 'answer' | 'mail' | 'web' | 'file' | 'record' | 'assign' | 'due';

/** Something that happens at a hand-off or on arrival. */
export type Item = {
  readonly path: Path;
  readonly kind: ItemKind;
  readonly name: string;
  readonly when: string | null;
  /** Its key in its list. */
  readonly key: string;
  readonly owner: Owner;
  readonly receivers: readonly string[];
  readonly outlet: string | null;
};

/** Where it happens: when a hand-off is pressed, when a record arrives at a stage, or when that is reminded of. */
export type Owner = {
  readonly kind: 'hand-off' | 'stage' | 'reminder';
  readonly key: string;
  readonly stage: string;
  readonly name: string;
};

export type Group = {
  readonly key: string;
  readonly name: string;
  readonly owner: Owner | null;
  readonly items: readonly Item[];
};
export type Grouping = 'stage' | 'receiver' | 'outlet';

type Delivery = Workflow['handOffs'][number]['deliveries'][number];

/** The path of what holds an owner's deliveries. */
export function partOfOwner({ kind, key, stage }: Owner): Path {
  if (kind === 'hand-off') return joinPath('handOffs', key);
  return kind === 'stage' ? joinPath('stages', key, 'onArrival') : joinPath('stages', stage, 'reminders', key);
}

/** The paths of the lists in which an owner keeps what follows. */
export const listsOf = (owner: Owner): Readonly<Record<'deliveries' | 'answers' | 'records', Path>> => ({
  deliveries: within(partOfOwner(owner), 'deliveries'),
  answers: owner.kind === 'hand-off' ? within(partOfOwner(owner), 'acknowledgements') : '',
  records: owner.kind === 'hand-off' ? within(partOfOwner(owner), 'followUps') : '',
});

/** Everything that happens in a workflow, in the order of its stages: at each hand-off, then on arrival. */
export function listGroups(
  definition: Workflow,
  nameOfMember: (id: string) => string,
  say: (expression: string) => string,
): readonly Group[] {
  const roleName = (key: string): string => definition.roles.find((role) => role.key === key)?.name ?? key;
  const toDelivery = (owner: Owner, one: Delivery): Item => ({
    path: within(listsOf(owner).deliveries, one.key),
    kind: one.kind,
    name: one.name,
    when: one.when,
    key: one.key,
    owner,
    outlet: one.outlet,
    receivers:
      one.kind !== 'mail'
        ? [one.outlet]
        : [...one.to, ...one.cc, ...one.bcc].map((recipient) => {
            if (recipient.kind === 'role') return `role ${roleName(recipient.role)}`;
            if (recipient.kind === 'member') return nameOfMember(recipient.member);
            if (recipient.kind === 'submitter') return 'the submitter';
            if (recipient.kind === 'address') return recipient.address;
            const said = say(recipient.expression);
            return recipient.kind === 'member-of'
              ? `the member in ${said}`
              : recipient.kind === 'role-of'
                ? `the role in ${said}`
                : said;
          }),
  });
  return definition.stages.flatMap((stage): readonly Group[] => {
    const own = definition.handOffs.filter(({ from }) => from === stage.key);
    const groups = own.map((handOff): Group => {
      const byItself = handOff.byClock ? `, by itself ${sayOffset(handOff.byClock.offset)}` : '';
      const name = `${stage.name} · ${handOff.name}${byItself}`;
      const owner: Owner = { kind: 'hand-off', key: handOff.key, stage: stage.key, name };
      const answers = handOff.acknowledgements.map(
        (one): Item => ({
          path: joinPath('handOffs', handOff.key, 'acknowledgements', one.key),
          kind: 'answer',
          name: one.name || one.key,
          when: one.when,
          key: one.key,
          owner,
          receivers: ['whoever pressed'],
          outlet: null,
        }),
      );
      const records = handOff.followUps.map(
        (one): Item => ({
          path: joinPath('handOffs', handOff.key, 'followUps', one.key),
          kind: 'record',
          name: one.name,
          when: one.when,
          key: one.key,
          owner,
          receivers: [one.workflow],
          outlet: null,
        }),
      );
      return {
        key: `hand-off ${handOff.key}`,
        name: owner.name,
        owner,
        items: [...answers, ...handOff.deliveries.map((one) => toDelivery(owner, one)), ...records],
      };
    });
    const owner: Owner = { kind: 'stage', key: stage.key, stage: stage.key, name: `${stage.name} · on arrival` };
    const ofStage = (kind: 'assign' | 'due', property: 'assignment' | 'due', name: string): Item => ({
      path: joinPath('stages', stage.key, property),
      kind,
      name,
      when: null,
      key: property,
      owner,
      receivers: [],
      outlet: null,
    });
    const assigned = stage.assignment ? [ofStage('assign', 'assignment', 'Who has the work')] : [];
    const due = stage.due === null ? [] : [ofStage('due', 'due', 'Due date')];
    const arrived = [...assigned, ...due, ...stage.onArrival.deliveries.map((one) => toDelivery(owner, one))];
    const reminders = stage.reminders.map((reminder): Group => {
      const name = `${stage.name} · ${sayOffset(reminder.offset)}: ${reminder.name}`;
      const of: Owner = { kind: 'reminder', key: reminder.key, stage: stage.key, name };
      return {
        key: `reminder ${stage.key} ${reminder.key}`,
        name,
        owner: of,
        items: reminder.deliveries.map((one) => toDelivery(of, one)),
      };
    });
    return [{ key: `stage ${stage.key}`, name: owner.name, owner, items: arrived }, ...reminders, ...groups];
  });
}

/** The same by who gets it, or by the outlet it goes by. */
export function regroup(groups: readonly Group[], by: Exclude<Grouping, 'stage'>): readonly Group[] {
  const found = new Map<string, Item[]>();
  for (const item of groups.flatMap(({ items }) => items)) {
    const keys = by === 'receiver' ? item.receivers : item.outlet === null ? [] : [item.outlet];
    for (const key of new Set(keys)) found.set(key, [...(found.get(key) ?? []), item]);
  }
  return [...found].sort(([a], [b]) => (a < b ? -1 : 1)).map(([key, items]) => ({ key, name: key, owner: null, items }));
}

/** What the rehearsal's hand-offs came to, and would come to now, by hand-off. */
export function outcomesOf(played: Replay, reasons: readonly HandOffReason[]): ReadonlyMap<string, HandedOn> {
  const found = new Map<string, HandedOn>();
  for (const { step, came } of played.moments) if (came.ok) found.set(step.handOff, came.value);
  for (const { key, handedOn } of reasons) if (handedOn) found.set(key, handedOn);
  return found;
}

/** What became of something in the rehearsal, in a word or two; null where its record wasn't there. */
export function cameTo(item: Item, outcomes: ReadonlyMap<string, HandedOn>): string | null {
  const { owner } = item;
  if (owner.kind === 'reminder') return null;
  const all =
    owner.kind === 'hand-off'
      ? [outcomes.get(owner.key)]
      : [...outcomes.values()].filter(({ events }) => events.some((event) => 'to' in event && event.to === owner.key));
  const [first] = all;
  if (!first) return null;
  switch (item.kind) {
    case 'answer':
      return first.acknowledgement?.acknowledgement === item.key ? 'read' : 'not';
    case 'mail':
    case 'web':
    case 'file':
      return first.deliveries.some((one) => one.delivery === item.key)
        ? { mail: '1 mail', web: '1 request', file: '1 file' }[item.kind]
        : 'not';
    case 'record': {
      const count = first.followUps.filter((one) => one.followUp === item.key).length;
      return count === 0 ? 'not' : count === 1 ? '1 record' : `${count} records`;
    }
    case 'assign': {
      const { assignee } = first.record;
      return assignee === null ? 'its roles' : assignee.kind === 'role' ? `role ${assignee.role}` : 'a member';
    }
    case 'due':
      return first.record.due ?? 'none';
    default:
      return item.kind satisfies never;
  }
}

/** The compiled delivery at a path. */
export function compiledDelivery(workflow: CompiledWorkflow, { owner, key }: Item) {
  const at = workflow.stages.get(owner.stage);
  const list =
    owner.kind === 'hand-off'
      ? workflow.handOffs.get(owner.key)?.deliveries
      : owner.kind === 'stage'
        ? at?.deliveries
        : at?.reminders.find(({ reminder }) => reminder.key === owner.key)?.deliveries;
  return list?.find(({ delivery }) => delivery.key === key) ?? null;
}
