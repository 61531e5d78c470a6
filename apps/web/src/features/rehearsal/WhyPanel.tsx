import {
  type Address,
  decidedOf,
  describeDiagnostic,
  describeExpression,
  explainFields,
  type FieldReason,
  type Form,
  findField,
  type HandedOn,
  type HandOffReason,
  type MailConsequence,
  type Outcome,
  parseExpression,
  type Reason,
} from '@ypomet/core';
import { memo, type ReactNode, useMemo, useState } from 'react';
import { Mark } from '../conditions/Mark.tsx';
import { ExplainedCondition } from './ExplainedCondition.tsx';
import { useRehearsal } from './rehearsal-context.tsx';
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
      <After handOffs={handOffs} />
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
function Folded({ count, what, children }: { readonly count: number; readonly what: string; readonly children: ReactNode }) {
  if (count === 0) return null;
  return (
    <details className={classes.folded}>
      <summary>
        {count} {what}
      </summary>
      {children}
    </details>
  );
}

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

function Line({
  reason,
  isMuted = false,
  children,
}: {
  readonly reason: Reason;
  readonly isMuted?: boolean;
  readonly children: ReactNode;
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

/** What would follow a hand-off, were it pressed now: as it would arrive. */
function After({ handOffs }: { readonly handOffs: readonly HandOffReason[] }) {
  const { preview, workflow } = useRehearsal();
  const [chosen, setChosen] = useState<string | null>(null);
  const offered = handOffs.filter(({ offered: own }) => own.truth === true);
  const shown = offered.find(({ key }) => key === chosen) ?? offered[0];
  if (!shown) return null;
  const came = preview(shown.key);
  const steps = shown.consequences.filter(({ kind }) => kind !== 'acknowledgement');
  const isTaken = (kind: string, key: string): boolean =>
    steps.some((step) => step.kind === kind && step.key === key && step.outcome === 'taken');
  const passed = steps.filter(({ outcome }) => outcome !== 'taken');
  return (
    <>
      <h3>
        After{' '}
        {offered.length > 1 ? (
          <select
            className={classes.select}
            aria-label="After which hand-off"
            value={shown.key}
            onChange={(event) => setChosen(event.currentTarget.value)}
          >
            {offered.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        ) : (
          `“${shown.name}”`
        )}
      </h3>
      {!came.ok && shown.refusals.length === 0 && (
        <p className={classes.soft}>
          It would be refused: {came.diagnostics.length === 1 ? 'one thing is' : `${came.diagnostics.length} things are`} missing
          or wrong. The form says what once it is pressed.
        </p>
      )}
      {shown.handedOn?.deliveries
        .filter((mail) => isTaken('delivery', mail.delivery))
        .map((mail) => (
          <Mail key={mail.delivery} mail={mail} reason={steps.find(({ key }) => key === mail.delivery)} />
        ))}
      <Assigned handedOn={shown.handedOn} />
      <Opened handedOn={shown.handedOn} />
      {shown.handedOn?.acknowledgement && (
        <div className={classes.line}>
          <Mark truth={true} />
          <div>Acknowledgement: “{shown.handedOn.acknowledgement.text}”</div>
        </div>
      )}
      <Folded
        count={passed.length}
        what={passed.length === 1 ? 'thing that isn’t sent or opened' : 'things that aren’t sent or opened'}
      >
        {passed.map((step) => (
          <Line key={`${step.owner}/${step.key}`} reason={step} isMuted={step.outcome === 'not-tried'}>
            {consequenceName(workflow, step.key)} is not {step.kind === 'follow-up' ? 'opened' : 'sent'}
            {step.outcome === 'not-tried' && ': an earlier one is'}
          </Line>
        ))}
      </Folded>
    </>
  );
}

/** A mail as it would arrive: whom it goes to, its subject, and, unfolded, its text. */
function Mail({ mail, reason }: { readonly mail: MailConsequence; readonly reason: Reason | undefined }) {
  const { workflow, outside } = useRehearsal();
  const whom = (address: Address): string => {
    if (address.kind === 'role')
      return `role ${workflow.definition.roles.find(({ key }) => key === address.role)?.name ?? address.role}`;
    return address.kind === 'member' ? (outside.findMember(address.member)?.name ?? address.member) : address.address;
  };
  return (
    <div className={classes.line}>
      <Mark truth={true} />
      <details className={classes.mail}>
        <summary>
          Mail “{mail.name}” to <strong>{mail.to.map(whom).join(', ') || 'nobody'}</strong>: {mail.subject}
        </summary>
        {mail.unfit.length > 0 && (
          <p className={classes.gap}>Recipient {mail.unfit.join(', ')} has no e-mail address: a person would have to look.</p>
        )}
        {reason?.explanation && <ExplainedCondition explanation={reason.explanation} />}
        <pre className={classes.body}>{mail.body}</pre>
      </details>
    </div>
  );
}

/** Who has the work then. */
function Assigned({ handedOn }: { readonly handedOn: HandedOn | null }) {
  const { workflow, outside } = useRehearsal();
  if (!handedOn) return null;
  const { assignee, stage } = handedOn.record;
  const own = workflow.stages.get(stage)?.stage;
  if (!own || own.kind === 'end') return null;
  const roleName = (key: string): string => workflow.definition.roles.find((role) => role.key === key)?.name ?? key;
  const who =
    assignee?.kind === 'role'
      ? `role ${roleName(assignee.role)}`
      : assignee?.kind === 'member'
        ? (outside.findMember(assignee.member)?.name ?? assignee.member)
        : own.roles.length > 0
          ? `whoever is ${own.roles.map(roleName).join(' or ')}`
          : 'the submitter';
  return (
    <div className={classes.line}>
      <Mark truth={true} />
      <div>
        The work is then with <strong>{who}</strong>
      </div>
    </div>
  );
}

function Opened({ handedOn }: { readonly handedOn: HandedOn | null }) {
  const { workflow, wording } = useRehearsal();
  if (!handedOn) return null;
  return handedOn.followUps.map((opened) => {
    const target = workflow.findWorkflow(opened.workflow);
    return (
      <div key={`${opened.followUp}/${opened.row ?? ''}`} className={classes.line}>
        <Mark truth={true} />
        <details className={classes.mail}>
          <summary>
            Opens <strong>{target?.name ?? opened.workflow}</strong>
            {opened.row !== null && ` for row ${opened.row}`}
          </summary>
          <ul className={classes.carried}>
            {Object.entries(opened.values).map(([key, value]) => (
              <li key={key}>
                {(target && findField(target, key)?.name) ?? key}:{' '}
                {typeof value === 'string' ? wording.format(value, null) : JSON.stringify(value)}
              </li>
            ))}
          </ul>
        </details>
      </div>
    );
  });
}

function consequenceName({ handOffs, stages }: ReturnType<typeof useRehearsal>['workflow'], key: string): string {
  for (const { deliveries } of [...handOffs.values(), ...stages.values()]) {
    const found = deliveries.find(({ delivery }) => delivery.key === key);
    if (found) return `Mail “${found.delivery.name}”`;
  }
  for (const { followUps } of handOffs.values()) {
    const found = followUps.find(({ followUp }) => followUp.key === key);
    if (found) return `Follow-up “${found.followUp.name}”`;
  }
  return key;
}
