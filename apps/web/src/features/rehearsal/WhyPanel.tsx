import { type BranchReason, type FieldReason, findField, type HandOffReason, type Reason } from '@ypomet/core';
import { Mark } from '../conditions/OutlineEditor.tsx';
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
  const { snapshot } = useDraft();
  return (
    <section className={classes.why} aria-label="Why">
      <h2>Why</h2>
      <p className={classes.soft}>What the design decides for this record, and what it read</p>
      {handOffs.map((handOff) => (
        <HandOffWhy key={handOff.key} handOff={handOff} />
      ))}
      {handOffs.length === 0 && <p className={classes.soft}>No hand-off leaves this stage.</p>}
      {fields.length > 0 && <h3>Fields</h3>}
      {fields.map((reason) => {
        const name = findField(snapshot.definition, reason.field)?.name ?? reason.field;
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

const OUTCOME: Readonly<Record<BranchReason['outcome'], string>> = {
  taken: 'is taken',
  'passed-over': 'not reached: an earlier branch holds',
  'not-taken': '',
};

function HandOffWhy({ handOff }: { readonly handOff: HandOffReason }) {
  const { compiled } = useDraft();
  const nameOf = (stage: string): string => compiled.stages.get(stage)?.stage.name ?? stage;
  return (
    <>
      <h3>{handOff.name}</h3>
      {handOff.branches.map((branch) => (
        <Line key={branch.key} reason={branch} isMuted={branch.outcome === 'passed-over'}>
          <strong>{branch.name}</strong> {OUTCOME[branch.outcome]} <span className={classes.soft}>→ {nameOf(branch.to)}</span>
        </Line>
      ))}
      {handOff.otherwise && (
        <div className={classes.line}>
          <Mark truth={handOff.otherwise.taken} />
          <div>
            {handOff.branches.length > 0 ? 'otherwise ' : 'always '}→ <strong>{nameOf(handOff.otherwise.to)}</strong>
          </div>
        </div>
      )}
      {handOff.leadsTo === null && <p className={classes.gap}>No branch takes this record, and there is no otherwise.</p>}
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
  return (
    <>
      <h3>After “{first.name}”</h3>
      {!came.ok && (
        <p className={classes.soft}>
          It would be refused: {came.diagnostics.length === 1 ? 'one thing is' : `${came.diagnostics.length} things are`} missing
          or wrong. The form says what once it is pressed.
        </p>
      )}
      {came.ok &&
        came.value.trace
          .filter((step) => step.kind === 'delivery')
          .map((step) => (
            <div key={`${step.owner}/${step.key}`} className={classes.line}>
              <Mark truth={step.truth} />
              <div>
                Mail “{deliveryName(compiled, step.key)}”
                {step.taken
                  ? `: ${came.value.deliveries.find((mail) => mail.delivery === step.key)?.subject ?? ''}`
                  : ' is not sent'}
              </div>
            </div>
          ))}
      {came.ok && came.value.acknowledgement && (
        <div className={classes.line}>
          <Mark truth={true} />
          <div>Acknowledgement: “{came.value.acknowledgement.text}”</div>
        </div>
      )}
    </>
  );
}

function deliveryName(compiled: ReturnType<typeof useDraft>['compiled'], key: string): string {
  for (const { deliveries } of compiled.handOffs.values()) {
    const found = deliveries.find(({ delivery }) => delivery.key === key);
    if (found) return found.delivery.name;
  }
  return key;
}
