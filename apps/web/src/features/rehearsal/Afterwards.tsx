import type { CompiledWorkflow, FollowUpConsequence, HandedOn, HandOffReason, Reason, WorkflowRecord } from '@ypomet/core';
import { type ReactNode, useState } from 'react';
import { Link } from 'react-router';
import { RichTextView } from '../../shared/RichTextView.tsx';
import { Mark } from '../conditions/Mark.tsx';
import { Arriving, Carried, sayDelivery } from '../consequences/Arriving.tsx';
import { DueThen } from './ByClock.tsx';
import { ExplainedCondition } from './ExplainedCondition.tsx';
import { useRehearsal } from './rehearsal-context.tsx';
import { MAX_OWN_ADDRESS, writeShared } from './rehearsal-state.ts';
import { Folded, Line } from './WhyLines.tsx';
import classes from './WhyPanel.module.css';

const KINDS = { mail: 'Mail', web: 'Web request', file: 'File' } as const;

/** What would follow a hand-off, were it pressed now: as it would arrive. */
export function Afterwards({ handOffs }: { readonly handOffs: readonly HandOffReason[] }) {
  const { preview, workflow, outside } = useRehearsal();
  const [chosen, setChosen] = useState<string | null>(null);
  const offered = handOffs.filter(({ offered: own }) => own.truth === true);
  const shown = offered.find(({ key }) => key === chosen) ?? offered[0];
  if (!shown) return null;
  const came = preview(shown.key);
  const steps = shown.consequences.filter(({ kind }) => kind !== 'acknowledgement');
  const reasonOf = (kind: string, key: string): Reason | undefined =>
    steps.find((step) => step.kind === kind && step.key === key && step.outcome === 'taken');
  const passed = steps.filter(({ outcome }) => outcome !== 'taken');
  const { handedOn } = shown;
  const at = { workflow, outside };
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
      {handedOn?.deliveries.map((one) => {
        const reason = reasonOf('delivery', one.delivery);
        return (
          <Unfolding
            key={one.delivery}
            summary={
              <>
                {KINDS[one.type]} <strong>{one.name}</strong> {sayDelivery(one, at)}
              </>
            }
          >
            {reason?.explanation && <ExplainedCondition explanation={reason.explanation} />}
            <Arriving delivery={one} at={at} />
          </Unfolding>
        );
      })}
      {handedOn && workflow.handOffs.get(shown.key)?.handOff.refreshesCarried && (
        <p className={classes.soft}>Records that it opened before, and that are open still, get their carried values anew.</p>
      )}
      <Assigned handedOn={handedOn} />
      <DueThen handedOn={handedOn} />
      {handedOn?.followUps.map((opened) => (
        <OpenedRecord
          key={`${opened.followUp}/${opened.row ?? ''}`}
          opened={opened}
          source={handedOn.record}
          row={rowNumber(workflow, opened, handedOn.record)}
          reason={reasonOf('follow-up', opened.followUp)}
        />
      ))}
      {handedOn?.acknowledgement && (
        <Unfolding summary="What is read afterwards" isOpen>
          <RichTextView text={handedOn.acknowledgement.text} />
          {handedOn.acknowledgement.next !== null && (
            <p className={classes.soft}>
              Next page <span className="mono">{handedOn.acknowledgement.next}</span>
            </p>
          )}
        </Unfolding>
      )}
      <Folded
        count={passed.length}
        what={passed.length === 1 ? 'thing that isn’t sent or opened' : 'things that aren’t sent or opened'}
      >
        {passed.map((step, index) => (
          // A follow-up for each row comes once for each.
          // biome-ignore lint/suspicious/noArrayIndexKey: see above
          <Line key={`${step.owner}/${step.key}/${index}`} reason={step} isMuted={step.outcome === 'not-tried'}>
            {consequenceName(workflow, step.key)} is not {step.kind === 'follow-up' ? 'opened' : 'sent'}
            {step.outcome === 'not-tried' && ': an earlier one is'}
          </Line>
        ))}
      </Folded>
    </>
  );
}

function Unfolding({
  summary,
  isOpen = false,
  children,
}: {
  readonly summary: ReactNode;
  readonly isOpen?: boolean;
  readonly children: ReactNode;
}) {
  return (
    <div className={classes.line}>
      <Mark truth={true} />
      <details className={classes.mail} open={isOpen}>
        <summary>{summary}</summary>
        {children}
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

/** Which row of its table a record is opened for, counted from 1; null for one that is for the record as a whole. */
function rowNumber({ definition }: CompiledWorkflow, opened: FollowUpConsequence, { values }: WorkflowRecord): number | null {
  if (opened.row === null) return null;
  const all = definition.handOffs.flatMap(({ followUps }) => followUps);
  const own = all.find(({ key, workflow }) => key === opened.followUp && workflow === opened.workflow);
  const rows = own?.perRow ? values[own.perRow] : null;
  return Array.isArray(rows) ? rows.findIndex(({ id }: { readonly id: string }) => id === opened.row) + 1 || null : null;
}

/** A record that would be opened, with what it begins with; it can be rehearsed on in its own workflow. */
function OpenedRecord({
  opened,
  source,
  row,
  reason,
}: {
  readonly opened: FollowUpConsequence;
  /** The record that opens it, as it is then. */
  readonly source: WorkflowRecord;
  readonly row: number | null;
  readonly reason: Reason | undefined;
}) {
  const { workflow, outside } = useRehearsal();
  const target = workflow.findWorkflow(opened.workflow);
  const entry = target?.handOffs.find(({ key }) => key === opened.handOff);
  const shared =
    entry &&
    writeShared(
      {
        script: {
          intake: entry.from,
          at: null,
          today: null,
          // It points back to the record that is rehearsed here.
          start: { ...opened.values, ...(opened.link === null ? {} : { [opened.link]: source.id }) },
          steps: [{ handOff: entry.key, role: null, entered: {} }],
        },
        open: {},
        role: null,
        at: 1,
        before: null,
        source,
      },
      MAX_OWN_ADDRESS,
    );
  return (
    <Unfolding
      summary={
        <>
          Opens <strong>{target?.name ?? opened.workflow}</strong>
          {row !== null && ` for row ${row}`}
        </>
      }
    >
      {reason?.explanation && <ExplainedCondition explanation={reason.explanation} />}
      <Carried opened={opened} at={{ workflow, outside }} />
      {shared && (
        <Link to={`/workflows/${opened.workflow}/rehearse#${shared}`} reloadDocument>
          Rehearse it on
        </Link>
      )}
    </Unfolding>
  );
}

function consequenceName({ handOffs, stages }: ReturnType<typeof useRehearsal>['workflow'], key: string): string {
  const reminders = [...stages.values()].flatMap((at) => at.reminders);
  for (const { deliveries } of [...handOffs.values(), ...stages.values(), ...reminders]) {
    const found = deliveries.find(({ delivery }) => delivery.key === key);
    if (found) return `${KINDS[found.kind]} “${found.delivery.name}”`;
  }
  for (const { followUps } of handOffs.values()) {
    const found = followUps.find(({ followUp }) => followUp.key === key);
    if (found) return `Follow-up “${found.followUp.name}”`;
  }
  return key;
}
