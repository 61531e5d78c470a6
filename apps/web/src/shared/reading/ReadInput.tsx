import { Button, TextInput, type TextInputProps } from '@mantine/core';
import type { Reading } from '@ypomet/core';
import { type ReactNode, useId, useRef, useState } from 'react';
import classes from './ReadInput.module.css';
import { tellWhyUnread } from './why-unread.ts';

type Look = Pick<
  TextInputProps,
  'label' | 'description' | 'size' | 'placeholder' | 'inputMode' | 'className' | 'classNames' | 'rightSectionWidth' | 'aria-label'
>;

/** For forms that answer with each key: a text that has no value, or several, is given as it is typed so far. */
type WhileTyped<T> = {
  readonly when: 'typed';
  readonly onRead: (value: T | null) => void;
  readonly onUnread: (text: string) => void;
};

/** For edits that are kept when the input is left, or Enter pressed; Escape takes back what was typed. */
type WhenLeft<T> = {
  readonly when: 'left';
  /** Keeps a value; null for an empty input. Returns why that isn't possible, else null. */
  readonly onKeep: (value: T | null) => string | null;
  /** Takes note that what stands in the input can't be read, so that nothing counts as entered. */
  readonly onUnread?: () => void;
};

type Props<T> = Look &
  (WhileTyped<T> | WhenLeft<T>) & {
    readonly id?: string | undefined;
    /** What stands in the input while nobody types: a value as it is written, or a text that couldn't be read. */
    readonly shown: string;
    /** Whether `shown` is a text that couldn't be read. */
    readonly isUnread?: boolean;
    readonly read: (text: string) => Reading<T>;
    readonly write: (value: T) => string;
    /** A sample value, which the error message shows: "Write it like 1,250.50." */
    readonly example: string;
    readonly hasError?: boolean;
    readonly isRequired?: boolean | undefined;
    readonly describedBy?: string | undefined;
    readonly rightSection?: ReactNode;
  };

/** What is being typed, and why it can't be kept although it was left. */
type Draft = { readonly text: string; readonly isLeft: boolean; readonly why: string | null };

/**
 * An input whose text is read as a value. While somebody types, the text is theirs: no key is swallowed or changed. Once it
 * is left, it is shown as it was read; a text that can't be read stays with the reason, and one with two meanings with a
 * question.
 */
export function ReadInput<T>(props: Props<T>) {
  const { shown, isUnread = false, read, write, example, hasError, isRequired, describedBy } = props;
  const { label, description, size, placeholder, inputMode, className, classNames, rightSection, rightSectionWidth } = props;
  const made = useId();
  const id = props.id ?? made;
  const [draft, setDraft] = useState<Draft | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const text = draft?.text ?? shown;
  const isTold = draft === null ? isUnread : draft.isLeft;
  const reading = isTold ? read(text) : null;
  const keep = (value: T | null): void => {
    if (props.when === 'typed') props.onRead(value);
    const why = props.when === 'typed' ? null : props.onKeep(value);
    setDraft(why === null ? null : { text: value === null ? '' : write(value), isLeft: true, why });
  };
  const finish = (): void => {
    if (draft === null || draft.isLeft) return;
    const found = read(draft.text);
    if (props.when === 'typed' || draft.text === shown) setDraft(null);
    else if (found.kind === 'value') keep(found.value);
    else if (found.kind === 'nothing') keep(null);
    else {
      props.onUnread?.();
      setDraft({ ...draft, isLeft: true });
    }
  };
  const type = (typed: string): void => {
    setDraft({ text: typed, isLeft: false, why: null });
    if (props.when === 'left') return;
    const found = read(typed);
    if (found.kind === 'value') props.onRead(found.value);
    else if (found.kind === 'nothing') props.onRead(null);
    else props.onUnread(typed);
  };
  const why = draft?.why ?? null;
  const isWrong = why !== null || (reading !== null && reading.kind !== 'value' && reading.kind !== 'nothing');
  const told = [describedBy, isWrong ? `${id}-unread` : null].filter(Boolean).join(' ');
  return (
    <div className={className}>
      <TextInput
        label={label}
        description={description}
        {...(size ? { size } : {})}
        {...(placeholder ? { placeholder } : {})}
        {...(inputMode ? { inputMode } : {})}
        {...(classNames ? { classNames } : {})}
        {...(rightSection ? { rightSection } : {})}
        {...(rightSectionWidth ? { rightSectionWidth } : {})}
        {...(props['aria-label'] ? { 'aria-label': props['aria-label'] } : {})}
        ref={input}
        id={id}
        dir="auto"
        autoComplete="off"
        value={text}
        error={hasError === true || isWrong}
        attributes={{
          input: { ...(told ? { 'aria-describedby': told } : {}), ...(isRequired ? { 'aria-required': true } : {}) },
        }}
        onChange={(event) => type(event.currentTarget.value)}
        onBlur={finish}
        onKeyDown={(event) => {
          if (props.when !== 'left' || event.nativeEvent.isComposing) return;
          if (event.key === 'Enter') finish();
          if (event.key === 'Escape' && draft !== null) {
            event.stopPropagation();
            setDraft(null);
          }
        }}
      />
      {isWrong && (
        <div id={`${id}-unread`} className={classes.told} role="alert">
          {why ?? (
            <Told
              reading={reading}
              text={text}
              example={example}
              write={write}
              onMean={(value) => {
                keep(value);
                input.current?.focus();
              }}
            />
          )}
        </div>
      )}
    </div>
  );
}

/** Why a text can't be read, or the question which of its two meanings is meant. */
function Told<T>({
  reading,
  text,
  example,
  write,
  onMean,
}: {
  readonly reading: Reading<T> | null;
  readonly text: string;
  readonly example: string;
  readonly write: (value: T) => string;
  readonly onMean: (value: T) => void;
}) {
  if (reading?.kind === 'unread') return tellWhyUnread(reading.why, example);
  if (reading?.kind !== 'either') return null;
  return (
    <>
      “{text.trim()}” can be read in two ways. Which is meant?
      <span className={classes.meanings}>
        {reading.values.map((value) => (
          <Button key={write(value)} size="compact-xs" variant="default" onClick={() => onMean(value)}>
            {write(value)}
          </Button>
        ))}
      </span>
    </>
  );
}
