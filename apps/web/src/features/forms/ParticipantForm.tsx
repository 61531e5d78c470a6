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
  type HandOff,
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
import { AskFirst } from './AskFirst.tsx';
import { nudgedIn, type Question, questionsBefore, withoutBlankRows } from './before-handing-on.ts';
import { type Fault, FaultList } from './FaultList.tsx';
import { type FormIssues, gatherIssues, type TellingIssue } from './form-issues.ts';
import { type FormPlace, focusPlace, placeOfPath } from './form-places.ts';
import type { Entered, Unreadable } from './form-state.ts';
import { type FormWorld, FormWorldProvider, type SendingCount } from './form-world.tsx';
import { inWords, LeftOver } from './LeftOver.tsx';
import classes from './ParticipantForm.module.css';
import { RecordForm } from './RecordForm.tsx';
import { sendFile } from './send-file.ts';
import { toRecord } from './to-record.ts';
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
  const answering = useServerAnswers(`${header.id}/${header.revision}`, given, document, form, entered, onAsk, onAnswer);
  const open = useSame(
    stillOpen(checked, form).filter((issue) => !isUnreadAt(unreadable, issue.path)),
    isSameList,
  );
  const issues = useMemo(() => toFormIssues(open, problem), [open, problem]);
  const [isPressed, setPressed] = useState(false);
  const faults = inFormOrder(form, [...(isPressed ? unreadFaults(form, unreadable, entered) : []), ...issues.faults]);
  const [aim, setAim] = useState<FormPlace | null>(null);
  const go = useCallback((place: FormPlace): void => {
    setAim({ ...place });
    focusPlace(place);
  }, []);
  // When the server refuses the hand-off, move to the first field that it names, as for issues found in the browser.
  useEffect(() => {
    const place = problem ? toFormIssues([], problem).faults.find((fault) => fault.place !== null)?.place : null;
    if (place) go(place);
  }, [problem, go]);
  const enter = (key: string, value: Json): void => onEntered((before) => ({ ...before, [key]: value }));
  const latest = useRef(props.findChoices);
  latest.current = props.findChoices;
  const { filesOf } = props;
  const { sending, noteSending } = useSending();
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
      noteSending,
    }),
    [workspace, names, document, filesOf, member.name, noteSending],
  );
  const isOffered = (handOff: HandOff): boolean => workflow.handOffs.get(handOff.key)?.offered.holds(form.frame) === true;
  const handOffs = workflow.definition.handOffs.filter(isOffered);
  const later = workflow.definition.handOffs.filter((handOff) => handOff.notYet !== '' && !isOffered(handOff));
  // Patterns of fields are looked at when values are checked; their engine comes as soon as somebody begins to fill in.
  const needsPatterns = useMemo(() => mayAct && checksPatterns(workflow.definition), [workflow, mayAct]);
  const [asking, setAsking] = useState<{ readonly handOff: HandOff; readonly questions: readonly Question[] } | null>(null);
  const [waiting, setWaiting] = useState<HandOff | null>(null);
  const [sent, setSent] = useState('');
  const press = async (handOff: HandOff, isAsked = false): Promise<void> => {
    setAsking(null);
    setPressed(true);
    const tidy = withoutBlankRows(entered, document.values as Entered);
    if (tidy !== entered) onEntered(() => tidy);
    if (sending.underWay > 0 || tidy !== entered) return setWaiting(handOff);
    setWaiting(null);
    // Without the engine the server alone checks.
    const canCheck = !needsPatterns || (await loadPatternEngine().then(...WHETHER));
    const issuesNow = handOff.checking === 'full' && canCheck ? validateForm(form) : [];
    // An unreadable entry has its own message. Don't also report its field as missing.
    const found = issuesNow.filter((issue) => !isUnreadAt(unreadable, issue.path));
    setChecked(found);
    const unread = unreadFaults(form, unreadable, entered);
    const all = [...unread, ...found.map((issue) => ({ sentence: '', place: placeOfIssue({ ...issue, message: '' }) }))];
    const first = inFormOrder(form, all).find(({ place }) => place !== null)?.place;
    if (first) return go(first);
    if (found.length > 0) return;
    const questions = isAsked ? [] : questionsBefore(handOff, form, sending.failed);
    if (questions.length > 0) return setAsking({ handOff, questions });
    setSent(handOff.key);
    onHandOn(handOff.key, collectInput(form, entered) as Values);
  };
  // A press that found files on their way is done once they have arrived.
  const pressLatest = useRef(press);
  pressLatest.current = press;
  useEffect(() => {
    if (waiting && sending.underWay === 0) void pressLatest.current(waiting);
  }, [waiting, sending.underWay]);
  const { general } = issues;
  const nudged = nudgedIn(form);
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
          mayAct={mayAct}
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
            aim={aim}
            style={workspace}
            isOpen={mayAct}
            onEnter={enter}
          />
        </PanelBoundary>
        <div className={classes.foot} data-empty={!mayAct && faults.length === 0 && !notice && !general}>
          <FaultList faults={faults} onGo={go} />
          {notice}
          {general && (
            <Notice tone="fault" title={general.title}>
              {general.text}
              {isSignedOut(problem) && (
                <>
                  {' '}
                  What you entered is kept in this browser.{' '}
                  <a href={`/sign-in?to=${encodeURIComponent(window.location.pathname + window.location.search)}`}>
                    Sign in again
                  </a>
                </>
              )}
            </Notice>
          )}
          {answering.status === 'failed' && <Unanswered {...answering} />}
          {asking && (
            <AskFirst
              {...asking}
              say={(key) => say(key, entered[key] ?? (document.values as Entered)[key] ?? null)}
              onGoOn={() => void press(asking.handOff, true)}
              onBack={() => {
                setAsking(null);
                window.document.getElementById(`hand-off-${asking.handOff.key}`)?.focus();
              }}
            />
          )}
          {mayAct && (
            <div className={classes.buttons}>
              {handOffs.map((handOff) => (
                <Button
                  key={handOff.key}
                  id={`hand-off-${handOff.key}`}
                  variant={handOff.emphasis === 'primary' || handOffs.length === 1 ? 'filled' : 'default'}
                  {...(handOff.emphasis === 'final' ? { color: 'red' } : {})}
                  disabled={isSending || answering.status !== 'settled'}
                  loading={isSending && sent === handOff.key}
                  onClick={() => void press(handOff)}
                >
                  {handOff.name}
                </Button>
              ))}
              {later.map((handOff) => (
                <span key={handOff.key} className={classes.later}>
                  <strong>{handOff.name}</strong>: {handOff.notYet}
                </span>
              ))}
              {waiting && sending.underWay > 0 && (
                <p role="status" className={classes.asking}>
                  {sending.underWay === 1 ? 'One file is' : `${sending.underWay} files are`} still on the way. “{waiting.name}” is
                  pressed as soon as everything has arrived.{' '}
                  <Button variant="subtle" size="compact-xs" onClick={() => setWaiting(null)}>
                    Don’t wait
                  </Button>
                </p>
              )}
              {nudged.open > 0 && <p className={classes.asking}>{tellNudged(nudged.open)}</p>}
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

const isSignedOut = (problem: Error | null): boolean => problem instanceof ApiProblem && problem.problem.status === 401;

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

const isUnreadAt = (unreadable: Unreadable, at: string): boolean =>
  [...unreadable.values()].some((unread) => unread.some(({ path }) => path === at));

/** Issues found at the last press that are not mended yet. */
function stillOpen(checked: readonly Issue[], form: Form): readonly Issue[] {
  if (checked.length === 0) return checked;
  const now = new Set(validateForm(form).map((issue) => `${issue.path}/${issue.code}`));
  return checked.filter((issue) => now.has(`${issue.path}/${issue.code}`));
}

type ShownIssues = {
  readonly byField: FormIssues;
  readonly faults: readonly Fault[];
  readonly general: { readonly title: string; readonly text: string } | null;
};

const placeOfIssue = ({ field, row, subField, path }: TellingIssue): FormPlace | null =>
  field === null ? (path === '' ? null : placeOfPath(path)) : { field, row, subField };

function toFormIssues(own: readonly Issue[], problem: Error | null): ShownIssues {
  const fromServer = problem instanceof ApiProblem && problem.problem.code === 'hand-off/refused' ? problem.problem.details : [];
  const all: readonly TellingIssue[] =
    own.length > 0 ? own.map((issue) => ({ ...issue, message: issue.ownMessage ?? describeDiagnostic(issue) })) : fromServer;
  const isGeneral = problem !== null && fromServer.length === 0;
  const general = isGeneral
    ? { title: problem.message, text: problem instanceof ApiProblem ? problem.problem.detail : '' }
    : null;
  return {
    byField: gatherIssues(all),
    faults: all.map((issue) => ({ sentence: issue.message, place: issue.field === null ? null : placeOfIssue(issue) })),
    general,
  };
}

/** What was typed and can't be read, each by the name of its field and, in a table, its row. */
function unreadFaults(form: Form, unreadable: Unreadable, entered: Entered): readonly (Fault & { readonly place: FormPlace })[] {
  return [...unreadable].flatMap(([key, unread]) =>
    canEnter(form, key) ? unread.map(({ path }) => unreadFault(form, placeOfPath(path), entered[key] ?? null)) : [],
  );
}

function unreadFault(form: Form, place: FormPlace, json: Json): Fault & { readonly place: FormPlace } {
  const of = form.forms.fieldByKey.get(place.field);
  const column = of?.subFields.find(({ field }) => field.key === place.subField)?.field.name;
  const rows = (Array.isArray(json) ? json : []) as readonly { readonly id: string }[];
  const position = rows.findIndex(({ id }) => id === place.row) + 1;
  const name = `${of?.field.name ?? place.field}${column ? `, row ${position}, ${column}` : ''}`;
  return { sentence: `${name}: what is typed there can’t be read yet.`, place };
}

/** Faults in the order of the form's fields; those of no field come last. */
function inFormOrder(form: Form, faults: readonly Fault[]): readonly Fault[] {
  const order = new Map(form.forms.fields.map(({ field }, index) => [field.key, index]));
  const at = ({ place }: Fault): number => order.get(place?.field ?? '') ?? order.size;
  return [...faults].sort((a, b) => at(a) - at(b));
}

const tellNudged = (open: number): string => (open === 1 ? 'One worth having is open.' : `${open} worth having are open.`);

/** How many files of the form's inputs are on their way, or could not be sent. */
function useSending(): { readonly sending: SendingCount; readonly noteSending: (input: string, count: SendingCount) => void } {
  const [byInput, setByInput] = useState<Readonly<Record<string, SendingCount>>>({});
  const noteSending = useCallback(
    (input: string, count: SendingCount): void => setByInput((before) => ({ ...before, [input]: count })),
    [],
  );
  const counts = Object.values(byInput);
  const sending = {
    underWay: counts.reduce((sum, { underWay }) => sum + underWay, 0),
    failed: counts.reduce((sum, { failed }) => sum + failed, 0),
  };
  return { sending, noteSending };
}
