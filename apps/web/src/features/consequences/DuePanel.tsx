import { Button, UnstyledButton } from '@mantine/core';
import { findStage, joinPath, type Reminder } from '@ypomet/core';
import { Link } from 'react-router';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { ExpressionField } from '../expressions/ExpressionField.tsx';
import inspector from '../plan/Inspector.module.css';
import { useDelete } from '../plan/panels/PartActions.tsx';
import { SwitchProperty, TextProperty, useChange } from '../plan/panels/properties.tsx';
import classes from './Consequences.module.css';
import { newReminder, START_DUE } from './new-consequences.ts';
import { OffsetProperty } from './OffsetProperty.tsx';

/** Who is here: the analyst, saying until when something is to be done at a stage, and who is reminded of it. */
export function DuePanel({ stage: key }: { readonly stage: string }) {
  const { store, definition } = useDraft();
  const { scope } = useConditionPlace();
  const part = joinPath('stages', key);
  const change = useChange(part);
  const stage = findStage(definition, key);
  if (!stage) return <p>This stage is gone.</p>;
  const { due, reminders } = stage;
  const byItself = definition.handOffs.filter(({ from, byClock }) => from === key && byClock !== null);
  const isNeeded = reminders.length > 0 || byItself.length > 0;
  return (
    <div className={classes.due}>
      <SwitchProperty
        label="It is to be done by a date"
        value={due !== null}
        onKeep={(isOn) => change({ due: isOn ? START_DUE : null })}
      />
      {due === null && isNeeded && (
        <p className={classes.soft}>Its reminders, and what happens by itself, wait for a date to go by.</p>
      )}
      {due !== null && (
        <ExpressionField
          label="Due: a date (its end), or a date and time"
          text={due}
          scope={scope}
          // A day or a moment: what else it may come to is among the draft's faults.
          expected={undefined}
          at={{ workflow: definition.key, path: `${part}.due` }}
          isTold
          onKeep={(next) => change({ due: next })}
        />
      )}
      {reminders.map((reminder) => (
        <ReminderCard key={reminder.key} stage={key} reminder={reminder} />
      ))}
      {due !== null && (
        <Button size="compact-sm" variant="default" onClick={() => store.edit(newReminder(key, reminders).edit)}>
          Add a reminder
        </Button>
      )}
      {byItself.map((handOff) => (
        <p key={handOff.key} className={classes.soft}>
          <Link
            className={inspector.link}
            to={`/workflows/${definition.key}/plan?at=${encodeURIComponent(joinPath('handOffs', handOff.key))}`}
          >
            {handOff.name}
          </Link>{' '}
          happens by itself.
        </p>
      ))}
    </div>
  );
}

/** A reminder: when it goes out. What it sends is designed among the consequences. */
function ReminderCard({ stage, reminder }: { readonly stage: string; readonly reminder: Reminder }) {
  const { definition } = useDraft();
  const part = joinPath('stages', stage, 'reminders', reminder.key);
  const change = useChange(part);
  const { ask, question } = useDelete(part, () => {});
  const [first] = reminder.deliveries;
  const base = `/workflows/${definition.key}/consequences`;
  const at = first
    ? `?at=${encodeURIComponent(joinPath('stages', stage, 'reminders', reminder.key, 'deliveries', first.key))}`
    : '';
  return (
    <section className={classes.reminder} aria-label={`Reminder ${reminder.name}`}>
      <TextProperty label="Reminder" value={reminder.name} onKeep={(name) => change({ name })} />
      <OffsetProperty label="Sent" value={reminder.offset} onKeep={(offset) => change({ offset })} />
      <div className={classes.foot}>
        <Link className={inspector.link} to={`${base}${at}`}>
          {reminder.deliveries.length === 0 ? 'It sends nothing yet' : reminder.deliveries.map(({ name }) => name).join(', ')}
        </Link>
        <UnstyledButton className={inspector.link} aria-label={`Delete reminder ${reminder.name}`} onClick={ask}>
          Delete
        </UnstyledButton>
      </div>
      {question}
    </section>
  );
}
