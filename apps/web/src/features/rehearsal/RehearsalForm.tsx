import { Button, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import {
  brokenSignOffs,
  type CompiledField,
  type Diagnostic,
  decidedOf,
  describeDiagnostic,
  findField,
  findSubField,
  type HandedOn,
  type Issue,
  type Result,
  type Workflow,
} from '@ypomet/core';
import { useEffect, useMemo, useState } from 'react';
import { Notice } from '../../shared/Notice.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import { RichTextView } from '../../shared/RichTextView.tsx';
import { membersQuery } from '../drafts/queries.ts';
import { type FormIssues, gatherIssues } from '../forms/form-issues.ts';
import type { FormPlace } from '../forms/form-places.ts';
import { type FormWorld, FormWorldProvider } from '../forms/form-world.tsx';
import { RecordForm } from '../forms/RecordForm.tsx';
import { useSession } from '../session/queries.ts';
import classes from './RehearsalForm.module.css';
import { useRehearsal } from './rehearsal-context.tsx';
import { changedBetween } from './WhyPanel.tsx';

/** What pressing came to: with which record, in which design. */
type Came = { readonly at: object; readonly of: object; readonly name: string; readonly came: Result<HandedOn> };

/** The participant's form at the rehearsal's stage, with its buttons: what they would see, and what would come of it. */
export function RehearsalForm() {
  const rehearsal = useRehearsal();
  const { workflow, form, record, reasons, before, actor } = rehearsal;
  const { definition } = workflow;
  const { workspace } = useSession();
  const [result, setResult] = useState<Came | null>(null);
  const members = useQuery(membersQuery);
  const world = useMemo<FormWorld>(
    () => ({
      zone: workspace.zone,
      locale: workspace.locale,
      names: Object.fromEntries((members.data ?? []).map((member) => [member.id, member.name])),
      findChoices: async (path, search) => choicesFor(definition, path, search, members.data ?? []),
      handOver: rehearsal.handOver,
      filesOf: null,
      signer: actor.name,
      brokenSignOffs: brokenSignOffs(workflow.forms, record, workspace.zone),
    }),
    [workspace, members.data, definition, rehearsal.handOver, actor.name, workflow.forms, record],
  );
  const stage = workflow.stages.get(record.stage)?.stage;
  const roles = stage?.roles.map((role) => definition.roles.find((own) => own.key === role)?.name ?? role) ?? [];
  const refused = result && !result.came.ok && result.at === record && result.of === definition ? result.came.diagnostics : [];
  const aim = useMemo(() => (refused[0] ? placeOfDiagnostic(refused[0]) : null), [refused[0]]);
  const changed = useMemo(
    () => new Map(before && before.stageForm === form.stageForm ? changedBetween(before, form).map((one) => [one.key, one]) : []),
    [before, form],
  );
  const remark = (of: CompiledField) => {
    const own = changed.get(of.field.key);
    const { treatment, by } = decidedOf(form, of);
    if (!own && !by) return null;
    const was = own ? `${own.is} now, was ${own.was}` : treatment;
    return { text: by ? `${was} because of “${by.adjustment.name}”` : was, isFresh: own !== undefined };
  };
  const offered = reasons.filter((handOff) => handOff.offered.truth === true);
  const [first] = offered;
  const isPrimary = (key: string): boolean => workflow.handOffs.get(key)?.handOff.emphasis === 'primary';
  return (
    <section className={classes.form} aria-label="Form">
      <header className={classes.head}>
        <h2>{stage?.name}</h2>
        <p className={classes.soft}>
          {stage?.kind === 'end'
            ? 'the record rests here'
            : `as seen by ${roles.length > 0 ? `the role ${roles.join(', ')}` : 'whoever submits'}`}
        </p>
      </header>
      {result?.came.ok && result.came.value.record.stage === record.stage && (
        <Notice tone="calm" title={`“${result.name}” led here.`}>
          {result.came.value.acknowledgement && <RichTextView text={result.came.value.acknowledgement.text} />}
        </Notice>
      )}
      <PanelBoundary name="The form" resetKey={form}>
        <FormWorldProvider value={world}>
          <RecordForm
            // Each step has a form of its own: nothing of another stage's is carried over.
            key={`${rehearsal.state.at}/${record.stage}`}
            form={form}
            record={record}
            entered={rehearsal.entered}
            unreadable={rehearsal.unreadable}
            issues={toIssues(refused)}
            aim={aim}
            style={workspace}
            isOpen={stage?.kind !== 'end'}
            onEnter={rehearsal.enter}
            remark={remark}
          />
        </FormWorldProvider>
      </PanelBoundary>
      <footer className={classes.foot}>
        {refused.length > 0 && <Refused name={result?.name ?? ''} diagnostics={refused} />}
        <div className={classes.buttons}>
          {offered.map((handOff) => (
            <Button
              key={handOff.key}
              variant={isPrimary(handOff.key) || offered.length === 1 ? 'filled' : 'default'}
              onClick={() => setResult({ at: record, of: definition, name: handOff.name, came: rehearsal.press(handOff.key) })}
            >
              {handOff.name}
            </Button>
          ))}
          {first && refused.length === 0 && (
            <span className={classes.soft}>
              “{first.name}”{' '}
              {first.leadsTo !== null ? (
                <>
                  would go to <strong>{workflow.stages.get(first.leadsTo)?.stage.name}</strong>
                </>
              ) : (
                `would be refused: ${first.refusals.map((one) => describeDiagnostic(one)).join(' ')}`
              )}
            </span>
          )}
        </div>
      </footer>
    </section>
  );
}

const sentenceOf = (one: Diagnostic): string => ('ownMessage' in one && (one as Issue).ownMessage) || describeDiagnostic(one);
const fieldOf = (one: Diagnostic): string | null => ('field' in one ? (one as Issue).field : null);

/** A refusal leads to the first thing to mend, and from there to the next: one line, whatever there is to mend. */
function Refused({ name, diagnostics }: { readonly name: string; readonly diagnostics: readonly Diagnostic[] }) {
  const [at, setAt] = useState(0);
  const one = diagnostics[Math.min(at, diagnostics.length - 1)];
  const field = one ? fieldOf(one) : null;
  useEffect(() => {
    if (field === null) return;
    const element = window.document.getElementById(`field-${field}`);
    element?.scrollIntoView({ block: 'center' });
    (element?.matches('input, textarea, button')
      ? element
      : element?.querySelector<HTMLElement>('input, textarea, button')
    )?.focus();
  }, [field]);
  if (!one) return null;
  return (
    <div className={classes.refused} role="alert">
      <span>
        “{name}” is refused: {sentenceOf(one)}
      </span>
      {diagnostics.length > 1 && (
        <UnstyledButton className={classes.next} onClick={() => setAt((at + 1) % diagnostics.length)}>
          {Math.min(at, diagnostics.length - 1) + 1} of {diagnostics.length}, next
        </UnstyledButton>
      )}
    </div>
  );
}

/** In a rehearsal members are the workspace's own; other records there are none. */
function choicesFor(
  workflow: Workflow,
  path: string,
  search: string,
  members: readonly { readonly id: string; readonly name: string; readonly roles: readonly string[] }[],
) {
  const field = findField(workflow, path) ?? findSubField(workflow, path)?.field;
  if (field?.type !== 'member') return [];
  return members
    .filter(
      ({ name, roles }) =>
        (field.role === null || roles.includes(field.role)) && name.toLowerCase().includes(search.toLowerCase()),
    )
    .map(({ id, name }) => ({ id, name, note: '' }));
}

const placeOfDiagnostic = (one: Diagnostic): FormPlace | null => (fieldOf(one) === null ? null : (one as Issue as FormPlace));

const toIssues = (diagnostics: readonly Diagnostic[]): FormIssues =>
  gatherIssues(
    diagnostics.flatMap((one) => {
      const issue = one as Issue;
      return fieldOf(one) === null ? [] : [{ ...issue, field: issue.field as string, message: sentenceOf(one) }];
    }),
  );
