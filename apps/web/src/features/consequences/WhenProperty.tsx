import { type Path, within } from '@ypomet/core';
import { ConditionEditor } from '../conditions/ConditionEditor.tsx';
import { useConditionPlace } from '../conditions/use-place.ts';
import { SwitchProperty, useChange, useChangeCondition } from '../plan/panels/properties.tsx';
import classes from './Consequences.module.css';

/** When something happens: always, or under a condition. `table`: the table whose rows it looks at one by one. */
export function WhenProperty({
  path,
  when,
  name,
  table = null,
}: {
  readonly path: Path;
  readonly when: string | null;
  readonly name: string;
  readonly table?: string | null;
}) {
  const place = useConditionPlace(table);
  const change = useChange(path);
  const changeWhen = useChangeCondition(path, 'when');
  return (
    <>
      <SwitchProperty
        label={table === null ? 'Only under a condition' : 'Only for rows under a condition'}
        value={when !== null}
        onKeep={(isOn) => change({ when: isOn ? 'false' : null })}
      />
      {when !== null && (
        <div className={classes.when}>
          <ConditionEditor
            text={when}
            label={`When ${name} happens`}
            path={within(path, 'when')}
            place={place}
            onChange={changeWhen}
          />
        </div>
      )}
    </>
  );
}
