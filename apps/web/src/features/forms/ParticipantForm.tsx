import { Button } from '@mantine/core';
import type { FormDocument, RecordHeader } from '@ypomet/contract';
import {
  type Actor,
  collectInput,
  compileWorkflow,
  decidedOf,
  describeDiagnostic,
  type Form,
  type Issue,
  type Json,
  type Outside,
  validateForm,
  type WorkflowRecord,
} from '@ypomet/core';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import { ApiProblem } from '../../shared/api.ts';
import { Notice } from '../../shared/Notice.tsx';
import type { Values } from '../records/queries.ts';
import { useSession } from '../session/queries.ts';
import classes from './ParticipantForm.module.css';
import { type FormIssues, RecordForm } from './RecordForm.tsx';
import { type Entered, useFormState } from './use-form-state.ts';

type Props = {
  readonly header: RecordHeader;
  readonly document: FormDocument;
  readonly mayAct: boolean;
  readonly isSending: boolean;
  readonly problem: Error | null;
  /** Something to say beside the buttons. */
  readonly notice?: ReactNode;
  /** Asks the server for the form again: something changed that only it can decide. */
  readonly onAsk: (values: Values) => Promise<FormDocument>;
  readonly onHandOn: (handOff: string, values: Values) => void;
};

const ASK_AFTER_MS = 250;

/** A participant's form for their stage, and the buttons they may press. */
export function ParticipantForm({ header, document: given, mayAct, isSending, problem, notice, onAsk, onHandOn }: Props) {
  const { member, workspace } = useSession();
  const [document, setDocument] = useState(given);
  const [entered, setEntered] = useState<Entered>({});
  const [checked, setChecked] = useState<readonly Issue[]>([]);
  useEffect(() => setDocument(given), [given]);
  const workflow = useMemo(() => compileWorkflow(document.definition), [document.definition]);
  const record = useMemo(() => toRecord(header, document), [header, document]);
  const actor: Actor = member;
  const outside = useMemo<Outside>(
    () => ({ now: Date.now(), zone: workspace.zone, locale: workspace.locale, findRecord: () => null }),
    [workspace],
  );
  const { form, unreadable } = useFormState(workflow, record, entered, actor, outside);
  const needsServer = useServerAnswers(document, form, entered, onAsk, setDocument);
  const issues = useMemo(() => toFormIssues(stillOpen(checked, form), problem), [checked, form, problem]);
  const enter = (key: string, value: Json): void => setEntered((before) => ({ ...before, [key]: value }));
  const press = (handOff: (typeof handOffs)[number]): void => {
    const found = handOff.checking === 'full' ? validateForm(form) : [];
    setChecked(found);
    if (found.length === 0 && unreadable.size === 0) onHandOn(handOff.key, collectInput(form, entered) as Values);
    else focusFirst(found[0]?.field ?? [...unreadable.keys()][0] ?? null);
  };
  const handOffs = workflow.definition.handOffs.filter(
    (handOff) => workflow.handOffs.get(handOff.key)?.offered.holds(form.frame) === true,
  );
  const general = issues.general;
  return (
    <div className={classes.frame}>
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
      <div className={classes.foot}>
        {issues.count > 0 && (
          <Notice
            tone="fault"
            title={
              issues.count === 1 ? 'One thing to mend before it can go on' : `${issues.count} things to mend before it can go on`
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
        {mayAct && (
          <div className={classes.buttons}>
            {handOffs.map((handOff, index) => (
              <Button
                key={handOff.key}
                variant={index === 0 ? 'filled' : 'default'}
                disabled={isSending || needsServer}
                loading={isSending && index === 0}
                onClick={() => press(handOff)}
              >
                {handOff.name}
              </Button>
            ))}
          </div>
        )}
      </div>
    </div>
  );
}

const toRecord = (header: RecordHeader, document: FormDocument): WorkflowRecord => ({
  ...header,
  values: document.values as WorkflowRecord['values'],
  followUps: { open: 0, done: 0 },
});

/** Asks the server again when a field that only it can follow changes, or a withheld value comes to be shown. */
function useServerAnswers(
  document: FormDocument,
  form: Form,
  entered: Entered,
  onAsk: Props['onAsk'],
  onAnswer: (document: FormDocument) => void,
): boolean {
  const asked = useRef('');
  const shownNow = document.withheld.filter((key) => {
    const of = form.forms.fieldByKey.get(key);
    return of !== undefined && decidedOf(form, of).treatment !== 'hidden';
  });
  const reason = JSON.stringify([document.askAgainFor.map((key) => entered[key] ?? null), shownNow]);
  const nothing = JSON.stringify([document.askAgainFor.map(() => null), []]);
  const isDue = reason !== nothing && reason !== asked.current;
  const latest = useRef({ form, entered, onAsk, onAnswer });
  latest.current = { form, entered, onAsk, onAnswer };
  useEffect(() => {
    if (!isDue) return;
    const timer = setTimeout(async () => {
      const { form: now, entered: values, onAsk: ask, onAnswer: answer } = latest.current;
      asked.current = reason;
      const next = await ask(collectInput(now, values) as Values).catch((error: unknown) => {
        if (error instanceof Error) return null;
        throw error;
      });
      if (next) answer(next);
    }, ASK_AFTER_MS);
    return () => clearTimeout(timer);
  }, [isDue, reason]);
  return isDue;
}

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
  const byField = new Map<string, { messages: string[]; rows: Map<string, string> }>();
  for (const issue of all) {
    const key = issue.field ?? issue.path;
    const entry = byField.get(key) ?? { messages: [], rows: new Map<string, string>() };
    if (issue.row !== null && issue.subField !== null) entry.rows.set(`${issue.row}/${issue.subField}`, issue.message);
    else entry.messages.push(issue.message);
    byField.set(key, entry);
  }
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
