import { type Check, joinPath } from '@ypomet/core';
import { ConditionEditor } from '../conditions/ConditionEditor.tsx';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import inspector from '../plan/Inspector.module.css';
import panel from '../plan/panels/Panel.module.css';
import { PartActions } from '../plan/panels/PartActions.tsx';
import { ChoiceProperty, ChoicesProperty, TextProperty, useChange, useChangeCondition } from '../plan/panels/properties.tsx';

/** Who is here: the analyst, saying what must hold before a record is handed on, and what is said where it doesn't. */
export function CheckPanel({
  check,
  onGone,
  onCopied,
}: {
  readonly check: Check;
  readonly onGone: () => void;
  readonly onCopied: (key: string) => void;
}) {
  const { definition } = useDraft();
  const part = joinPath('checks', check.key);
  const change = useChange(part);
  const changeCondition = useChangeCondition(part, 'condition');
  const place = useConditionPlace();
  return (
    <div>
      <div className={inspector.card}>
        <p className={inspector.lead}>It must hold that</p>
        <ConditionEditor
          key={part}
          text={check.condition}
          label={`What ${check.name} asks`}
          path={joinPath('checks', check.key, 'condition')}
          place={place}
          onChange={changeCondition}
        />
      </div>
      <div className={panel.panel} key={check.key}>
        <TextProperty label="Name" value={check.name} onKeep={(name) => change({ name })} />
        <TextProperty
          label="What is said where it doesn’t"
          value={check.message}
          lines={2}
          onKeep={(message) => change({ message })}
        />
        <ChoicesProperty
          label="At the stages"
          value={check.stages}
          choices={definition.stages.map((stage) => ({ value: stage.key, label: stage.name }))}
          none="every stage"
          onKeep={(stages) => change({ stages: [...stages] })}
        />
        <ChoiceProperty
          label="Beside the field"
          value={check.field}
          choices={definition.fields.map((field) => ({ value: field.key, label: field.name }))}
          none="above the form"
          onKeep={(field) => change({ field })}
        />
      </div>
      <PartActions part={part} earlier="Earlier" later="Later" onCopied={onCopied} onGone={onGone} />
    </div>
  );
}
