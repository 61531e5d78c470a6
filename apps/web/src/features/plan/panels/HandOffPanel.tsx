import { Button, UnstyledButton } from '@mantine/core';
import { type Branch, findHandOff, findStage, type HandOff, joinPath } from '@ypomet/core';
import { ConditionEditor } from '../../conditions/ConditionEditor.tsx';
import { sayExpression } from '../../conditions/in-words.ts';
import { useConditionPlace, useWording } from '../../conditions/use-place.ts';
import { OffsetProperty } from '../../consequences/OffsetProperty.tsx';
import { WhatHappens } from '../../consequences/WhatHappens.tsx';
import { useDraft } from '../../drafts/draft-context.tsx';
import { Word } from '../../help/Word.tsx';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import { newBranch } from './new-parts.ts';
import classes from './Panel.module.css';
import { PartActions, useMove } from './PartActions.tsx';
import { ChoiceProperty, ChoicesProperty, SwitchProperty, TextProperty, useChange, useChangeCondition } from './properties.tsx';
import { SetsProperty } from './SetsProperty.tsx';

type Props = { readonly handOff: string; readonly onSelect: (selection: Selection) => void };

/** Who is here: the analyst, saying who may press this button, when it is there, and where the record goes. */
export function HandOffPanel({ handOff: key, onSelect }: Props) {
  const { store, definition } = useDraft();
  const place = useConditionPlace();
  const part = joinPath('handOffs', key);
  const change = useChange(part);
  const changeOffered = useChangeCondition(part, 'offeredWhen');
  const handOff = findHandOff(definition, key);
  if (!handOff) return <p>This hand-off is gone.</p>;
  const stages = definition.stages.map((stage) => ({ value: stage.key, label: stage.name }));
  const { otherwise } = handOff;
  const addBranch = (): void => {
    const made = newBranch(definition, handOff);
    if (store.edit(made.edit)) onSelect({ kind: 'branch', handOff: key, branch: made.key });
  };
  return (
    <>
      <p className={inspector.where}>
        <UnstyledButton className={inspector.link} onClick={() => onSelect({ kind: 'stage', stage: handOff.from })}>
          {findStage(definition, handOff.from)?.name ?? handOff.from}
        </UnstyledButton>{' '}
        · hand-off
      </p>
      <h2 className={inspector.title}>{handOff.name}</h2>
      <div className={classes.panel} key={key}>
        <TextProperty label="Name on the button" value={handOff.name} onKeep={(name) => change({ name })} />
        <ChoicesProperty
          label="Who may press it"
          value={handOff.roles}
          choices={definition.roles.map((role) => ({ value: role.key, label: role.name }))}
          none="whoever may act at the stage"
          onKeep={(roles) => change({ roles: [...roles] })}
        />
        <ChoiceProperty
          label="Before it goes"
          value={handOff.checking}
          choices={[
            { value: 'full', label: 'everything required must be there' },
            { value: 'none', label: 'nothing is checked (save, send back)' },
          ]}
          onKeep={(checking) => checking && change({ checking })}
        />
        <ChoiceProperty
          label="Its button"
          value={handOff.emphasis}
          choices={[
            { value: 'primary', label: 'is what most press (filled)' },
            { value: 'plain', label: 'is one among others' },
            { value: 'final', label: 'ends something: asks before it goes' },
          ]}
          onKeep={(emphasis) => emphasis && change({ emphasis })}
        />
        {handOff.emphasis === 'final' && (
          <TextProperty
            label="What is asked before it"
            note="What follows, for whoever presses; empty: that it can’t be taken back"
            value={handOff.confirmation}
            lines={2}
            onKeep={(confirmation) => change({ confirmation })}
          />
        )}
        <SwitchProperty
          label="Offered only under a condition"
          value={handOff.offeredWhen !== null}
          onKeep={(isOn) => change({ offeredWhen: isOn ? 'false' : null })}
        />
        {handOff.offeredWhen !== null && (
          <div className={inspector.card}>
            <p className={inspector.lead}>Offered while</p>
            <ConditionEditor
              text={handOff.offeredWhen}
              label={`When ${handOff.name} is offered`}
              path={joinPath('handOffs', key, 'offeredWhen')}
              place={place}
              onChange={changeOffered}
            />
            <TextProperty
              label="Why it isn’t offered yet"
              note="Shown in the place of the button; empty: nothing is shown before it is offered"
              placeholder="such as: after two condition reports"
              value={handOff.notYet}
              onKeep={(notYet) => change({ notYet })}
            />
          </div>
        )}
      </div>
      {findStage(definition, handOff.from)?.kind !== 'junction' && <ByClockProperty handOff={handOff} onSelect={onSelect} />}
      <h3>Where the record goes</h3>
      {handOff.branches.map((branch, index) => (
        <BranchRow key={branch.key} handOff={key} index={index} branch={branch} onSelect={onSelect} />
      ))}
      <Button size="compact-sm" variant="default" onClick={addBranch}>
        Add a branch
      </Button>
      <div className={classes.panel}>
        <ChoiceProperty
          label={handOff.branches.length > 0 ? 'Otherwise to' : 'To'}
          value={otherwise?.to ?? null}
          choices={stages}
          none="nowhere: it is refused"
          onKeep={(to) => change({ otherwise: to === null ? null : { to, track: otherwise?.track ?? null } })}
        />
        {otherwise && definition.tracks.length > 1 && (
          <ChoiceProperty
            label="Track from there"
            value={otherwise.track}
            choices={definition.tracks.map((track) => ({ value: track.key, label: track.name }))}
            none="as it is"
            onKeep={(track) => change({ otherwise: { ...otherwise, track } })}
          />
        )}
        {handOff.branches.length > 1 && (
          <ChoiceProperty
            label="Where several hold"
            value={handOff.policy}
            choices={[
              { value: 'first', label: 'the first of them is taken' },
              { value: 'single', label: 'it is refused: just one may hold' },
            ]}
            onKeep={(policy) => policy && change({ policy })}
          />
        )}
        <p className={inspector.soft}>
          About <Word of="checking">checking</Word>, <Word of="branch">branches</Word> and their <Word of="policy">policy</Word>
        </p>
      </div>
      <SetsProperty title="Sets" list={joinPath('handOffs', key, 'sets')} sets={handOff.sets} />
      {definition.handOffs.some(({ followUps }) => followUps.some(({ carried }) => carried.length > 0)) && (
        <div className={classes.panel}>
          <SwitchProperty
            label="Refreshes what open follow-ups carry"
            value={handOff.refreshesCarried}
            onKeep={(refreshesCarried) => change({ refreshesCarried })}
          />
        </div>
      )}
      <WhatHappens kind="hand-off" of={key} />
      <PartActions
        part={part}
        earlier="Move up"
        later="Move down"
        onCopied={(copied) => onSelect({ kind: 'hand-off', handOff: copied })}
        onGone={() => onSelect({ kind: 'stage', stage: handOff.from })}
      />
    </>
  );
}

/** Whether it happens by itself once its stage's due date has passed, and whether anybody may press it besides. */
function ByClockProperty({ handOff, onSelect }: { readonly handOff: HandOff; readonly onSelect: Props['onSelect'] }) {
  const { definition } = useDraft();
  const change = useChange(joinPath('handOffs', handOff.key));
  const stage = findStage(definition, handOff.from);
  const { byClock } = handOff;
  return (
    <div className={classes.panel}>
      <SwitchProperty
        label="Happens by itself, by the due date"
        value={byClock !== null}
        onKeep={(isOn) => change({ byClock: isOn ? { offset: { count: 0, unit: 'days', side: 'after' } } : null })}
      />
      {byClock && (
        <>
          <OffsetProperty
            label="It happens"
            value={byClock.offset}
            onKeep={(offset) => change({ byClock: { ...byClock, offset } })}
          />
          <SwitchProperty
            label="Nobody presses it: it is the clock’s alone"
            value={byClock.alone}
            onKeep={(alone) => change({ byClock: { ...byClock, alone } })}
          />
          {stage?.due === null && (
            <p className={inspector.soft}>
              <UnstyledButton className={inspector.link} onClick={() => onSelect({ kind: 'stage', stage: stage.key })}>
                {stage.name}
              </UnstyledButton>{' '}
              has no due date yet: give it one.
            </p>
          )}
        </>
      )}
    </div>
  );
}

function BranchRow({
  handOff,
  branch,
  index,
  onSelect,
}: {
  readonly handOff: string;
  readonly branch: Branch;
  readonly index: number;
  readonly onSelect: Props['onSelect'];
}) {
  const { definition } = useDraft();
  const wording = useWording();
  const { earlier, later } = useMove(joinPath('handOffs', handOff, 'branches', branch.key));
  return (
    <div className={classes.row}>
      <span>
        <span className={classes.number}>{index + 1}</span>{' '}
        <UnstyledButton className={inspector.link} onClick={() => onSelect({ kind: 'branch', handOff, branch: branch.key })}>
          {branch.name}
        </UnstyledButton>{' '}
        <span className={inspector.soft}>→ {findStage(definition, branch.to)?.name ?? branch.to}</span>
        <span className={classes.said}>{sayExpression(branch.when, wording)}</span>
      </span>
      <Button
        size="compact-sm"
        variant="subtle"
        aria-label={`Try ${branch.name} earlier`}
        disabled={!earlier}
        onClick={() => earlier?.()}
      >
        ↑
      </Button>
      <Button
        size="compact-sm"
        variant="subtle"
        aria-label={`Try ${branch.name} later`}
        disabled={!later}
        onClick={() => later?.()}
      >
        ↓
      </Button>
    </div>
  );
}
