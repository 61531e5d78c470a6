import { fieldPath, findField, findStage, findSubField, joinPath, TREATMENTS, tablesAdjusted, type Workflow } from '@ypomet/core';
import { ConditionEditor } from '../../conditions/ConditionEditor.tsx';
import { useConditionPlace } from '../../conditions/use-place.ts';
import { useDraft } from '../../drafts/draft-context.tsx';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import classes from './Panel.module.css';
import { PartActions } from './PartActions.tsx';
import { ChoiceProperty, ChoicesProperty, SwitchProperty, TextProperty, useChange, useChangeCondition } from './properties.tsx';

type Props = { readonly adjustment: string; readonly onSelect: (selection: Selection) => void };

const fieldChoices = ({ fields }: Workflow) =>
  fields.flatMap((field) => [
    { value: field.key, label: field.name },
    ...(field.type === 'table'
      ? field.fields.map((own) => ({ value: fieldPath(field.key, own.key), label: `${field.name}: ${own.name}` }))
      : []),
  ]);

/** Who is here: the analyst, saying under which condition which fields get another treatment, and where. */
export function AdjustmentPanel({ adjustment: key, onSelect }: Props) {
  const { definition } = useDraft();
  const part = joinPath('adjustments', key);
  const change = useChange(part);
  const changeWhen = useChangeCondition(part, 'when');
  const adjustment = definition.adjustments.find((own) => own.key === key);
  const place = useConditionPlace((adjustment && tablesAdjusted(adjustment).tables[0]) ?? null);
  if (!adjustment) return <p>This adjustment is gone.</p>;
  const sections = adjustment.sections.map((section) => definition.sections.find((own) => own.key === section)?.name ?? section);
  const names = [
    ...sections.map((name) => `section ${name}`),
    ...adjustment.fields.map((path) => findField(definition, path)?.name ?? findSubField(definition, path)?.field.name ?? path),
  ];
  const stages = adjustment.stages.map((stage) => findStage(definition, stage)?.name ?? stage);
  return (
    <>
      <p className={inspector.where}>Adjustment</p>
      <h2 className={inspector.title}>{adjustment.name}</h2>
      <div className={inspector.card}>
        <p className={inspector.lead}>
          <strong>{names.join(', ') || 'Nothing yet'}</strong> {names.length > 1 ? 'are' : 'is'}{' '}
          <strong>{adjustment.treatment}</strong> at {stages.length > 0 ? stages.join(', ') : 'every stage'} while
        </p>
        <ConditionEditor
          key={part}
          text={adjustment.when}
          label={`While ${adjustment.name} holds`}
          path={joinPath('adjustments', key, 'when')}
          place={place}
          onChange={changeWhen}
        />
      </div>
      <div className={classes.panel} key={key}>
        <TextProperty label="Name" value={adjustment.name} onKeep={(name) => change({ name })} />
        <ChoiceProperty
          label="Then they are"
          value={adjustment.treatment}
          choices={[...TREATMENTS].reverse().map((treatment) => ({ value: treatment, label: treatment }))}
          onKeep={(treatment) => treatment && change({ treatment })}
        />
        <ChoicesProperty
          label="Fields"
          value={adjustment.fields}
          choices={fieldChoices(definition)}
          none="none"
          onKeep={(fields) => change({ fields: [...fields] })}
        />
        <ChoicesProperty
          label="Whole sections"
          value={adjustment.sections}
          choices={definition.sections.map((section) => ({ value: section.key, label: section.name }))}
          none="none"
          onKeep={(chosen) => change({ sections: [...chosen] })}
        />
        <ChoicesProperty
          label="At the stages"
          value={adjustment.stages}
          choices={definition.stages.map((stage) => ({ value: stage.key, label: stage.name }))}
          none="every stage"
          onKeep={(chosen) => change({ stages: [...chosen] })}
        />
        {adjustment.treatment === 'hidden' && (
          <SwitchProperty label="Hidden fields keep their values" value={adjustment.keep} onKeep={(keep) => change({ keep })} />
        )}
      </div>
      <PartActions
        part={part}
        earlier="Goes earlier"
        later="Goes later"
        onCopied={(copied) => onSelect({ kind: 'adjustment', adjustment: copied })}
        onGone={() => onSelect({ kind: 'nothing' })}
      />
    </>
  );
}
