import { ActionIcon, Menu, UnstyledButton } from '@mantine/core';
import { IconDots, IconGripVertical } from '@tabler/icons-react';
import {
  describeOutline,
  type ExplainedItem,
  type OutlineItem,
  type OutlinePath,
  type OutlineRows,
  phrasesOf,
  type Remark,
  type Truth,
} from '@ypomet/core';
import { lazy, Suspense } from 'react';
import { ACTIONS, type Standing } from './actions.ts';
import { hasItsOwn } from './editing.ts';
import type { Line } from './lines.ts';
import { Mark } from './Mark.tsx';
import classes from './Outline.module.css';
import type { ConditionPlace } from './place.ts';
import { remarkSentence } from './remark-words.ts';

const ClauseForm = lazy(() => import('./ClauseForm.tsx').then((module) => ({ default: module.ClauseForm })));

type Props = {
  readonly id: string;
  readonly index: number;
  readonly line: Line;
  readonly standing: Standing;
  readonly remark: Remark | undefined;
  readonly remarkWith: OutlineItem | null;
  readonly isCurrent: boolean;
  readonly isOpen: boolean;
  readonly onStand: () => void;
  readonly onOpen: () => void;
  readonly onClose: () => void;
  /** `opens`: the item within the changed one whose inputs are opened next. */
  readonly onChange: (item: OutlineItem, opens?: OutlinePath) => void;
  readonly onAct: (id: string) => void;
};

const ROWS = { some: 'any row of', every: 'every row of' } as const;
const WHICH = { all: 'all of', any: 'any of', none: 'none of' } as const;

/** A line of an outline: words and values at rest, inputs while it is opened. */
export function OutlineRow(props: Props) {
  const { id, index, line, standing, remark, remarkWith, isCurrent, isOpen, onStand, onOpen, onClose, onChange, onAct } = props;
  const { item, place, path, around } = line;
  const explained = place.explain(item);
  const isEditable = item.kind !== 'group';
  return (
    // The tree around it has the keys.
    // biome-ignore lint/a11y/useKeyWithClickEvents: see above
    <div
      role="treeitem"
      aria-level={path.length + 1}
      aria-expanded={item.kind === 'group' || item.kind === 'rows' ? true : undefined}
      aria-selected={isCurrent}
      aria-label={`${wordsOf(item, place)}${explained ? `, ${truthWords(explained.truth)}` : ''}`}
      tabIndex={isCurrent ? 0 : -1}
      className={classes.line}
      data-path={id}
      data-row={index}
      data-open={isOpen || undefined}
      data-unfinished={!hasItsOwn(item) || undefined}
      onFocus={onStand}
      onClick={(event) => {
        const isInside = (event.target as HTMLElement).closest('button, input, [role="menu"], [role="listbox"]') !== null;
        if (!isInside && isEditable && !isOpen) onOpen();
      }}
    >
      <Rails around={around} />
      <div className={classes.body}>
        {isOpen ? (
          <Suspense fallback={<Words item={item} place={place} />}>
            <ClauseForm item={item} place={place} onChange={onChange} onClose={onClose} />
          </Suspense>
        ) : item.kind === 'group' ? (
          <>
            <GroupHead item={item} onChange={onChange} />
            {item.of.length === 0 && path.length > 0 && <span className={classes.missing}> no clause yet</span>}
          </>
        ) : (
          <Words item={item} place={place} />
        )}
        {remark && <Remarked remark={remark} remarkWith={remarkWith} item={item} place={place} onChange={onChange} />}
      </div>
      {explained && item.kind !== 'group' && <Values explained={explained} place={place} />}
      {(item.kind !== 'group' || item.of.length > 1) && <Mark truth={explained?.truth} />}
      {path.length > 0 && (
        <span className={classes.handle} data-drag="" aria-hidden="true">
          <IconGripVertical size={13} />
        </span>
      )}
      <ItemMenu standing={standing} place={place} onAct={onAct} name={item.kind === 'group' ? 'group' : 'clause'} />
    </div>
  );
}

const truthWords = (truth: Truth): string => (truth === null ? 'unknown' : truth ? 'holds' : 'does not hold');

/** A line in words, without what stands on the lines within it. */
export function wordsOf(item: OutlineItem, place: ConditionPlace): string {
  if (item.kind === 'group') return `${WHICH[item.which]}${item.of.length === 0 ? ', without a clause yet' : ''}`;
  const text = item.kind === 'rows' ? rowsWords(item, place) : describeOutline(item, place.wording);
  return hasItsOwn(item) ? text : `${text}, unfinished`;
}

const rowsWords = (item: OutlineRows, { wording }: ConditionPlace): string =>
  `${ROWS[item.which]} ${wording.nameOf(item.table)} where`;

function Rails({ around }: { readonly around: Line['around'] }) {
  return around.map((which, depth) => (
    <span key={String(depth)} className={classes.rail} data-which={which} aria-hidden="true" />
  ));
}

function GroupHead({
  item,
  onChange,
}: {
  readonly item: Extract<OutlineItem, { kind: 'group' }>;
  readonly onChange: (item: OutlineItem) => void;
}) {
  return (
    <Menu position="bottom-start" withinPortal>
      <Menu.Target>
        <UnstyledButton
          className={classes.which}
          data-which={item.which}
          tabIndex={-1}
          aria-label={`Group: ${WHICH[item.which]}`}
        >
          {WHICH[item.which]}
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        {(['all', 'any', 'none'] as const).map((which) => (
          <Menu.Item key={which} onClick={() => onChange({ ...item, which })}>
            {WHICH[which]}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

/** An item in words, its values set apart. */
function Words({ item, place }: { readonly item: OutlineItem; readonly place: ConditionPlace }) {
  if (item.kind === 'group') return null;
  if (item.kind === 'rows')
    return (
      <span>
        {ROWS[item.which]} <strong>{place.wording.nameOf(item.table)}</strong> where
      </span>
    );
  if (item.kind === 'text') return <span className={classes.text}>{describeOutline(item, place.wording)}</span>;
  const isCount = item.subject.kind === 'count' && item.subject.where !== null;
  const shown = isCount && item.subject.kind === 'count' ? { ...item, subject: { ...item.subject, where: null } } : item;
  return (
    <span>
      {phrasesOf(shown, place.wording).map(({ kind, text }, index) => (
        <span key={`${kind}/${String(index)}`} className={classes[kind]}>
          {text}{' '}
        </span>
      ))}
      {!hasItsOwn(shown) && <span className={classes.value} data-missing="" />}
      {isCount && <span className={classes.join}>, counting rows where</span>}
    </span>
  );
}

/** The values that a clause read of the rehearsal's record. */
function Values({ explained, place }: { readonly explained: ExplainedItem; readonly place: ConditionPlace }) {
  if (explained.reads.length === 0) return null;
  const text = explained.reads
    .map(({ path, value }) => (value === null ? 'empty' : place.wording.format(value, path)))
    .join(', ');
  return (
    <span className={classes.read} data-truth={String(explained.truth)} title={`In the rehearsal: ${text}`}>
      {text}
    </span>
  );
}

function Remarked({
  remark,
  remarkWith,
  item,
  place,
  onChange,
}: Pick<Props, 'remarkWith' | 'onChange'> & {
  readonly remark: Remark;
  readonly item: OutlineItem;
  readonly place: ConditionPlace;
}) {
  return (
    <div className={classes.remark}>
      {remarkSentence(remark, item, remarkWith, place.wording)}
      {remark.code === 'holds-while-empty' && item.kind === 'clause' && (
        <>
          {' '}
          <UnstyledButton className={classes.repair} onClick={() => onChange({ ...item, comparison: 'is-other' })}>
            is not, and is filled
          </UnstyledButton>
        </>
      )}
    </div>
  );
}

function ItemMenu({
  standing,
  place,
  onAct,
  name,
}: {
  readonly standing: Standing;
  readonly place: ConditionPlace;
  readonly onAct: (id: string) => void;
  readonly name: string;
}) {
  return (
    <Menu position="bottom-end" withinPortal>
      <Menu.Target>
        <ActionIcon
          className={classes.more}
          size="sm"
          variant="subtle"
          color="gray"
          tabIndex={-1}
          aria-label={`More about this ${name}`}
        >
          <IconDots size={14} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        {ACTIONS.filter((action) => action.act(standing, place) !== null).map(({ id, label, keys }) => (
          <Menu.Item key={id} rightSection={<kbd className={classes.keys}>{keys}</kbd>} onClick={() => onAct(id)}>
            {label}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
