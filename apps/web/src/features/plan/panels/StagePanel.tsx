import { Button, UnstyledButton } from '@mantine/core';
import { findStage, joinPath, type Workflow } from '@ypomet/core';
import { DuePanel } from '../../consequences/DuePanel.tsx';
import { WhatHappens } from '../../consequences/WhatHappens.tsx';
import { useDraft } from '../../drafts/draft-context.tsx';
import { Word } from '../../help/Word.tsx';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import { newHandOff, stageAfter } from './new-parts.ts';
import classes from './Panel.module.css';
import { PartActions, UsedBy } from './PartActions.tsx';
import { ChoiceProperty, ChoicesProperty, TextProperty, useChange } from './properties.tsx';
import { SetsProperty } from './SetsProperty.tsx';

type Props = { readonly stage: string; readonly onSelect: (selection: Selection) => void };

const KINDS = [
  { value: 'intake', label: 'Intake: records begin here' },
  { value: 'work', label: 'Work: somebody fills in' },
  { value: 'junction', label: 'Junction: passes on at once' },
  { value: 'end', label: 'End: records rest here' },
] as const;

const choicesOf = (list: readonly Pick<Workflow['roles'][number], 'key' | 'name'>[]) =>
  list.map(({ key, name }) => ({ value: key, label: name }));

/** Who is here: the analyst, saying what a stage is, who works there, and how it hands on. */
export function StagePanel({ stage: key, onSelect }: Props) {
  const { store, definition } = useDraft();
  const part = joinPath('stages', key);
  const change = useChange(part);
  const stage = findStage(definition, key);
  if (!stage) return <p>This stage is gone.</p>;
  const handOffs = definition.handOffs.filter(({ from }) => from === key);
  const rename = (next: string): boolean => {
    const isRenamed = store.edit({ type: 'rename-key', part, key: next });
    if (isRenamed) onSelect({ kind: 'stage', stage: next });
    return isRenamed;
  };
  const addHandOff = (): void => {
    const made = newHandOff(definition, stage);
    if (store.edit(made.edit)) onSelect({ kind: 'hand-off', handOff: made.key });
  };
  const insert = (): void => {
    const made = stageAfter(definition, stage);
    if (store.edit(made.edit)) onSelect({ kind: 'stage', stage: made.key });
  };
  return (
    <>
      <p className={inspector.where}>Stage</p>
      <h2 className={inspector.title}>{stage.name}</h2>
      <div className={classes.panel} key={key}>
        <TextProperty label="Name" value={stage.name} onKeep={(name) => change({ name })} />
        <ChoiceProperty
          label="Kind"
          value={stage.kind}
          choices={KINDS}
          onKeep={(kind) => kind && change({ kind, ...(kind === 'work' || kind === 'intake' ? {} : { assignment: null }) })}
        />
        {stage.kind === 'junction' && (
          <p className={inspector.soft}>
            Nobody stops at a <Word of="junction">junction</Word>.
          </p>
        )}
        <TextProperty label="Key in expressions" value={stage.key} isCode onKeep={rename} />
        <ChoicesProperty
          label="Tracks it lies on, its own first"
          value={stage.tracks}
          choices={choicesOf(definition.tracks)}
          none=""
          onKeep={(tracks) => tracks.length > 0 && change({ tracks: [...tracks] })}
        />
        {stage.kind !== 'junction' && stage.kind !== 'end' && (
          <ChoicesProperty
            label="Who may act here"
            value={stage.roles}
            choices={choicesOf(definition.roles)}
            none={stage.kind === 'intake' ? 'anybody' : 'whoever submitted the record'}
            onKeep={(roles) => change({ roles: [...roles] })}
          />
        )}
        <TextProperty
          label="Notes for colleagues"
          note="Shown nowhere else."
          value={stage.notes}
          lines={2}
          onKeep={(notes) => change({ notes })}
        />
      </div>
      {(stage.kind === 'work' || stage.kind === 'intake' || stage.due !== null || stage.reminders.length > 0) && (
        <>
          <h3>
            <Word of="due">By when</Word>
          </h3>
          <DuePanel stage={key} />
        </>
      )}
      <h3>Hands on by</h3>
      {handOffs.map((handOff) => (
        <div key={handOff.key} className={classes.row}>
          <UnstyledButton className={inspector.link} onClick={() => onSelect({ kind: 'hand-off', handOff: handOff.key })}>
            {handOff.name}
          </UnstyledButton>
          <span className={inspector.soft}>
            {handOff.branches.length > 0
              ? `${handOff.branches.length + (handOff.otherwise ? 1 : 0)} ways`
              : `→ ${findStage(definition, handOff.otherwise?.to ?? '')?.name ?? 'nowhere'}`}
          </span>
        </div>
      ))}
      {stage.kind === 'end' ? (
        <p className={inspector.soft}>An end hands nothing on.</p>
      ) : (
        <Button size="compact-sm" variant="default" onClick={addHandOff}>
          Add a hand-off
        </Button>
      )}
      <SetsProperty title="Sets on arrival" list={joinPath('stages', key, 'onArrival', 'sets')} sets={stage.onArrival.sets} />
      <WhatHappens kind="stage" of={key} />
      <UsedBy part={part} onSelect={onSelect} />
      <div className={classes.actions}>
        {stage.kind !== 'end' && (
          <Button size="compact-sm" variant="default" onClick={insert}>
            Insert a stage after it
          </Button>
        )}
      </div>
      <PartActions
        part={part}
        earlier="Move left"
        later="Move right"
        onCopied={(copied) => onSelect({ kind: 'stage', stage: copied })}
        onGone={() => onSelect({ kind: 'nothing' })}
      />
    </>
  );
}
