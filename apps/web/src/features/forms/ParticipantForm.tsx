import { Button } from '@mantine/core';
import type { FormDocument, RecordHeader } from '@ypomet/contract';
import {
  type Actor,
  checksPatterns,
  collectInput,
  decidedOf,
  describeDiagnostic,
  type Form,
  formatValue,
  type Issue,
  isEnterable,
  type Json,
  loadPatternEngine,
  makeCalendar,
  makeOutside,
  type Outside,
  openStoredWorkflow,
  prepareWorkflow,
  readEntered,
  validateForm,
  type WorkflowRecord,
} from '@ypomet/core';
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Notice } from '../../shared/Notice.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';
import { ApiProblem } from '../../shared/problems.ts';
import { isSameList, useSame } from '../../shared/use-same.ts';
import type { Values } from '../records/queries.ts';
import { useSession } from '../session/queries.ts';
import type { Meeting } from '../unfinished/content.ts';
import { KeptState } from '../unfinished/KeptState.tsx';
import type { Keeping } from '../unfinished/keeper.ts';
import { Meetings } from '../unfinished/Meetings.tsx';
import { type FormIssues, gatherIssues } from './form-issues.ts';
import type { Entered } from './form-state.ts';
import { type FormWorld, FormWorldProvider } from './form-world.tsx';
import { inWords, LeftOver } from './LeftOver.tsx';
import classes from './ParticipantForm.module.css';
import { RecordForm } from './RecordForm.tsx';
import { sendFile } from './send-file.ts';
import { useFormState } from './use-form-state.ts';
import { type Answering, useServerAnswers } from './use-server-answers.ts';

type Props = {
  readonly header: RecordHeader;
  readonly document: FormDocument;
  readonly mayAct: boolean;
  readonly isSending: boolean;
  readonly problem: Error | null;
  /** What was entered; whoever shows this form keeps it, so that it outlives a form of another stage. */
  readonly entered: Entered;
  readonly onEntered: (change: (before: Entered) => Entered) => void;
  /** Names of the members and records that were entered before, by id. */
  readonly names?: Readonly<Record<string, string>>;
  /** Something to say above the form, and beside the buttons. */
  readonly opening?: ReactNode;
  readonly notice?: ReactNode;
  /** What was entered and changed by others meanwhile, and how that is settled. */
  readonly meetings?: readonly Meeting[];
  readonly onSettle?: (meeting: Meeting, isMine: boolean) => void;
  /** Where what was entered is. */
  readonly keeping?: Keeping;
  readonly findChoices: FormWorld['findChoices'];
  /** The record whose files can be saved; null where there is none yet. */
  readonly filesOf: string | null;
  /** Asks the server for the form again: something changed that only it can decide. */
  readonly onAsk: (values: Values) => Promise<FormDocument>;
  readonly onHandOn: (handOff: string, values: Values) => void;
};

const NO_NAMES: Readonly<Record<string, string>> = {};

/** Whether something could be loaded: pressing tries again. */
const WHETHER = [() => true, () => false] as const;

/** A participant's form for their stage, and the buttons they may press. */
export function ParticipantForm(props: Props) {
  const { header, document: given, mayAct, isSending, problem, entered, onEntered, notice, onAsk, onHandOn } = props;
  const { opening, meetings = [], onSettle, keeping, names = NO_NAMES } = props;
  const { member, workspace } = useSession();
  const [document, setDocument] = useState(given);
  const [checked, setChecked] = useState<readonly Issue[]>([]);
  useEffect(() => setDocument(given), [given]);
  const workflow = useMemo(() => prepareWorkflow(openStoredWorkflow(document.definition)), [document.definition]);
  const record = useMemo(() => toRecord(header, document), [header, document]);
  const actor: Actor = member;
  const outside = useMemo<Outside>(
    () =>
      makeOutside({
        now: Date.now(),
        zone: workspace.zone,
        locale: workspace.locale,
        calendar: makeCalendar(workspace.calendar),
      }),
    [workspace],
  );
  const of = useMemo(() => ({ workflow, record, actor, outside }), [workflow, record, actor, outside]);
  const { form, unreadable } = useFormState(of, entered);
  const onAnswer = useCallback((next: FormDocument) => setDocument(next), []);
  const answering = useServerAnswers(`${header.id}/${header.revision}`, document, form, entered, onAsk, onAnswer);
  const open = useSame(stillOpen(checked, form), isSameList);
  const issues = useMemo(() => toFormIssues(open, problem), [open, problem]);
  const enter = (key: string, value: Json): void => onEntered((before) => ({ ...before, [key]: value }));
  const latest = useRef(props.findChoices);
  latest.current = props.findChoices;
  const { filesOf } = props;
  // Every input reads it: were it made anew, one answer would draw them all.
  const world = useMemo<FormWorld>(
    () => ({
      zone: workspace.zone,
      locale: workspace.locale,
      names: { ...names, ...document.names },
      findChoices: (path, search) => latest.current(path, search),
      handOver: sendFile,
      filesOf,
      signer: member.name,
      brokenSignOffs: document.brokenSignOffs,
    }),
    [workspace, names, document, filesOf, member.name],
  );
  const handOffs = workflow.definition.handOffs.filter(
    (handOff) => workflow.handOffs.get(handOff.key)?.offered.holds(form.frame) === true,
  );
  // Patterns of fields are looked at when values are checked; their engine comes as soon as somebody begins to fill in.
  const needsPatterns = useMemo(() => mayAct && checksPatterns(workflow.definition), [workflow, mayAct]);
  const press = async (handOff: (typeof handOffs)[number]): Promise<void> => {
    // Without the engine the server alone checks.
    const canCheck = !needsPatterns || (await loadPatternEngine().then(...WHETHER));
    const found = handOff.checking === 'full' && canCheck ? validateForm(form) : [];
    setChecked(found);
    if (found.length === 0 && unreadable.size === 0) onHandOn(handOff.key, collectInput(form, entered) as Values);
    else focusFirst(found[0]?.field ?? [...unreadable.keys()][0] ?? null);
  };
  const { general } = issues;
  const say = (key: string, json: Json): string => {
    const of = workflow.forms.fieldByKey.get(key);
    if (!of) return inWords(json);
    const read = readEntered(of, json, null, actor, outside);
    if (!read.ok) return inWords(json);
    return formatValue(read.value, of.field, { ...workspace, nameOf: (id) => document.names[id] ?? names[id] ?? null });
  };
  return (
    <FormWorldProvider value={world}>
      <div className={classes.frame} {...(needsPatterns ? { onFocus: () => void loadPatternEngine().then(...WHETHER) } : {})}>
        {opening}
        {onSettle && (
          <Meetings
            meetings={meetings.filter(({ key }) => mayAct && canEnter(form, key))}
            nameOf={(key) => workflow.forms.fieldByKey.get(key)?.field.name ?? key}
            say={say}
            onSettle={onSettle}
          />
        )}
        <LeftOver
          entered={entered}
          isAsked={(key) => mayAct && canEnter(form, key)}
          form={form}
          onForget={() => onEntered((before) => onlyAsked(before, form, mayAct))}
        />
        <PanelBoundary name="The form" resetKey={document}>
          <RecordForm
            form={form}
            record={record}
            entered={entered}
            unreadable={unreadable}
            issues={issues.byField}
            style={workspace}
            isOpen={mayAct}
            onEnter={enter}
          />
        </PanelBoundary>
        <div className={classes.foot} data-empty={!mayAct && issues.count === 0 && !notice && !general}>
          {issues.count > 0 && (
            <Notice
              tone="fault"
              title={
                issues.count === 1
                  ? 'One thing to mend before it can go on'
                  : `${issues.count} things to mend before it can go on`
              }
            >
              <ul className={classes.list}>
                {issues.sentences.map((sentence) => (
                  <li key={sentence}>{sentence}</li>
                ))}
              </ul>
            </Notice>
          )}
          {notice}
          {general && (
            <Notice tone="fault" title={general.title}>
              {general.text}
            </Notice>
          )}
          {answering.status === 'failed' && <Unanswered {...answering} />}
          {mayAct && (
            <div className={classes.buttons}>
              {handOffs.map((handOff, index) => (
                <Button
                  key={handOff.key}
                  variant={index === 0 ? 'filled' : 'default'}
                  disabled={isSending || answering.status !== 'settled'}
                  loading={isSending && index === 0}
                  onClick={() => void press(handOff)}
                >
                  {handOff.name}
                </Button>
              ))}
              <p role="status" className={classes.asking}>
                {answering.status === 'asking' ? 'Working out what follows from your answers …' : ''}
              </p>
              {keeping && <KeptState keeping={keeping} />}
            </div>
          )}
        </div>
      </div>
    </FormWorldProvider>
  );
}

/** Why the buttons wait although nothing is under way. */
function Unanswered({ error, again }: Extract<Answering, { status: 'failed' }>) {
  const detail = error instanceof ApiProblem ? [error.problem.detail, ...error.problem.details.map((one) => one.message)] : [];
  return (
    <Notice tone="fault" title="What follows from your answers couldn’t be worked out, so the buttons wait">
      {error.message} {detail.join(' ')} What you entered is still here.{' '}
      <Button variant="subtle" size="compact-sm" onClick={again}>
        Ask again
      </Button>
    </Notice>
  );
}

function canEnter(form: Form, key: string): boolean {
  const of = form.forms.fieldByKey.get(key);
  return of !== undefined && isEnterable(decidedOf(form, of).treatment);
}

const onlyAsked = (entered: Entered, form: Form, mayAct: boolean): Entered =>
  Object.fromEntries(Object.entries(entered).filter(([key]) => mayAct && canEnter(form, key)));

const toRecord = (header: RecordHeader, document: FormDocument): WorkflowRecord => ({
  ...header,
  intake: null,
  values: document.values as WorkflowRecord['values'],
  // Defaults that are spent aren't in the form's definition.
  defaulted: [],
  followUps: { open: 0, done: 0 },
  reminded: [],
});

/** Issues found at the last press that are not mended yet. */
function stillOpen(checked: readonly Issue[], form: Form): readonly Issue[] {
  if (checked.length === 0) return checked;
  const now = new Set(validateForm(form).map((issue) => `${issue.path}/${issue.code}`));
  return checked.filter((issue) => now.has(`${issue.path}/${issue.code}`));
}

type ShownIssues = {
  readonly byField: FormIssues;
  readonly count: number;
  readonly sentences: readonly string[];
  readonly general: { readonly title: string; readonly text: string } | null;
};

function toFormIssues(own: readonly Issue[], problem: Error | null): ShownIssues {
  const fromServer = problem instanceof ApiProblem && problem.problem.code === 'hand-off/refused' ? problem.problem.details : [];
  const all =
    own.length > 0 ? own.map((issue) => ({ ...issue, message: issue.ownMessage ?? describeDiagnostic(issue) })) : fromServer;
  const byField = gatherIssues(all);
  const isGeneral = problem !== null && fromServer.length === 0;
  const general = isGeneral
    ? { title: problem.message, text: problem instanceof ApiProblem ? problem.problem.detail : '' }
    : null;
  return { byField, count: all.length, sentences: [...new Set(all.map((issue) => issue.message))], general };
}

function focusFirst(field: string | null): void {
  const row = field === null ? null : window.document.querySelector<HTMLElement>(`[data-field="${CSS.escape(field)}"]`);
  const input = row?.querySelector<HTMLElement>('input, textarea, button');
  row?.scrollIntoView({ block: 'center' });
  input?.focus({ preventScroll: true });
}
