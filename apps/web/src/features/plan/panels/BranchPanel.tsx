import { Button, UnstyledButton } from '@mantine/core';
import { type CompiledHandOff, findField, findHandOff, findStage, joinPath, namesReadBy, plannedTreatment } from '@ypomet/core';
import { useNavigate } from 'react-router';
import { ConditionEditor } from '../../conditions/ConditionEditor.tsx';
import { useConditionPlace, useWording } from '../../conditions/use-place.ts';
import { newConsequence } from '../../consequences/new-consequences.ts';
import { WhatHappens } from '../../consequences/WhatHappens.tsx';
import { useDraft } from '../../drafts/draft-context.tsx';
import { useRehearsalForm } from '../../rehearsal/rehearsal-context.tsx';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import classes from './Panel.module.css';
import { PartActions } from './PartActions.tsx';
import { ChoiceProperty, TextProperty, useChange, useChangeCondition } from './properties.tsx';

const ORDINALS = ['First', 'Second', 'Third', 'Fourth', 'Fifth', 'Sixth', 'Seventh', 'Eighth', 'Ninth', 'Tenth'];
const COUNTS = ['no', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten'];

type Props = { readonly handOff: string; readonly branch: string; readonly onSelect: (selection: Selection) => void };

/** Who is here: the analyst, saying under which condition a record goes where. */
export function BranchPanel({ handOff: key, branch: branchKey, onSelect }: Props) {
  const { store, definition, compiled } = useDraft();
  const navigate = useNavigate();
  const place = useConditionPlace();
  const part = joinPath('handOffs', key, 'branches', branchKey);
  const change = useChange(part);
  const changeWhen = useChangeCondition(part, 'when');
  const handOff = findHandOff(definition, key);
  const index = handOff?.branches.findIndex((own) => own.key === branchKey) ?? -1;
  const branch = handOff?.branches[index];
  const compiledHandOff = compiled.handOffs.get(key);
  if (!handOff || !branch || !compiledHandOff) return <p>This branch is gone.</p>;
  /** A mail of the hand-off, under the condition that the record goes where this branch leads. */
  const send = (): void => {
    const list = joinPath('handOffs', key, 'deliveries');
    const made = newConsequence(list, 'mail', handOff.deliveries, { when: `destination.key = ${JSON.stringify(branch.to)}` });
    if (store.edit(made.edit))
      void navigate(`/workflows/${definition.key}/consequences?at=${encodeURIComponent(`${list}.${made.key}`)}`);
  };
  return (
    <>
      <p className={inspector.where}>
        {findStage(definition, handOff.from)?.name} ·{' '}
        <UnstyledButton className={inspector.link} onClick={() => onSelect({ kind: 'hand-off', handOff: key })}>
          hand-off “{handOff.name}”
        </UnstyledButton>
      </p>
      <h2 className={inspector.title}>{branch.name}</h2>
      <p className={inspector.soft}>
        {handOff.branches.length === 1
          ? 'The only branch'
          : `${ORDINALS[index] ?? `No. ${index + 1}`} of ${COUNTS[handOff.branches.length] ?? handOff.branches.length} branches · ${
              handOff.policy === 'first' ? 'first that holds is taken' : 'just one may hold'
            }`}
      </p>
      <div className={inspector.card}>
        <p className={inspector.lead}>
          A record goes to <strong>{findStage(definition, branch.to)?.name ?? branch.to}</strong> when
        </p>
        <ConditionEditor
          key={part}
          text={branch.when}
          label={`When ${handOff.name} leads to ${findStage(definition, branch.to)?.name ?? branch.to}`}
          path={joinPath('handOffs', key, 'branches', branchKey, 'when')}
          place={place}
          onChange={changeWhen}
        />
      </div>
      <Reads handOff={compiledHandOff} branch={branchKey} />
      <div className={classes.panel} key={part}>
        <TextProperty label="Name" value={branch.name} onKeep={(name) => change({ name })} />
        <div className={classes.pair}>
          <ChoiceProperty
            label="To"
            value={branch.to}
            choices={definition.stages.map((stage) => ({ value: stage.key, label: stage.name }))}
            onKeep={(to) => to && change({ to })}
          />
          {definition.tracks.length > 1 && (
            <ChoiceProperty
              label="Track from there"
              value={branch.track}
              choices={definition.tracks.map((track) => ({ value: track.key, label: track.name }))}
              none="as it is"
              onKeep={(track) => change({ track })}
            />
          )}
        </div>
      </div>
      <WhatHappens kind="hand-off" of={key} />
      <Button size="compact-sm" variant="default" mt={8} onClick={send}>
        Send something when it goes this way
      </Button>
      <WhatHappens kind="stage" of={branch.to} />
      <PartActions
        part={part}
        earlier="Try earlier"
        later="Try later"
        onCopied={(copied) => onSelect({ kind: 'branch', handOff: key, branch: copied })}
        onGone={() => onSelect({ kind: 'hand-off', handOff: key })}
      />
    </>
  );
}

/** The fields a branch reads, where they get their values, and what they are in the rehearsal. */
function Reads({ handOff, branch }: { readonly handOff: CompiledHandOff; readonly branch: string }) {
  const { definition, compiled } = useDraft();
  const form = useRehearsalForm();
  const wording = useWording();
  const checked = handOff.branches.find((own) => own.branch.key === branch)?.condition.expression?.checked;
  const fields = checked ? namesReadBy(checked).flatMap((name) => compiled.forms.fieldByKey.get(name) ?? []) : [];
  if (fields.length === 0) return null;
  return (
    <section>
      <h3>Reads</h3>
      <ul className={inspector.plain}>
        {fields.map((of) => {
          const entered = definition.stages.filter((stage) =>
            ['optional', 'nudged', 'required'].includes(plannedTreatment(definition, of.field.key, stage.key)),
          );
          const from = of.computes
            ? `computed from ${
                of.computes.checked
                  ? namesReadBy(of.computes.checked)
                      .map((name) => findField(definition, name)?.name ?? name)
                      .join(', ')
                  : 'a faulty expression'
              }`
            : entered.length > 0
              ? `entered at ${entered.map((stage) => stage.name).join(', ')}`
              : 'never entered';
          return (
            <li key={of.field.key}>
              {of.field.name}{' '}
              <span className={inspector.soft}>
                {from} · in the rehearsal {wording.format(form.frame.slots[of.slot] ?? null, [of.field.key]) || 'empty'}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
