import { ActionIcon, Menu, TextInput, UnstyledButton } from '@mantine/core';
import { IconDots } from '@tabler/icons-react';
import {
  describeOutline,
  type Edit,
  makeKey,
  negateItem,
  type OutlineGroup,
  parseExpression,
  readOutlineGroup,
  remarksOn,
  TYPES,
} from '@ypomet/core';
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import { unfinished } from '../expressions/unfinished.ts';
import classes from './ConditionEditor.module.css';
import { conditionsOf } from './conditions-of.ts';
import { textOf } from './editing.ts';
import { OutlineTree } from './OutlineTree.tsx';
import type { ConditionPlace } from './place.ts';

type Props = {
  readonly text: string;
  /** What the condition decides, for those who hear the page. */
  readonly label: string;
  /** Its path in the definition: unfinished text is kept for there. */
  readonly path: string;
  readonly place: ConditionPlace;
  /** Called with every complete, sound condition; what is half written stays here. `also`: what else changes with it. */
  readonly onChange: (text: string, also: readonly Edit[]) => void;
};

const readGroup = (text: string): OutlineGroup | null => {
  const parsed = parseExpression(text);
  return parsed.ok ? readOutlineGroup(parsed.value) : null;
};

/** Whether an outline has anything that text has not: a condition that is one expression only is better seen as text. */
const isOnlyText = (outline: OutlineGroup | null): boolean =>
  outline === null || (outline.of.length === 1 && outline.of[0]?.kind === 'text');

/** A condition, the same wherever one stands: as an outline or as text, two views of one tree, and as a sentence. */
export function ConditionEditor({ text, label, path, place, onChange }: Props) {
  const at = { workflow: place.workflow.key, path };
  const [mode, setMode] = useState<'outline' | 'text'>(() =>
    isOnlyText(readGroup(text)) || unfinished.find(at.workflow, path) !== null ? 'text' : 'outline',
  );
  const [outline, setOutline] = useState<OutlineGroup | null>(() => readGroup(text));
  const [unfit, setUnfit] = useState<string | null>(null);
  const [isNaming, setNaming] = useState(false);
  const kept = useRef(text);
  useEffect(() => {
    if (kept.current === text) return;
    kept.current = text;
    setOutline(readGroup(text));
  }, [text]);
  const keep = (next: string, also: readonly Edit[] = []): void => {
    kept.current = next;
    if (next !== text) onChange(next, also);
  };
  const changeOutline = (next: OutlineGroup): void => {
    setOutline(next);
    setUnfit(null);
    const found = textOf(next, place.scope);
    if ('text' in found) keep(found.text);
  };
  const open = outline && mode === 'outline' ? textOf(outline, place.scope) : null;
  const remarks = useMemo(
    () =>
      outline && mode === 'outline'
        ? remarksOn(outline, { scope: place.scope, fieldAt: place.wording.fieldAt, environment: place.environment })
        : [],
    [outline, mode, place],
  );
  const turn = (): void => {
    if (mode === 'outline') setMode('text');
    else {
      setOutline(readGroup(text));
      setMode('outline');
    }
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (!event.altKey || event.code !== 'KeyE') return;
    event.preventDefault();
    event.stopPropagation();
    turn();
  };
  const shown = mode === 'outline' && outline ? outline : readGroup(text);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: a key that turns between the two views, which have their own roles
    <div className={classes.editor} onKeyDown={onKeyDown}>
      {mode === 'outline' && outline ? (
        <OutlineTree root={outline} place={place} remarks={remarks} label={label} onChange={changeOutline} onUnfit={setUnfit} />
      ) : (
        <ExpressionField
          label="Condition as text"
          text={text}
          scope={place.scope}
          expected={TYPES.boolean}
          at={at}
          wording={place.wording}
          say={(node) => describeOutline(readOutlineGroup(node), place.wording)}
          isTold
          onKeep={(next) => keep(next)}
        />
      )}
      {unfit !== null && (
        <p className={classes.open} role="status">
          What was pasted is no condition: “{unfit.slice(0, 60)}”. Conditions are copied and pasted as their text.
        </p>
      )}
      {open && 'open' in open && (
        <p role="status" className={classes.open}>
          {open.open === 'incomplete'
            ? 'Unfinished: kept once every clause is complete.'
            : 'Not kept: it doesn’t mean anything yet.'}
        </p>
      )}
      {isNaming && (
        <NameForm
          place={place}
          text={text}
          onCancel={() => setNaming(false)}
          onName={(name, also) => {
            setNaming(false);
            setOutline(readGroup(name));
            keep(name, also);
          }}
        />
      )}
      <div className={classes.foot}>
        <p className={classes.sentence}>{mode === 'outline' && shown && describeOutline(shown, place.wording)}</p>
        <UnstyledButton className={`${classes.switch} mono`} onClick={turn} aria-keyshortcuts="Alt+E" title="Alt E">
          {mode === 'outline' ? 'as text' : 'as outline'}
        </UnstyledButton>
        <WholeMenu
          place={place}
          path={path}
          text={text}
          onTake={(next) => {
            setOutline(readGroup(next));
            keep(next);
          }}
          onName={() => setNaming(true)}
        />
      </div>
      {mode === 'text' && isOnlyText(readGroup(text)) && readGroup(text) !== null && (
        <p className={classes.note}>No outline shows this condition better than its text does.</p>
      )}
    </div>
  );
}

/** What can be done with the whole condition: taken from elsewhere, turned round, given a name. */
function WholeMenu({
  place,
  path,
  text,
  onTake,
  onName,
}: {
  readonly place: ConditionPlace;
  readonly path: string;
  readonly text: string;
  readonly onTake: (text: string) => void;
  readonly onName: () => void;
}) {
  const others = conditionsOf(place.workflow).filter((one) => one.path !== path && one.text !== text);
  const opposite = (of: string): string | null => {
    const group = readGroup(of);
    const turned =
      group && negateItem(group.of.length === 1 && group.of[0] ? (group.which === 'none' ? group : group.of[0]) : group);
    const found = turned && textOf(turned, place.scope);
    return found && 'text' in found ? found.text : null;
  };
  const take = (of: string | null): void => {
    if (of !== null && 'text' in (textOf(readGroup(of) ?? { kind: 'group', which: 'any', of: [] }, place.scope) ?? {}))
      onTake(of);
  };
  return (
    <Menu position="bottom-end" withinPortal>
      <Menu.Target>
        <ActionIcon size="sm" variant="subtle" color="gray" aria-label="More about this condition">
          <IconDots size={14} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown mah={320} style={{ overflowY: 'auto' }}>
        <Menu.Item onClick={() => take(opposite(text))}>Turn into its opposite</Menu.Item>
        {place.mayBeNamed && <Menu.Item onClick={onName}>Make it a named condition …</Menu.Item>}
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
