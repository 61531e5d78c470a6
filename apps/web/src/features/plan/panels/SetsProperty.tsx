import { Button, Select, UnstyledButton } from '@mantine/core';
import { findField, isComputed, makeKey, type Path, type SetValue, typeOfField, within } from '@ypomet/core';
import { useConditionPlace } from '../../conditions/use-place.ts';
import { useDraft } from '../../drafts/draft-context.tsx';
import { ExpressionField } from '../../expressions/ExpressionField.tsx';
import inspector from '../Inspector.module.css';
import classes from './Panel.module.css';
import { useMove } from './PartActions.tsx';

type Props = { readonly title: string; readonly list: Path; readonly sets: readonly SetValue[] };

/** Values that are set, in their order: each field with the expression it is set to. What is computed can't be set. */
export function SetsProperty({ title, list, sets }: Props) {
  const { store, definition } = useDraft();
  const taken = new Set(sets.map(({ field }) => field));
  const open = definition.fields.filter((field) => field.type !== 'note' && !taken.has(field.key) && !isComputed(field));
  const add = (field: string): void => {
    const key = makeKey(`set ${field}`, new Set(sets.map((own) => own.key)), 'set');
    store.edit({ type: 'add-part', to: list, part: { key, field, value: 'null' }, before: null });
  };
  return (
    <div role="group" aria-label={title}>
      <h3>{title}</h3>
      {sets.length === 0 && <p className={inspector.soft}>Nothing is set.</p>}
      {sets.map((set) => (
        <SetRow key={set.key} list={list} set={set} />
      ))}
      <Select
        size="xs"
        aria-label={`${title}: add a field`}
        placeholder="+ set a field"
        searchable
        data={open.map((field) => ({ value: field.key, label: field.name }))}
        value={null}
        onChange={(field) => field !== null && add(field)}
      />
    </div>
  );
}

function SetRow({ list, set }: { readonly list: Path; readonly set: SetValue }) {
  const { store, definition, compiled } = useDraft();
  const { scope } = useConditionPlace();
  const part = within(list, set.key);
  const { earlier, later } = useMove(part);
  const field = findField(definition, set.field);
  const name = field?.name ?? set.field;
  return (
    <div className={classes.labelled}>
      <ExpressionField
        label={`${name} is set to`}
        text={set.value}
        scope={scope}
        expected={field ? typeOfField(field, compiled.findWorkflow) : undefined}
        at={{ workflow: definition.key, path: within(part, 'value') }}
        isTold
        onKeep={(value) => store.edit({ type: 'change-part', part, set: { value } })}
      />
      <span>
        <Button
          size="compact-xs"
          variant="subtle"
          aria-label={`Set ${name} earlier`}
          disabled={!earlier}
          onClick={() => earlier?.()}
        >
          ↑
        </Button>
        <Button size="compact-xs" variant="subtle" aria-label={`Set ${name} later`} disabled={!later} onClick={() => later?.()}>
          ↓
        </Button>
        <UnstyledButton
          className={inspector.link}
          onClick={() => store.edit({ type: 'delete-part', part, withUses: true })}
          aria-label={`Don’t set ${name}`}
        >
          remove
        </UnstyledButton>
      </span>
    </div>
  );
}
