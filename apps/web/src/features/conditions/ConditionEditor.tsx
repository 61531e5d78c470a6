import { ActionIcon, Menu, TextInput, UnstyledButton } from '@mantine/core';
import { IconDots } from '@tabler/icons-react';
import {
  describeOutline,
  type Edit,
  makeKey,
  negateItem,
  type OutlineGroup,
  parseExpression,
  readOutline,
  remarksOn,
  TYPES,
} from '@ypomet/core';
import { type KeyboardEvent, useMemo, useState } from 'react';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import { unfinished } from '../expressions/unfinished.ts';
import classes from './ConditionEditor.module.css';
import { conditionsOf } from './conditions-of.ts';
import { textOf } from './editing.ts';
import { OutlineTree } from './OutlineTree.tsx';
import type { ConditionPlace } from './place.ts';
import { type EditedOutline, type OutlineStatus, outlineOf, useOutline } from './use-outline.ts';

type Props = {
  readonly text: string;
  /** What the condition decides, for those who hear the page. */
  readonly label: string;
  /** Its path in the definition: what is unfinished is kept for there. Null where nothing is kept, outside of a definition. */
  readonly path: string | null;
  readonly place: ConditionPlace;
  /** Called with every complete, sound condition; what is half written stays here. `also`: what else changes with it. */
  readonly onChange: (text: string, also: readonly Edit[]) => void;
};

/** Whether an outline has anything that text has not: a condition that is one expression only is better seen as text. */
const isOnlyText = (outline: OutlineGroup | null): boolean =>
  outline === null || (outline.of.length === 1 && outline.of[0]?.kind === 'text');

/** A condition, the same wherever one stands: as an outline or as text, two views of one tree, and as a sentence. */
export const ConditionEditor = (props: Props) => <Editor key={`${props.place.workflow.key} ${props.path}`} {...props} />;

function Editor({ text, label, path, place, onChange }: Props) {
  const at = path === null ? null : { workflow: place.workflow.key, path };
  const keep = (next: string, also: readonly Edit[] = []): void => {
    if (next !== text) onChange(next, also);
  };
  const edited = useOutline(text, at, place.scope, keep);
  const { outline, status } = edited;
  const hasOpenText = at !== null && unfinished.find(at.workflow, at.path) !== null;
  const [mode, setMode] = useState<'outline' | 'text'>(() => (isOnlyText(outline) || hasOpenText ? 'text' : 'outline'));
  const [unfit, setUnfit] = useState<string | null>(null);
  const [isNaming, setNaming] = useState(false);
  const isOutline = mode === 'outline' && outline !== null;
  const remarks = useMemo(
    () =>
      outline && mode === 'outline'
        ? remarksOn(outline, { scope: place.scope, fieldAt: place.wording.fieldAt, environment: place.environment })
        : [],
    [outline, mode, place],
  );
  const turn = (): void => setMode(mode === 'outline' ? 'text' : 'outline');
  const onKeyDown = (event: KeyboardEvent): void => {
    if (!event.altKey || event.code !== 'KeyE') return;
    event.preventDefault();
    event.stopPropagation();
    turn();
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: a key that turns between the two views, which have their own roles
    <div className={classes.editor} onKeyDown={onKeyDown}>
      {isOutline ? (
        <OutlineTree
          root={outline}
          place={place}
          remarks={remarks}
          label={label}
          onChange={(next) => {
            setUnfit(null);
            edited.change(next);
          }}
          onUnfit={setUnfit}
        />
      ) : (
        <ExpressionField
          label="Condition as text"
          text={text}
          scope={place.scope}
          expected={TYPES.boolean}
          at={at ?? undefined}
          wording={place.wording}
          say={(node) => describeOutline(readOutline(node), place.wording)}
          isTold
          onKeep={edited.take}
        />
      )}
      {unfit !== null && (
        <p className={classes.open} role="status">
          What was pasted is no condition: “{unfit.slice(0, 60)}”. Conditions are copied and pasted as their text.
        </p>
      )}
      <Status edited={edited} isOutline={isOutline} />
      {isOutline && hasOpenText && (
        <p className={classes.open} role="status">
          A text of this condition is unfinished.{' '}
          <UnstyledButton className={classes.switch} onClick={turn}>
            Show it
          </UnstyledButton>
        </p>
      )}
      {isNaming && (
        <NameForm
          place={place}
          text={text}
          onCancel={() => setNaming(false)}
          onName={(name, also) => {
            setNaming(false);
            edited.settle(name);
            keep(name, also);
          }}
        />
      )}
      <div className={classes.foot}>
        <p className={classes.sentence}>{isOutline && <Sentence text={text} status={status} place={place} />}</p>
        <UnstyledButton className={`${classes.switch} mono`} onClick={turn} aria-keyshortcuts="Alt+E" title="Alt E">
          {mode === 'outline' ? 'as text' : 'as outline'}
        </UnstyledButton>
        <WholeMenu
          place={place}
          path={path}
          text={text}
          isUnfinished={status !== 'kept' && status !== 'blank'}
          onTake={edited.take}
          onName={() => setNaming(true)}
        />
      </div>
      {mode === 'text' && isOnlyText(outlineOf(text)) && outlineOf(text) !== null && (
        <p className={classes.note}>No outline shows this condition better than its text does.</p>
      )}
    </div>
  );
}

const OPEN: Readonly<Record<'emptied' | 'incomplete' | 'faulty', string>> = {
  emptied: 'Unfinished: no clause is left.',
  incomplete: 'Unfinished: kept once every clause and group is complete.',
  faulty: 'Not kept: it doesn’t mean anything yet.',
};

/** What an unfinished outline waits for, and the way back to the condition that is kept. */
function Status({ edited, isOutline }: { readonly edited: EditedOutline; readonly isOutline: boolean }) {
  const { status, isMet, takeBack } = edited;
  if (status === 'kept' || status === 'blank') return null;
  return (
    <p role="status" className={classes.open}>
      {isOutline ? OPEN[status] : 'The outline of this condition is unfinished. It waits until this text is changed.'}
      {isMet && ' The kept condition was changed meanwhile.'}{' '}
      <UnstyledButton className={classes.back} onClick={takeBack}>
        {isOutline ? 'Back to what is kept' : 'Drop the unfinished outline'}
      </UnstyledButton>
    </p>
  );
}

/** The condition that is kept, as a sentence. */
function Sentence({
  text,
  status,
  place,
}: {
  readonly text: string;
  readonly status: OutlineStatus;
  readonly place: ConditionPlace;
}) {
  const parsed = parseExpression(text);
  if (!parsed.ok) return null;
  const said = describeOutline(readOutline(parsed.value), place.wording);
  if (status === 'kept') return said;
  return status === 'blank' ? `No clause yet: ${said} so until there is one.` : `Kept until then: ${said}`;
}

/** What can be done with the whole condition: taken from elsewhere, turned round, given a name. */
function WholeMenu({
  place,
  path,
  text,
  isUnfinished,
  onTake,
  onName,
}: {
  readonly place: ConditionPlace;
  readonly path: string | null;
  readonly text: string;
  /** What is done with the kept condition would take the place of an unfinished one: it isn't offered then. */
  readonly isUnfinished: boolean;
  readonly onTake: (text: string) => void;
  readonly onName: () => void;
}) {
  const others = conditionsOf(place.workflow).filter((one) => one.path !== path && one.text !== text);
  const opposite = (of: string): string | null => {
    if (of === 'true' || of === 'false') return of === 'true' ? 'false' : 'true';
    const group = outlineOf(of);
    const turned =
      group && negateItem(group.of.length === 1 && group.of[0] ? (group.which === 'none' ? group : group.of[0]) : group);
    const found = turned && textOf(turned, place.scope);
    return found && 'text' in found ? found.text : null;
  };
  const take = (of: string | null): void => {
    if (of !== null) onTake(of);
  };
  return (
    <Menu position="bottom-end" withinPortal>
      <Menu.Target>
        <ActionIcon size="sm" variant="subtle" color="gray" aria-label="More about this condition">
          <IconDots size={14} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown mah={320} style={{ overflowY: 'auto' }}>
        <Menu.Item disabled={isUnfinished} onClick={() => take(opposite(text))}>
          Turn into its opposite
        </Menu.Item>
        {text !== 'true' && <Menu.Item onClick={() => onTake('true')}>Make it hold always</Menu.Item>}
        {text !== 'false' && <Menu.Item onClick={() => onTake('false')}>Make it hold never</Menu.Item>}
        {place.mayBeNamed && (
          <Menu.Item disabled={isUnfinished} onClick={onName}>
            Make it a named condition …
          </Menu.Item>
        )}
        {others.length > 0 && <Menu.Label>Start from the opposite of</Menu.Label>}
        {others.slice(0, 40).map((one) => (
          <Menu.Item key={one.path} onClick={() => take(opposite(one.text))}>
            {one.name}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

/** A name for a condition: a computed yes/no field comes to be, and stands where the condition stood. */
function NameForm({
  place,
  text,
  onName,
  onCancel,
}: {
  readonly place: ConditionPlace;
  readonly text: string;
  readonly onName: (key: string, also: readonly Edit[]) => void;
  readonly onCancel: () => void;
}) {
  const { workflow } = place;
  const [name, setName] = useState('');
  const make = (): void => {
    const known = name.trim();
    if (known === '') return;
    const taken = new Set([...workflow.fields, ...workflow.decisionTables].map(({ key }) => key));
    const key = makeKey(known, taken, 'condition');
    const section = workflow.sections.at(-1)?.key ?? '';
    onName(key, [
      {
        type: 'add-part',
        to: 'fields',
        part: { type: 'yes-no', key, name: known, section, treatment: 'hidden', expression: text },
        before: null,
      },
    ]);
  };
  const isTaken = workflow.fields.some((field) => field.name.toLowerCase() === name.trim().toLowerCase());
  return (
    <TextInput
      size="xs"
      label="Name of the condition"
      description="It becomes a computed yes/no field, shown nowhere, that any condition can ask for."
      value={name}
      autoFocus
      error={isTaken ? 'There is a field with this name.' : undefined}
      onChange={(event) => setName(event.currentTarget.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter' && !isTaken) make();
        if (event.key === 'Escape') onCancel();
      }}
      rightSection={
        <UnstyledButton className={classes.switch} onClick={onCancel} aria-label="Leave it without a name">
          ×
        </UnstyledButton>
      }
    />
  );
}
