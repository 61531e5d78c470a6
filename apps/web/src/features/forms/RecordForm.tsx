import { Button, UnstyledButton } from '@mantine/core';
import {
  type CompiledField,
  decidedOf,
  describeDiagnostic,
  effectiveValueOf,
  type Form,
  fitsPattern,
  formatValue,
  isEmpty,
  isEnterable,
  isTypedField,
  isUnreadText,
  type Json,
  type Style,
  type WorkflowRecord,
  writeFieldValue,
} from '@ypomet/core';
import { memo, type ReactNode, useCallback, useMemo, useRef } from 'react';
import { useByParts } from '../../shared/use-by-parts.ts';
import { FieldInput } from './FieldInput.tsx';
import { FileList } from './FilesInput.tsx';
import { toFiles } from './file-json.ts';
import type { FormIssues } from './form-issues.ts';
import type { FormPlace } from './form-places.ts';
import { type Entered, presentJson, type Unreadable } from './form-state.ts';
import { useFormWorld } from './form-world.tsx';
import classes from './RecordForm.module.css';
import { RowsInput } from './RowsInput.tsx';
import { SignOffState } from './SignOffInput.tsx';
import { usePatternEngine } from './use-pattern-engine.ts';
import { useTurnedPage } from './use-turned-page.ts';

type Props = {
  readonly form: Form;
  readonly record: WorkflowRecord;
  readonly entered: Entered;
  readonly unreadable: Unreadable;
  readonly issues: FormIssues;
  /** Where a press leads: another object each time. */
  readonly aim?: FormPlace | null;
  readonly style: Style;
  readonly isOpen: boolean;
  readonly onEnter: (key: string, value: Json) => void;
  /** A remark under a field: why it is treated so, and whether it is since the last answer. */
  readonly remark?: (of: CompiledField) => Remark | null;
};

export type Remark = { readonly text: string; readonly isFresh: boolean };

/** A stage's form: sections of fields, each as the stage and the answers so far treat it; in pages where sections begin some. */
export function RecordForm(props: Props) {
  const { form, issues, aim = null, remark, onEnter, ...rest } = props;
  const { unreadable } = rest;
  const latest = useRef(onEnter);
  latest.current = onEnter;
  const enter = useCallback((key: string, value: Json): void => latest.current(key, value), []);
  const pages = useMemo(() => pagesOf(form), [form]);
  const rows = useByParts(form.forms.fields.length, ROWS_AT_ONCE);
  const [at, turn] = useTurnedPage(pages.length, aim, ({ field }) =>
    pages.findIndex(({ sections }) => sections.some(({ fields }) => fields.some((of) => of.field.key === field))),
  );
  let place = 0;
  return (
    <div className={classes.form}>
      {pages.length > 1 && (
        <ol className={classes.pages} aria-label="Pages">
          {pages.map((page, index) => (
            <li key={page.key}>
              <UnstyledButton
                className={classes.page}
                aria-current={index === at ? 'page' : undefined}
                onClick={() => turn(index)}
              >
                {index + 1}. {page.name}
                <PageState page={page} form={form} isOpen={rest.isOpen} />
                {hasIssue(page, issues, unreadable) && <span className={classes.flag}> to mend</span>}
              </UnstyledButton>
            </li>
          ))}
        </ol>
      )}
      {pages.map((page, index) => (
        <div key={page.key} hidden={index !== at} className={classes.sections}>
          {page.sections.map(({ key, name, fields }) => (
            <fieldset key={key} className={classes.section}>
              <legend lang={props.style.locale}>{name}</legend>
              {fields.map((of) => {
                place += 1;
                if (place > rows) return null;
                const said = remark?.(of) ?? null;
                return (
                  <FieldRow
                    key={of.field.key}
                    of={of}
                    form={form}
                    issues={issues}
                    aim={aim?.field === of.field.key ? aim : null}
                    {...rest}
                    said={said?.text ?? null}
                    isFresh={said?.isFresh ?? false}
                    onEnter={enter}
                  />
                );
              })}
            </fieldset>
          ))}
        </div>
      ))}
      {pages.length > 1 && (
        <div className={classes.turn}>
          <Button variant="default" size="compact-md" disabled={at === 0} onClick={() => turn(at - 1)}>
            Page before
          </Button>
          <Button variant="default" size="compact-md" disabled={at === pages.length - 1} onClick={() => turn(at + 1)}>
            Next page
          </Button>
        </div>
      )}
    </div>
  );
}

/** Fields that are drawn at a time: more than a screen has. Those of a large form come one part after another and hold nobody up. */
const ROWS_AT_ONCE = 40;

type Shown = { readonly key: string; readonly name: string; readonly fields: readonly CompiledField[] };
type Page = { readonly key: string; readonly name: string; readonly sections: readonly Shown[] };

/** The sections that show something, in pages: one begins with every section that is marked so. */
export function pagesOf(form: Form): readonly Page[] {
  const pages: { key: string; name: string; sections: Shown[] }[] = [];
  let begins = true;
  for (const { key, name, page } of form.forms.definition.sections) {
    begins ||= page;
    const fields = form.forms.fields.filter((of) => of.field.section === key && decidedOf(form, of).treatment !== 'hidden');
    if (fields.length === 0) continue;
    if (begins) pages.push({ key, name, sections: [] });
    begins = false;
    pages.at(-1)?.sections.push({ key, name, fields });
  }
  return pages;
}

/** How far a page is filled in: what it asks for that is still empty. Nothing on a page that only shows. */
export function progressOf({ sections }: Page, form: Form): { readonly asked: number; readonly open: number } {
  const asked = sections.flatMap(({ fields }) => fields).filter((of) => decidedOf(form, of).treatment === 'required');
  return { asked: asked.length, open: asked.filter((of) => isEmpty(effectiveValueOf(form, of))).length };
}

function PageState({ page, form, isOpen }: { readonly page: Page; readonly form: Form; readonly isOpen: boolean }) {
  const { asked, open } = progressOf(page, form);
  if (!isOpen || asked === 0) return null;
  return (
    <span className={classes.progress} data-done={open === 0 || undefined}>
      {open === 0 ? ' ✓ complete' : ` ${asked - open} of ${asked}`}
    </span>
  );
}

const hasIssue = (page: Page, issues: FormIssues, unreadable: Unreadable): boolean =>
  page.sections.some(({ fields }) => fields.some(({ field }) => issues.has(field.key) || unreadable.has(field.key)));

/** A value that can't be entered here, as people read it. */
function FixedValue({ of, form, style }: { readonly of: CompiledField; readonly form: Form; readonly style: Style }) {
  const { names } = useFormWorld();
  const { field } = of;
  const value = effectiveValueOf(form, of);
  if (field.type === 'sign-off') return <SignOffState field={field.key} value={writeFieldValue(field, value)} />;
  if (field.type === 'file' && value !== null) return <FileList files={toFiles(writeFieldValue(field, value))} />;
  const text = formatValue(value, field, { ...style, nameOf: (id) => names[id] ?? null });
  return text || <span className={classes.empty}>not given</span>;
}

const NO_ROWS: ReadonlyMap<string, string> = new Map();
const WIDE = new Set(['table', 'long-text', 'note', 'multi-choice']);

/** Types whose input is a group of elements, named by `aria-labelledby`: a label can name one element only. */
const GROUPS = new Set(['table', 'multi-choice', 'yes-no', 'file', 'sign-off']);

/** The part of a text's limit from which on its length is told. */
const TOLD_FROM = 0.8;

/**
 * What a text still lacks while somebody types it: how long it is and may be, as soon as it comes near its limit or is too short
 * so far; and that it hasn't the form that is asked for, in the analyst's words where there are some.
 */
function TextTold({ field, value }: { readonly field: CompiledField['field']; readonly value: Json }) {
  const isAsked = field.type === 'text' && field.pattern !== null && typeof value === 'string' && value.trim() !== '';
  const canTell = usePatternEngine(isAsked);
  if ((field.type !== 'text' && field.type !== 'long-text') || typeof value !== 'string') return null;
  const text = value.trim();
  const isFitting = !isAsked || !canTell || fitsPattern(field, text);
  return (
    <>
      <LengthTold field={field} value={value} />
      {!isFitting && (
        <p className={classes.help} aria-live="polite">
          {field.messages.pattern ?? 'It hasn’t the form that is asked for yet.'}
        </p>
      )}
    </>
  );
}

function LengthTold({
  field,
  value,
}: {
  readonly field: Extract<CompiledField['field'], { readonly type: 'text' | 'long-text' }>;
  readonly value: string;
}) {
  const length = Array.from(value.trim()).length;
  const { maxLength, minLength } = field;
  const isShort = minLength !== null && length > 0 && length < minLength;
  if (!isShort && (maxLength === null || length < maxLength * TOLD_FROM)) return null;
  const isBroken = isShort || length > (maxLength ?? Number.POSITIVE_INFINITY);
  return (
    <p className={isBroken ? classes.error : classes.help} aria-live="polite">
      {isShort ? `${length} of at least ${minLength} characters` : `${length} of ${maxLength} characters`}
    </p>
  );
}

function Name({
  of,
  htmlFor,
  id,
  children,
}: {
  readonly of: CompiledField;
  readonly htmlFor: string | null;
  readonly id: string;
  readonly children: ReactNode;
}) {
  if (htmlFor === null)
    return (
      <span className={classes.label} id={id}>
        {of.field.name} {children}
      </span>
    );
  return (
    <label className={classes.label} htmlFor={htmlFor} id={id}>
      {of.field.name} {children}
    </label>
  );
}

type RowProps = Omit<Props, 'remark'> & {
  readonly of: CompiledField;
  /** What is remarked under it, and whether that is new. */
  readonly said: string | null;
  readonly isFresh: boolean;
};

/** Whether a field is as it was: of a large form one answer changes few of them, and only these are drawn again. */
function isSameRow(a: RowProps, b: RowProps): boolean {
  const { key } = a.of.field;
  const { slot } = a.of;
  const isSameState =
    a.form.frame.slots[slot] === b.form.frame.slots[slot] &&
    a.form.decided[slot] === b.form.decided[slot] &&
    a.form.rows.get(slot) === b.form.rows.get(slot);
  const isSameEntry = a.entered[key] === b.entered[key] && Object.hasOwn(a.entered, key) === Object.hasOwn(b.entered, key);
  return (
    a.of === b.of &&
    isSameState &&
    isSameEntry &&
    a.unreadable.get(key) === b.unreadable.get(key) &&
    a.issues.get(key) === b.issues.get(key) &&
    a.aim === b.aim &&
    a.record === b.record &&
    a.style === b.style &&
    a.isOpen === b.isOpen &&
    a.said === b.said &&
    a.isFresh === b.isFresh &&
    a.onEnter === b.onEnter
  );
}

const FieldRow = memo(function FieldRow({
  of,
  form,
  record,
  entered,
  unreadable,
  issues,
  aim = null,
  style,
  isOpen,
  onEnter,
  said,
  isFresh,
}: RowProps) {
  const { field } = of;
  const { treatment, by } = decidedOf(form, of);
  const canEnter = isOpen && isEnterable(treatment);
  const found = issues.get(field.key);
  // Inputs into which values are typed, and cells of tables, say themselves what can't be read.
  const tellsItself = isTypedField(field) || field.type === 'table' || isUnreadText(entered[field.key]);
  const [unread] = tellsItself ? [] : (unreadable.get(field.key) ?? []);
  const error = (unread && describeDiagnostic(unread)) ?? found?.messages.join(' ') ?? null;
  const id = `field-${field.key}`;
  const describedBy = [field.help && canEnter ? `${id}-help` : null, error ? `${id}-error` : null]
    .filter((part) => part !== null)
    .join(' ');
  return (
    <div
      className={classes.field}
      data-wide={WIDE.has(field.type) || undefined}
      data-adjusted={(by !== null && canEnter) || undefined}
      data-field={field.key}
      data-treatment={treatment}
      // Names, help and values are in the workspace’s language; the words of the application in it are marked as English.
      lang={style.locale}
    >
      {field.type === 'note' ? (
        <p className={classes.note}>{field.text}</p>
      ) : (
        <>
          <Name of={of} htmlFor={canEnter && !GROUPS.has(field.type) ? id : null} id={`${id}-label`}>
            {canEnter && treatment !== 'optional' && (
              <span data-treatment={treatment} lang="en">
                {treatment === 'required' ? 'required' : 'worth having'}
              </span>
            )}
          </Name>
          {field.type === 'table' ? (
            <RowsInput
              id={id}
              of={of}
              form={form}
              value={presentJson(form, record, entered, of)}
              isOpen={canEnter}
              issues={found?.rows ?? NO_ROWS}
              aim={aim}
              style={style}
              onEnter={(value) => onEnter(field.key, value)}
            />
          ) : canEnter ? (
            <FieldInput
              id={id}
              field={field}
              path={field.key}
              stored={record.values[field.key] ?? null}
              value={presentJson(form, record, entered, of)}
              hasError={error !== null}
              isRequired={treatment === 'required'}
              describedBy={describedBy}
              onEnter={(value) => onEnter(field.key, value)}
            />
          ) : (
            <div id={id} className={classes.fixed} role="group" aria-labelledby={`${id}-label`} dir="auto">
              <FixedValue of={of} form={form} style={style} />
            </div>
          )}
          {canEnter && <TextTold field={field} value={presentJson(form, record, entered, of)} />}
          {field.help && canEnter && (
            <p id={`${id}-help`} className={classes.help}>
              {field.help}
            </p>
          )}
          {said !== null && (
            <p className={classes.remark} data-fresh={isFresh || undefined}>
              {said}
            </p>
          )}
          {error && (
            <p id={`${id}-error`} className={classes.error}>
              {error}
            </p>
          )}
        </>
      )}
    </div>
  );
}, isSameRow);
