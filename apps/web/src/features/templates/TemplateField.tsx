import { Textarea, UnstyledButton } from '@mantine/core';
import { describeDiagnostic, type Path } from '@ypomet/core';
import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useConditionPlace } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import classes from './TemplateField.module.css';
import { makeTemplatePlace } from './template-place.ts';

/** Loaded when the first text is written. */
const TemplateEditor = lazy(() => import('./TemplateEditor.tsx').then((module) => ({ default: module.TemplateEditor })));

const KEEP_AFTER_MS = 300;

/** A text with values in it: as it reads, or as it is stored. Kept a moment after one has typed. */
export function TemplateField({
  label,
  note,
  text,
  path,
  isLine = false,
  onKeep,
}: {
  readonly label: string;
  readonly note?: string;
  readonly text: string;
  /** Where it stands in the definition: what is wrong with it is found there. */
  readonly path: Path;
  readonly isLine?: boolean;
  readonly onKeep: (text: string) => boolean;
}) {
  const { definition, compiled, faults, warnings } = useDraft();
  const place = useConditionPlace();
  const [isText, setText] = useState(false);
  const templates = useMemo(
    () => makeTemplatePlace(definition, place, compiled.forms.layout.rowScopes),
    [definition, place, compiled.forms.layout.rowScopes],
  );
  const waiting = useRef<{ readonly timer: ReturnType<typeof setTimeout>; readonly next: string } | null>(null);
  const latest = useRef(onKeep);
  latest.current = onKeep;
  const flush = useCallback((): void => {
    const own = waiting.current;
    waiting.current = null;
    if (!own) return;
    clearTimeout(own.timer);
    latest.current(own.next);
  }, []);
  useEffect(() => flush, [flush]);
  const change = (next: string): void => {
    if (waiting.current) clearTimeout(waiting.current.timer);
    waiting.current = { next, timer: setTimeout(flush, KEEP_AFTER_MS) };
  };
  const found = [...faults, ...warnings].filter((one) => one.path === path);
  return (
    <div className={classes.field} role="group" aria-label={label} onBlur={flush}>
      <div className={classes.head}>
        <span className={classes.label}>{label}</span>
        <UnstyledButton className={classes.view} onClick={() => setText(!isText)}>
          {isText ? 'as it reads' : 'as text'}
        </UnstyledButton>
      </div>
      {note && <span className={classes.note}>{note}</span>}
      {isText ? (
        <Textarea
          key={path}
          aria-label={`${label}, as text`}
          size="xs"
          autosize
          minRows={isLine ? 1 : 6}
          maxRows={24}
          defaultValue={text}
          classNames={{ input: 'mono' }}
          onChange={(event) => change(event.currentTarget.value)}
        />
      ) : (
        <Suspense fallback={<pre className={classes.waiting}>{text}</pre>}>
          <TemplateEditor key={path} label={label} text={text} place={templates} isLine={isLine} onChange={change} />
        </Suspense>
      )}
      {found.map((one) => (
        <p key={`${one.code}/${one.span?.start ?? ''}`} className={classes.fault}>
          {describeDiagnostic(one)}
        </p>
      ))}
    </div>
  );
}
