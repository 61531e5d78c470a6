import { describeDiagnostic, type FieldReason, findField, type HandOffReason, type Outcome, type Reason } from '@ypomet/core';
import { Mark } from '../conditions/Mark.tsx';
import { useDraft } from '../drafts/draft-context.tsx';
import { ExplainedCondition } from './ExplainedCondition.tsx';
import { useRehearsal } from './rehearsal-context.tsx';
import classes from './WhyPanel.module.css';

/** What the design decides for the rehearsal's record, and what each decision read. */
export function WhyPanel({
  handOffs,
  fields,
}: {
  readonly handOffs: readonly HandOffReason[];
  readonly fields: readonly FieldReason[];
}) {
  const { definition } = useDraft();
  return (
    // What scrolls is reached with the keyboard, too (WCAG 2.1.1).
    // biome-ignore lint/a11y/noNoninteractiveTabindex: see above
    <section className={classes.why} aria-label="Why" tabIndex={0}>
      <h2>Why</h2>
      <p className={classes.soft}>What the design decides for this record, and what it read</p>
      {handOffs.map((handOff) => (
        <HandOffWhy key={handOff.key} handOff={handOff} />
      ))}
      {handOffs.length === 0 && <p className={classes.soft}>No hand-off leaves this stage.</p>}
      {fields.length > 0 && <h3>Fields</h3>}
      {fields.map((reason) => {
        const name = findField(definition, reason.field)?.name ?? reason.field;
        return reason.adjustments.map((one) => (
          <Line key={`${reason.field}/${one.adjustment.key}`} reason={one}>
            <strong>{name}</strong> {one.decides ? reason.treatment : `stays ${reason.treatment}`}
            {one.decides ? `, was ${reason.planned}: ` : ': '}adjustment “{one.adjustment.name}”{' '}
            {one.truth === true
              ? one.decides
                ? 'holds'
                : 'holds, after another'
              : one.truth === null
                ? 'is unknown'
                : 'doesn’t hold'}
          </Line>
        ));
      })}
      <After handOffs={handOffs} />
    </section>
  );
}

const OUTCOME: Readonly<Record<Outcome, string>> = {
  taken: 'is taken',
  'passed-over': '',
  'not-tried': 'is not tried: an earlier branch holds',
  clash: 'holds together with another, and just one may',
};

function HandOffWhy({ handOff }: { readonly handOff: HandOffReason }) {
  const { compiled } = useDraft();
  const nameOf = (stage: string): string => compiled.stages.get(stage)?.stage.name ?? stage;
  return (
    <>
      <h3>{handOff.name}</h3>
      {handOff.ways.map((way) => (
        <div key={way.handOff}>
          {way.junction !== null && <p className={classes.soft}>At {nameOf(way.junction)}</p>}
          {way.branches.map((branch) => (
            <Line key={branch.key} reason={branch} isMuted={branch.outcome === 'not-tried'}>
              <strong>{branch.name}</strong> {OUTCOME[branch.outcome]} <span className={classes.soft}>→ {nameOf(branch.to)}</span>
            </Line>
          ))}
          {way.otherwise && (
            <div className={classes.line} data-muted={way.otherwise.outcome === 'not-tried' || undefined}>
              <Mark truth={way.otherwise.outcome === 'taken'} />
              <div>
                {way.branches.length > 0 ? 'otherwise ' : 'always '}→ <strong>{nameOf(way.otherwise.to)}</strong>
              </div>
            </div>
          )}
        </div>
      ))}
      {handOff.refusals.map((one) => (
        <p key={`${one.path}/${one.code}`} className={classes.gap}>
          {describeDiagnostic(one)}
        </p>
      ))}
    </>
  );
}

function Line({
  reason,
  isMuted = false,
  children,
}: {
  readonly reason: Reason;
  readonly isMuted?: boolean;
  readonly children: React.ReactNode;
}) {
  return (
    <div className={classes.line} data-muted={isMuted || undefined}>
      <Mark truth={reason.truth} />
      <div>
        <div>{children}</div>
        {reason.explanation && <ExplainedCondition explanation={reason.explanation} />}
      </div>
    </div>
  );
}

/** What would follow the first hand-off, were it pressed now. */
function After({ handOffs }: { readonly handOffs: readonly HandOffReason[] }) {
  const { preview } = useRehearsal();
  const { compiled } = useDraft();
  const first = handOffs[0];
  if (!first) return null;
  const came = preview(first.key);
  const mails = first.consequences.filter(({ kind }) => kind === 'delivery');
  return (
    <>
      <h3>After “{first.name}”</h3>
      {!came.ok && first.refusals.length === 0 && (
        <p className={classes.soft}>
          It would be refused: {came.diagnostics.length === 1 ? 'one thing is' : `${came.diagnostics.length} things are`} missing
          or wrong. The form says what once it is pressed.
        </p>
      )}
      {mails.map((step) => (
        <Line key={`${step.owner}/${step.key}`} reason={step} isMuted={step.outcome === 'not-tried'}>
          Mail “{deliveryName(compiled, step.key)}”
          {step.outcome === 'taken'
            ? `: ${first.handedOn?.deliveries.find((mail) => mail.delivery === step.key)?.subject ?? ''}`
            : ' is not sent'}
        </Line>
      ))}
      {first.handedOn?.acknowledgement && (
        <div className={classes.line}>
          <Mark truth={true} />
          <div>Acknowledgement: “{first.handedOn.acknowledgement.text}”</div>
        </div>
      )}
    </>
  );
}

function deliveryName(compiled: ReturnType<typeof useDraft>['compiled'], key: string): string {
  const lists = [...compiled.handOffs.values(), ...compiled.stages.values()];
  for (const { deliveries } of lists) {
    const found = deliveries.find(({ delivery }) => delivery.key === key);
    if (found) return found.delivery.name;
  }
  return key;
}
