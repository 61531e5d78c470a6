import {
  decidedOf,
  describeDiagnostic,
  describeExpression,
  explainFields,
  type FieldReason,
  type Form,
  findField,
  type HandOffReason,
  type Outcome,
  parseExpression,
} from '@ypomet/core';
import { memo, useMemo } from 'react';
import { Mark } from '../conditions/Mark.tsx';
import { Afterwards } from './Afterwards.tsx';
import { ByClock } from './ByClock.tsx';
import { useRehearsal } from './rehearsal-context.tsx';
import { Folded, Line } from './WhyLines.tsx';
import classes from './WhyPanel.module.css';

/** What the design decides for the rehearsal's record, what each decision read, and what would come of it. */
export const WhyPanel = memo(function WhyPanel() {
  const { reasons: handOffs, form } = useRehearsal();
  const fields = useMemo(() => explainFields(form), [form]);
  return (
    // What scrolls is reached with the keyboard, too (WCAG 2.1.1).
    // biome-ignore lint/a11y/noNoninteractiveTabindex: see above
    <section className={classes.why} aria-label="Why" tabIndex={0}>
      <h2>Why</h2>
      <p className={classes.soft}>What the design decides for this record, and what it read</p>
      <Changed />
      {handOffs.map((handOff) => (
        <HandOffWhy key={handOff.key} handOff={handOff} />
      ))}
      {handOffs.length === 0 && <p className={classes.soft}>No hand-off leaves this stage.</p>}
      <Fields fields={fields} />
      <ByClock />
      <Afterwards handOffs={handOffs} />
    </section>
  );
});

/** What the last answer changed: which fields are treated in another way since. */
function Changed() {
  const { before, form, workflow } = useRehearsal();
  if (!before || before.stageForm !== form.stageForm) return null;
  const changed = changedBetween(before, form);
  if (changed.length === 0) return null;
  return (
    <div className={classes.changed} role="status">
      <strong>Since the last answer</strong>{' '}
      {changed.map(({ key, was, is }, index) => (
        <span key={key}>
          {index > 0 && ', '}
          {findField(workflow.definition, key)?.name ?? key} is {is}, was {was}
        </span>
      ))}
    </div>
  );
}

export type ChangedField = { readonly key: string; readonly was: string; readonly is: string };

/** Fields that two states of one form treat in different ways. */
export function changedBetween(before: Form, after: Form): readonly ChangedField[] {
  return after.forms.fields.flatMap((of): readonly ChangedField[] => {
    const [was, is] = [decidedOf(before, of)?.treatment, decidedOf(after, of)?.treatment];
    return was === undefined || is === undefined || was === is ? [] : [{ key: of.field.key, was, is }];
  });
}

/** What is wanted by few at first stays folded: how much there is is said. */

const OUTCOME: Readonly<Record<Outcome, string>> = {
  taken: 'is taken',
  'passed-over': '',
  'not-tried': 'is not tried: an earlier branch holds',
  clash: 'holds together with another, and just one may',
};

/** The branch that decides first, then, folded, those that don't. */
function HandOffWhy({ handOff }: { readonly handOff: HandOffReason }) {
  const { workflow } = useRehearsal();
  const nameOf = (stage: string): string => workflow.stages.get(stage)?.stage.name ?? stage;
  return (
    <>
      <h3>
        {handOff.name}
        {handOff.offered.truth !== true && <span className={classes.soft}> is not offered</span>}
      </h3>
      {handOff.offered.truth !== true && (
        <Line reason={handOff.offered}>
          Offered only while its condition holds, which {handOff.offered.truth === null ? 'is unknown' : 'doesn’t'}
        </Line>
      )}
      {handOff.ways.map((way) => {
        const deciding = way.branches.filter(({ outcome }) => outcome === 'taken' || outcome === 'clash');
        const others = way.branches.filter((branch) => !deciding.includes(branch));
        const line = (branch: (typeof way.branches)[number]) => (
          <Line key={branch.key} reason={branch} isMuted={branch.outcome === 'not-tried'}>
            <strong>{branch.name}</strong> {OUTCOME[branch.outcome]} <span className={classes.soft}>→ {nameOf(branch.to)}</span>
          </Line>
        );
        const isOtherwise = way.otherwise?.outcome === 'taken';
        return (
          <div key={way.handOff}>
            {way.junction !== null && <p className={classes.soft}>At {nameOf(way.junction)}</p>}
            {deciding.map(line)}
            {way.otherwise && isOtherwise && (
              <div className={classes.line}>
                <Mark truth={true} />
                <div>
                  {way.branches.length > 0 ? 'otherwise ' : 'always '}→ <strong>{nameOf(way.otherwise.to)}</strong>
                </div>
              </div>
            )}
            {deciding.length === 0 && !isOtherwise && others.map(line)}
            {(deciding.length > 0 || isOtherwise) && (
              <Folded count={others.length} what={others.length === 1 ? 'branch that isn’t taken' : 'branches that aren’t taken'}>
                {others.map(line)}
              </Folded>
            )}
          </div>
        );
      })}
      {handOff.refusals.map((one) => (
        <p key={`${one.path}/${one.code}`} className={classes.gap}>
          {describeDiagnostic(one)}
        </p>
      ))}
    </>
  );
}

type Adjusted = FieldReason['adjustments'][number];

function Fields({ fields }: { readonly fields: readonly FieldReason[] }) {
  const { workflow } = useRehearsal();
  if (fields.length === 0) return null;
  const all = fields.flatMap((reason) => reason.adjustments.map((one) => ({ reason, one })));
  const deciding = all.filter(({ one }) => one.decides);
  const others = all.filter(({ one }) => !one.decides);
  const line = ({ reason, one }: { readonly reason: FieldReason; readonly one: Adjusted }) => (
    <Line key={`${reason.field}/${one.adjustment.key}`} reason={one}>
      <strong>{findField(workflow.definition, reason.field)?.name ?? reason.field}</strong>{' '}
      {one.decides ? reason.treatment : `stays ${reason.treatment}`}
      {one.decides ? `, was ${reason.planned}: ` : ': '}adjustment “{one.adjustment.name}”{' '}
      {one.truth === true ? (one.decides ? 'holds' : 'holds, after another') : one.truth === null ? 'is unknown' : 'doesn’t hold'}
    </Line>
  );
  return (
    <>
      <h3>Fields</h3>
      {deciding.map(line)}
      {deciding.length === 0 && <p className={classes.soft}>Every field is as the plan says.</p>}
      <Folded
        count={others.length}
        what={others.length === 1 ? 'adjustment that doesn’t decide' : 'adjustments that don’t decide'}
      >
        {others.map(line)}
      </Folded>
      <Computed />
    </>
  );
}

/** What each computed field comes to, and from what. */
function Computed() {
  const { form, wording } = useRehearsal();
  const computed = form.forms.fields.filter((of) => of.computes !== null);
  return (
    <Folded count={computed.length} what={computed.length === 1 ? 'computed field' : 'computed fields'}>
      {computed.map((of) => {
        const parsed = of.computes ? parseExpression(of.computes.text) : null;
        const value = form.frame.slots[of.slot] ?? null;
        return (
          <div key={of.field.key} className={classes.line}>
            <span />
            <div>
              <strong>{of.field.name}</strong> is {value === null ? 'empty' : wording.format(value, [of.field.key])}
              {parsed?.ok && <div className={classes.soft}>{describeExpression(parsed.value, wording)}</div>}
            </div>
          </div>
        );
      })}
    </Folded>
  );
}
