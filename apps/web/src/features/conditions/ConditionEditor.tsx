import { Textarea, UnstyledButton } from '@mantine/core';
import {
  checkExpression,
  type Diagnostic,
  describeDiagnostic,
  describeOutline,
  type Form,
  type Node,
  type OutlineGroup,
  type OutlineItem,
  parseExpression,
  readOutline,
  readOutlineGroup,
  type Scope,
  TYPES,
  type Workflow,
} from '@ypomet/core';
import { useEffect, useRef, useState } from 'react';
import classes from './ConditionEditor.module.css';
import { textOf } from './editing.ts';
import { OutlineEditor } from './OutlineEditor.tsx';
import { makeWording } from './wording.ts';

type Props = {
  readonly text: string;
  readonly workflow: Workflow;
  readonly scope: Scope;
  readonly form: Form;
  /** Called with every complete, sound condition; what is half written stays here. */
  readonly onChange: (text: string) => void;
};

const readGroup = (text: string): OutlineGroup | null => {
  const parsed = parseExpression(text);
  return parsed.ok ? readOutlineGroup(parsed.value) : null;
};

/** A condition as an outline or as text: two views of one tree. */
export function ConditionEditor({ text, workflow, scope, form, onChange }: Props) {
  const [mode, setMode] = useState<'outline' | 'text'>(() => (readGroup(text) ? 'outline' : 'text'));
  const [outline, setOutline] = useState<OutlineGroup | null>(() => readGroup(text));
  const kept = useRef(text);
  useEffect(() => {
    if (kept.current === text) return;
    kept.current = text;
    setOutline(readGroup(text));
  }, [text]);
  const keep = (next: string): void => {
    kept.current = next;
    if (next !== text) onChange(next);
  };
  const changeOutline = (next: OutlineGroup): void => {
    setOutline(next);
    const found = textOf(next, scope);
    if ('text' in found) keep(found.text);
  };
  const open = outline && mode === 'outline' ? textOf(outline, scope) : null;
  const parsed = parseExpression(text);
  return (
    <div className={classes.editor}>
      {mode === 'outline' && outline ? (
        <OutlineEditor value={outline} context={{ workflow, scope, form, item: null }} onChange={changeOutline} />
      ) : (
        <TextEditor text={text} scope={scope} onKeep={keep} />
      )}
      <div className={classes.foot}>
        <span role="status" className={classes.open}>
          {open &&
            'open' in open &&
            (open.open === 'incomplete'
              ? 'Unfinished: kept once every clause is complete.'
              : 'Not kept: it doesn’t mean anything yet.')}
        </span>
        <UnstyledButton
          className={`${classes.switch} mono`}
          onClick={() => {
            if (mode === 'outline') setMode('text');
            else {
              setOutline(readGroup(text));
              setMode('outline');
            }
          }}
        >
          {mode === 'outline' ? 'as text' : 'as outline'}
        </UnstyledButton>
      </div>
      {parsed.ok && (
        <p className={classes.sentence}>
          {describeOutline(readOutlineGroup(parsed.value), makeWording(workflow, rowItems(parsed.value)))}
        </p>
      )}
    </div>
  );
}

/** Which table each loop variable of a condition stands for. */
function rowItems(node: Node): ReadonlyMap<string, string> {
  const items = new Map<string, string>();
  const visit = (item: OutlineItem): void => {
    if (item.kind === 'group') item.of.forEach(visit);
    if (item.kind !== 'rows') return;
    items.set(item.item, item.table.join('.'));
    visit(item.where);
  };
  visit(readOutline(node));
  return items;
}

function faultsOf(text: string, scope: Scope): readonly Diagnostic[] {
  const parsed = parseExpression(text);
  return parsed.ok ? checkExpression(parsed.value, scope, TYPES.boolean).diagnostics : parsed.diagnostics;
}

function TextEditor({
  text,
  scope,
  onKeep,
}: {
  readonly text: string;
  readonly scope: Scope;
  readonly onKeep: (text: string) => void;
}) {
  const [typed, setTyped] = useState(text);
  const own = useRef(text);
  useEffect(() => {
    if (own.current !== text) setTyped(text);
    own.current = text;
  }, [text]);
  const [fault] = faultsOf(typed, scope);
  return (
    <>
      <Textarea
        aria-label="Condition as text"
        autosize
        minRows={3}
        classNames={{ input: 'mono' }}
        value={typed}
        error={fault !== undefined}
        onChange={(event) => {
          const next = event.currentTarget.value;
          setTyped(next);
          if (faultsOf(next, scope).length > 0) return;
          own.current = next;
          onKeep(next);
        }}
      />
      {fault && (
        <p className={classes.fault} role="status">
          {describeDiagnostic(fault)}
          {fault.span && (
            <code className="mono">
              {' '}
              …{typed.slice(Math.max(0, fault.span.start - 8), fault.span.start)}
              <mark>{typed.slice(fault.span.start, fault.span.end) || '▁'}</mark>
              {typed.slice(fault.span.end, fault.span.end + 8)}
            </code>
          )}
        </p>
      )}
    </>
  );
}
