import { Button } from '@mantine/core';
import {
  type ClockMoment,
  clockMoments,
  describeDiagnostic,
  type HandedOn,
  type Result,
  remind,
  writeInstant,
} from '@ypomet/core';
import { useState } from 'react';
import { formatDue } from '../../shared/due.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Arriving, sayDelivery } from '../consequences/Arriving.tsx';
import { useRehearsal } from './rehearsal-context.tsx';
import classes from './WhyPanel.module.css';

/** By when the record is to be done at its stage, what it is reminded of until then, and what happens by itself. */
export function ByClock() {
  const { record, workflow, outside } = useRehearsal();
  const stage = workflow.stages.get(record.stage)?.stage;
  if (!stage || stage.due === null) return null;
  const moments = clockMoments(workflow, record, outside);
  return (
    <section aria-label="By the clock">
      <h3>{record.due === null ? 'It is due at no date' : `Due ${formatDue(record.due, outside)}`}</h3>
      {moments.map((moment) =>
        moment.kind === 'reminder' ? (
          <ReminderLine key={`reminder ${moment.reminder}`} moment={moment} />
        ) : (
          <HandOffLine key={`hand-off ${moment.handOff}`} moment={moment} />
        ),
      )}
    </section>
  );
}

/** When a hand-off's next stage is due, and what happens by the clock there. */
export function DueThen({ handedOn }: { readonly handedOn: HandedOn | null }) {
  const { outside } = useRehearsal();
  if (!handedOn || handedOn.record.due === null) return null;
  return (
    <p className={classes.soft}>
      It is due there <strong>{formatDue(handedOn.record.due, outside)}</strong>
    </p>
  );
}

function ReminderLine({ moment }: { readonly moment: Extract<ClockMoment, { kind: 'reminder' }> }) {
  const { record, workflow, outside } = useRehearsal();
  const name = workflow.stages.get(record.stage)?.stage.reminders.find(({ key }) => key === moment.reminder)?.name;
  const deliveries = remind(workflow, record, moment.reminder, outside)?.deliveries ?? [];
  const at = { workflow, outside };
  return (
    <div className={classes.clocked}>
      <span className="mono">{formatInstant(writeInstant(moment.at), outside)}</span>
      <div>
        Reminder “{name}”{deliveries.length === 0 && ' would send nothing'}
        {deliveries.map((one) => (
          <details key={one.delivery} className={classes.mail}>
            <summary>
              <strong>{one.name}</strong> {sayDelivery(one, at)}
            </summary>
            <Arriving delivery={one} at={at} />
          </details>
        ))}
      </div>
    </div>
  );
}

function HandOffLine({ moment }: { readonly moment: Extract<ClockMoment, { kind: 'hand-off' }> }) {
  const { record, workflow, outside, letClock } = useRehearsal();
  const [came, setCame] = useState<{ readonly at: object; readonly result: Result<HandedOn> } | null>(null);
  const refused = came && came.at === record && !came.result.ok ? came.result.diagnostics : [];
  const name = workflow.handOffs.get(moment.handOff)?.handOff.name;
  return (
    <div className={classes.clocked}>
      <span className="mono">{formatInstant(writeInstant(moment.at), outside)}</span>
      <div>
        “{name}” happens by itself{' '}
        <Button
          size="compact-xs"
          variant="default"
          aria-label={`Let “${name}” happen by itself`}
          onClick={() => setCame({ at: record, result: letClock(moment.handOff) })}
        >
          Let it happen
        </Button>
        {refused.length > 0 && (
          <p className={classes.soft} role="status">
            It would be refused: {refused.map((one) => describeDiagnostic(one)).join(' ')}
          </p>
        )}
      </div>
    </div>
  );
}
