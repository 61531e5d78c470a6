import { SegmentedControl, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { findField, findHandOff, findList, findPart, findStage, loadPatternEngine, type Workflow } from '@ypomet/core';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { sayExpression, sayValue } from '../../features/conditions/in-words.ts';
import { useWording } from '../../features/conditions/use-place.ts';
import { AnswerPanel } from '../../features/consequences/AnswerPanel.tsx';
import { AssignmentPanel } from '../../features/consequences/AssignmentPanel.tsx';
import { DeliveryPanel } from '../../features/consequences/DeliveryPanel.tsx';
import { DuePanel } from '../../features/consequences/DuePanel.tsx';
import { FollowUpPanel } from '../../features/consequences/FollowUpPanel.tsx';
import {
  cameTo,
  type Group,
  type Grouping,
  type Item,
  type ItemKind,
  listGroups,
  listsOf,
  type Owner,
  outcomesOf,
  partOfOwner,
  regroup,
} from '../../features/consequences/listing.ts';
import { newConsequence, newReminder, START_DUE } from '../../features/consequences/new-consequences.ts';
import { outletsQuery } from '../../features/consequences/queries.ts';
import { MoveButtons } from '../../features/consequences/RecipientsProperty.tsx';
import { useDraft } from '../../features/drafts/draft-context.tsx';
import { membersQuery, workflowsQuery } from '../../features/drafts/queries.ts';
import { useDelete, useMove } from '../../features/plan/panels/PartActions.tsx';
import { ChoiceProperty, useChange } from '../../features/plan/panels/properties.tsx';
import { LaterRehearsal, RehearsalProvider, useRehearsal } from '../../features/rehearsal/rehearsal-context.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import classes from './ConsequencesPage.module.css';

/** What conditions may need, loaded with the page. */
export const ready = loadPatternEngine();

/**
 * Who is here: the analyst who is asked what happens when. First they want to see it in the order in which it happens, with
 * what it comes to for the record they rehearse; then to change one of it and see what arrives.
 */
export const ConsequencesPage = () => (
  <RehearsalProvider>
    <LaterRehearsal>
      <Consequences />
    </LaterRehearsal>
  </RehearsalProvider>
);

const GROUPINGS = [
  { value: 'stage', label: 'by stage' },
  { value: 'receiver', label: 'by receiver' },
  { value: 'outlet', label: 'by outlet' },
] as const;

function Consequences() {
  const { definition } = useDraft();
  const { played, reasons } = useRehearsal();
  const [address, setAddress] = useSearchParams();
  const [grouping, setGrouping] = useState<Grouping>('stage');
  const members = useQuery(membersQuery);
  const wording = useWording();
  const groups = useMemo(() => {
    const names = new Map(members.data?.map(({ id, name }) => [id, name]));
    return listGroups(
      definition,
      (id) => names.get(id) ?? 'a member',
      (expression) => sayValue(expression, wording),
    );
  }, [definition, members.data, wording]);
  const outcomes = useMemo(() => outcomesOf(played, reasons), [played, reasons]);
  const items = groups.flatMap((group) => group.items);
  const chosen = chosenOf(items, address);
  const select = (path: string | null): void => setAddress(path === null ? {} : { at: path }, { replace: true });
  const shown = grouping === 'stage' ? groups : regroup(groups, grouping);
  return (
    <div className={classes.page}>
      <div className={classes.list}>
        <div className={classes.head}>
          <h2>What happens when</h2>
          <SegmentedControl
            size="xs"
            aria-label="How it is grouped"
            data={[...GROUPINGS]}
            value={grouping}
            onChange={(next) => setGrouping(next as Grouping)}
          />
          <span className={`${classes.soft} ${classes.hint}`}>for the rehearsal’s record</span>
        </div>
        {items.length === 0 && (
          <p className={classes.soft}>
            Nothing happens yet but that records move. Add what is answered, sent or opened to the hand-offs below.
          </p>
        )}
        {shown.map((group) => (
          <GroupView
            key={group.key}
            group={group}
            chosen={chosen?.path ?? null}
            cameOf={(item) => cameTo(item, outcomes)}
            onSelect={select}
          />
        ))}
      </div>
      <aside className={classes.panel} aria-label="The chosen one" data-shown="" tabIndex={-1}>
        <PanelBoundary name="This consequence" resetKey={chosen?.path ?? ''}>
          {chosen ? (
            <ItemPanel key={chosen.path} item={chosen} onGone={() => select(null)} />
          ) : (
            <p className={classes.soft}>Choose something at the left, or add it to a hand-off.</p>
          )}
        </PanelBoundary>
      </aside>
    </div>
  );
}

/** What the page's address names: a part by its path (`at`), or a delivery by its key (`delivery`, from the dispatch log); else the first. */
function chosenOf(items: readonly Item[], address: URLSearchParams): Item | undefined {
  const [at, delivery] = [address.get('at'), address.get('delivery')];
  if (at !== null) return items.find(({ path }) => path === at);
  if (delivery === null) return items[0];
  return items.find(({ kind, key }) => key === delivery && (kind === 'mail' || kind === 'web' || kind === 'file'));
}

const KINDS: Readonly<Record<ItemKind, string>> = {
  answer: 'answer',
  mail: 'mail',
  web: 'web',
  file: 'file',
  record: 'record',
  assign: 'assign',
  due: 'due',
};

function GroupView({
  group,
  chosen,
  cameOf,
  onSelect,
}: {
  readonly group: Group;
  readonly chosen: string | null;
  readonly cameOf: (item: Item) => string | null;
  readonly onSelect: (path: string | null) => void;
}) {
  const { definition } = useDraft();
  const stage = group.owner && definition.stages.find(({ key }) => key === group.owner?.stage);
  // Where nothing happens and nothing can, there is nothing to see.
  if (group.items.length === 0 && (group.owner === null || (group.owner.kind === 'stage' && stage?.kind === 'intake')))
    return null;
  // Where nothing happens yet there is a line to add something, and no more.
  const isBare = group.items.length === 0;
  return (
    <section className={isBare ? classes.bare : classes.group} aria-label={group.name}>
      <h3 className={isBare ? classes.quiet : classes.where}>{group.name}</h3>
      {group.items.map((item) => (
        <Row key={item.path} item={item} isHere={item.path === chosen} came={cameOf(item)} onSelect={onSelect} />
      ))}
      {group.owner && <Adds owner={group.owner} onAdded={onSelect} />}
    </section>
  );
}

function Row({
  item,
  isHere,
  came,
  onSelect,
}: {
  readonly item: Item;
  readonly isHere: boolean;
  readonly came: string | null;
  readonly onSelect: (path: string) => void;
}) {
  const row = useRef<HTMLButtonElement>(null);
  // One that was come to by a link may stand far down.
  useEffect(() => {
    if (isHere) row.current?.scrollIntoView({ block: 'nearest' });
  }, [isHere]);
  return (
    <UnstyledButton
      ref={row}
      className={classes.row}
      data-here={isHere || undefined}
      aria-current={isHere || undefined}
      onClick={() => onSelect(item.path)}
    >
      <span className={`${classes.kind} mono`}>{KINDS[item.kind]}</span>
      <span className={classes.name}>{item.name}</span>
      <span className={classes.said}>
        <Said item={item} />
      </span>
      <span className={classes.came} data-not={came === null || came === 'not' || undefined}>
        {came ?? ''}
      </span>
    </UnstyledButton>
  );
}

/** When it happens and where it goes, in words. */
function Said({ item }: { readonly item: Item }) {
  const { definition, compiled } = useDraft();
  const wording = useWording();
  const when = item.when === null ? 'always' : `when ${sayExpression(item.when, wording)}`;
  if (item.kind === 'answer') return item.when === null ? 'else' : when;
  if (item.kind === 'assign') return <>{sayAssigned(definition, item.owner.key, (text) => sayValue(text, wording))}</>;
  if (item.kind === 'due') return <>{sayValue(findStage(definition, item.owner.key)?.due ?? '', wording)}</>;
  if (item.kind === 'record') {
    const part = findHandOff(definition, item.owner.key)?.followUps.find(({ key }) => key === item.key);
    const target = compiled.findWorkflow(part?.workflow ?? '')?.name ?? part?.workflow;
    const rows = part?.perRow ? `one for each of ${findField(definition, part.perRow)?.name ?? part.perRow}` : 'one';
    const carried = part?.carried.length ?? 0;
    return (
      <>
        {item.when === null ? '' : `${when}: `}
        {rows} in <strong>{target}</strong>
        {carried > 0 && `, ${carried === 1 ? '1 value' : `${carried} values`} carried`}
      </>
    );
  }
  return (
    <>
      {when}, to <strong>{item.receivers.join(', ')}</strong>
    </>
  );
}

function sayAssigned(definition: Workflow, stage: string, say: (text: string) => string): string {
  const assignment = definition.stages.find(({ key }) => key === stage)?.assignment;
  if (!assignment) return '';
  if (assignment.kind === 'role')
    return `role ${definition.roles.find(({ key }) => key === assignment.role)?.name ?? assignment.role}`;
  return `${assignment.kind === 'member' ? 'the member' : 'the role'} ${say(assignment.expression)}`;
}

/** What can be added where something happens. */
function Adds({ owner, onAdded }: { readonly owner: Owner; readonly onAdded: (path: string) => void }) {
  const { store, definition } = useDraft();
  const outlets = useQuery(outletsQuery);
  const workflows = useQuery(workflowsQuery);
  const lists = listsOf(owner);
  const stage = definition.stages.find(({ key }) => key === owner.stage);
  const isJunction = stage?.kind === 'junction';
  const add = (kind: Exclude<ItemKind, 'assign' | 'due'>): void => {
    const list = kind === 'answer' ? lists.answers : kind === 'record' ? lists.records : lists.deliveries;
    const there = (findList(definition, list)?.list ?? []) as readonly { readonly key: string; readonly name: string }[];
    const outlet = outlets.data?.find(({ settings }) => settings.kind === kind)?.key ?? 'choose';
    const target =
      workflows.data?.find(({ key, publishedVersion }) => key !== definition.key && publishedVersion !== null)?.key ?? 'choose';
    const more =
      kind === 'web' || kind === 'file'
        ? { outlet }
        : kind === 'record'
          ? { workflow: target, handOff: 'choose' }
          : kind === 'answer' && there.length > 0
            ? { when: 'false' }
            : {};
    const made = newConsequence(list, kind, there, more);
    if (store.edit(made.edit)) onAdded(`${list}.${made.key}`);
  };
  const assign = (): void => {
    const [role] = stage?.roles ?? [];
    const set = { assignment: { kind: 'role', role: role ?? definition.roles[0]?.key ?? '' } };
    if (store.edit({ type: 'change-part', part: `stages.${owner.key}`, set })) onAdded(`stages.${owner.key}.assignment`);
  };
  const kinds: readonly (readonly [Exclude<ItemKind, 'assign' | 'due'>, string])[] =
    owner.kind === 'hand-off'
      ? [
          ...(isJunction ? [] : ([['answer', 'answer']] as const)),
          ['mail', 'mail'],
          ['web', 'web request'],
          ['file', 'file'],
          ['record', 'record'],
        ]
      : [
          ['mail', 'mail'],
          ['web', 'web request'],
          ['file', 'file'],
        ];
  const isWorkedAt = owner.kind === 'stage' && (stage?.kind === 'work' || stage?.kind === 'intake');
  const mayAssign = isWorkedAt && !stage?.assignment && definition.roles.length > 0;
  const limit = (): void => {
    if (store.edit({ type: 'change-part', part: `stages.${owner.key}`, set: { due: START_DUE } }))
      onAdded(`stages.${owner.key}.due`);
  };
  const remind = (): void => {
    const made = newReminder(owner.key, stage?.reminders ?? []);
    if (store.edit(made.edit)) onAdded(`stages.${owner.key}.reminders.${made.key}.deliveries.mail`);
  };
  return (
    <div className={classes.adds}>
      {kinds.map(([kind, name]) => (
        <UnstyledButton
          key={kind}
          className={classes.addOne}
          aria-label={`Add ${name} at ${owner.name}`}
          onClick={() => add(kind)}
        >
          + {name}
        </UnstyledButton>
      ))}
      {mayAssign && (
        <UnstyledButton className={classes.addOne} aria-label={`Assign the work at ${stage?.name}`} onClick={assign}>
          + assignment
        </UnstyledButton>
      )}
      {isWorkedAt && stage?.due === null && (
        <UnstyledButton className={classes.addOne} aria-label={`Give ${stage.name} a due date`} onClick={limit}>
          + due date
        </UnstyledButton>
      )}
      {isWorkedAt && stage && stage.due !== null && (
        <UnstyledButton className={classes.addOne} aria-label={`Add reminder at ${stage.name}`} onClick={remind}>
          + reminder
        </UnstyledButton>
      )}
    </div>
  );
}

function ItemPanel({ item, onGone }: { readonly item: Item; readonly onGone: () => void }) {
  const { definition } = useDraft();
  const toPlan = item.owner.kind === 'hand-off' ? `handOffs.${item.owner.key}` : `stages.${item.owner.stage}`;
  return (
    <>
      <p className={classes.at}>
        <Link to={`/workflows/${definition.key}/plan?at=${encodeURIComponent(toPlan)}`}>{item.owner.name}</Link>
      </p>
      <h2>{item.name}</h2>
      {item.kind === 'answer' ? (
        <AnswerPanel item={item} />
      ) : item.kind === 'record' ? (
        <FollowUpPanel item={item} />
      ) : item.kind === 'assign' ? (
        <AssignmentPanel stage={item.owner.key} />
      ) : item.kind === 'due' ? (
        <DuePanel stage={item.owner.key} />
      ) : (
        <DeliveryPanel item={item} />
      )}
      {item.kind !== 'assign' && item.kind !== 'due' && <Order item={item} onGone={onGone} />}
    </>
  );
}

/** Its place in its list, whether all of the list or the first happens, and the end of it. */
function Order({ item, onGone }: { readonly item: Item; readonly onGone: () => void }) {
  const { definition } = useDraft();
  const { earlier, later } = useMove(item.path);
  const { ask, question } = useDelete(item.path, onGone);
  const part = partOfOwner(item.owner);
  const change = useChange(part);
  const owner = findPart(definition, part)?.part as Readonly<Record<string, string>> | undefined;
  const property = item.kind === 'record' ? 'followUpPolicy' : 'deliveryPolicy';
  return (
    <>
      {item.kind !== 'answer' && owner && (
        <ChoiceProperty
          label={item.kind === 'record' ? 'Of the records here' : 'Of the deliveries here'}
          value={owner[property] === 'first' ? 'first' : 'all'}
          choices={[
            { value: 'all', label: 'all whose condition holds' },
            { value: 'first', label: 'the first whose condition holds' },
          ]}
          onKeep={(policy) => policy && change({ [property]: policy })}
        />
      )}
      <div className={classes.order}>
        <MoveButtons name={item.name} earlier={earlier} later={later} />
        <UnstyledButton className={classes.addOne} onClick={ask}>
          Delete
        </UnstyledButton>
      </div>
      {question}
    </>
  );
}
