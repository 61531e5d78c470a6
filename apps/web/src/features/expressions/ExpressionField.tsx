import { UnstyledButton } from '@mantine/core';
import {
  type Diagnostic,
  describeDiagnostic,
  describeExpression,
  type Node,
  type Scope,
  type Type,
  type Wording,
} from '@ypomet/core';
import { lazy, Suspense, useCallback, useEffect, useId, useRef, useState } from 'react';
import { useWording } from '../conditions/use-place.ts';
import classes from './ExpressionField.module.css';
import { readText } from './faults.ts';
import { unfinished } from './unfinished.ts';

/** Loaded when the first expression is opened as text. */
const ExpressionEditor = lazy(() => import('./ExpressionEditor.tsx').then((module) => ({ default: module.ExpressionEditor })));

const KEEP_AFTER_MS = 250;

type Props = {
  readonly label: string;
  readonly note?: string | undefined;
  readonly text: string;
  readonly scope: Scope;
  readonly expected: Type | undefined;
  /** Where it stands: text with errors is kept for there. */
  readonly at?: { readonly workflow: string; readonly path: string } | undefined;
  readonly autoFocus?: boolean;
  /** Whether it can be empty: it is then kept as the empty text. */
  readonly isOptional?: boolean;
  /** The words in which it is told again below it; the record's own where it isn't said. */
  readonly wording?: Wording;
  readonly isTold?: boolean;
  /** How it is told; as an expression where nothing is said. */
  readonly say?: (node: Node) => string;
  /** Called with every sound text. */
  readonly onKeep: (text: string, node: Node) => void;
  readonly onEmpty?: () => void;
};

/**
 * An expression as text. Sound text is kept as it is typed; what isn't sound says why, and stays in this browser until it is:
 * the draft has the last that was.
 */
export const ExpressionField = ({ wording, ...props }: Props) =>
  wording ? <Worded {...props} wording={wording} /> : <InDraft {...props} />;

/** In the words of the draft. */
function InDraft(props: Omit<Props, 'wording'>) {
  return <Worded {...props} wording={useWording()} />;
}

function Worded({
  label,
  note,
  text,
  scope,
  expected,
  at,
  autoFocus = false,
  isOptional = false,
  wording,
  isTold = false,
  say,
  onKeep,
  onEmpty,
}: Omit<Props, 'wording'> & { readonly wording: Wording }) {
  const id = useId();
  const [typed, setTyped] = useState(() => (at && unfinished.find(at.workflow, at.path)) ?? text);
  const [kept, setKept] = useState(text);
  const { node, diagnostics } = readText(typed, scope, expected);
  /** Returns the faults of a text. An empty text has none where no expression is needed. */
  const faultsIn = (given: string): readonly Diagnostic[] =>
    isOptional && given.trim() === '' ? [] : readText(given, scope, expected).diagnostics;
  const [fault] = isOptional && typed.trim() === '' ? [] : diagnostics;
  if (kept !== text) {
    setKept(text);
    if (!fault) setTyped(text);
  }
  // The draft follows a moment after one has typed, so that typing waits for nothing; at once when one leaves.
  const waiting = useRef<{ readonly timer: ReturnType<typeof setTimeout>; readonly keep: () => void } | null>(null);
  const flush = useCallback((): void => {
    const own = waiting.current;
    waiting.current = null;
    if (!own) return;
    clearTimeout(own.timer);
    own.keep();
  }, []);
  useEffect(() => flush, [flush]);
  const latest = useRef(onKeep);
  latest.current = onKeep;
  const later = (next: string, sound: Node): void => {
    if (waiting.current) clearTimeout(waiting.current.timer);
    waiting.current = null;
    if (next === text) return;
    const keep = (): void => {
      setKept(next);
      latest.current(next, sound);
    };
    waiting.current = { timer: setTimeout(flush, KEEP_AFTER_MS), keep };
  };
  const change = (next: string): void => {
    if (next === typed) return;
    setTyped(next);
    if (waiting.current) clearTimeout(waiting.current.timer);
    waiting.current = null;
    if (isOptional && next.trim() === '') {
      if (at) unfinished.drop(at.workflow, at.path);
      setKept('');
      onEmpty?.();
      return;
    }
    const read = readText(next, scope, expected);
    if (read.node && read.diagnostics.length === 0) {
      if (at) unfinished.drop(at.workflow, at.path);
      later(next, read.node);
    } else if (at) unfinished.keep(at.workflow, at.path, next);
  };
  const takeBack = (): void => {
    if (at) unfinished.drop(at.workflow, at.path);
    setTyped(text);
  };
  const asked = {
    scope,
    expected,
    wording: wording,
    faults: faultsIn,
  };
  return (
    <div className={classes.field} role="group" aria-labelledby={id} onBlur={flush}>
      <span className={classes.label} id={id}>
        {label}
      </span>
      {note && <span className={classes.note}>{note}</span>}
      <Suspense fallback={<pre className={`${classes.waiting} mono`}>{typed}</pre>}>
        <ExpressionEditor label={label} text={typed} asked={asked} autoFocus={autoFocus} onChange={change} />
      </Suspense>
      {fault && (
        <p className={classes.fault} role="status">
          {describeDiagnostic(fault)}{' '}
          <span className={classes.note}>
            Unfinished: kept here, not in the draft.{' '}
            <UnstyledButton className={classes.back} onClick={takeBack}>
              Back to what was sound
            </UnstyledButton>
          </span>
        </p>
      )}
      {isTold && node && !fault && <p className={classes.told}>{say ? say(node) : describeExpression(node, wording)}</p>}
    </div>
  );
}
