import { ActionIcon, Button, Textarea, TextInput } from '@mantine/core';
import { type Json, makeCode, type Workflow } from '@ypomet/core';
import { useState } from 'react';
import { readOptions } from '../../outline/read-options.ts';
import classes from './Panel.module.css';

type Option = Extract<Workflow['fields'][number], { type: 'choice' }>['options'][number];

/** Options by their labels; the code that is stored beside. Order, retire, remove, or paste many at once. */
export function OptionsEditor({
  options,
  onKeep,
  onCode,
}: {
  readonly options: readonly Option[];
  readonly onKeep: (options: Json) => boolean;
  /** Gives an option another code, wherever it is named. */
  readonly onCode: (code: string, next: string) => boolean;
}) {
  const [pasted, setPasted] = useState<string | null>(null);
  const replace = (index: number, change: Partial<Option>): void =>
    void onKeep(options.map((option, at) => (at === index ? { ...option, ...change } : option)) as unknown as Json);
  const move = (index: number, by: number): void => {
    const next = [...options];
    const [moved] = next.splice(index, 1);
    if (moved) next.splice(index + by, 0, moved);
    onKeep(next as unknown as Json);
  };
  const remove = (index: number): void => void onKeep(options.filter((_, at) => at !== index) as unknown as Json);
  const add = (): void => {
    const label = `Option ${options.length + 1}`;
    onKeep([...options, { code: makeCode(label, new Set(options.map(({ code }) => code))), label }] as unknown as Json);
  };
  const found = pasted === null ? [] : readOptions(pasted, options);
  return (
    <section className={classes.options} aria-label="Options">
      <div className={classes.heads} aria-hidden="true">
        <span>Option</span>
        <span>Code</span>
      </div>
      {options.map((option, index) => (
        <div key={option.code} className={classes.option} data-retired={option.retired || undefined}>
          <Kept label={`Label of option ${index + 1}`} value={option.label} onKeep={(label) => replace(index, { label })} />
          <Kept label={`Code of ${option.label}`} value={option.code} isCode onKeep={(code) => void onCode(option.code, code)} />
          <span>
            <ActionIcon
              size={24}
              variant="subtle"
              aria-label={`Move ${option.label} up`}
              disabled={index === 0}
              onClick={() => move(index, -1)}
            >
              ↑
            </ActionIcon>
            <ActionIcon
              size={24}
              variant="subtle"
              aria-label={option.retired ? `Use ${option.label} again` : `Retire ${option.label}`}
              title={option.retired ? 'Can be chosen again' : 'Stays where it was chosen, and can’t be newly chosen'}
              onClick={() => replace(index, { retired: !option.retired })}
            >
              {option.retired ? '↺' : '⊘'}
            </ActionIcon>
            <ActionIcon
              size={24}
              variant="subtle"
              aria-label={`Remove ${option.label}`}
              disabled={options.length === 1}
              onClick={() => remove(index)}
            >
              ×
            </ActionIcon>
          </span>
        </div>
      ))}
      {pasted === null ? (
        <span>
          <Button size="compact-sm" variant="default" onClick={add}>
            Add an option
          </Button>{' '}
          <Button size="compact-sm" variant="subtle" onClick={() => setPasted('')}>
            Paste several
          </Button>
        </span>
      ) : (
        <>
          <Textarea
            size="xs"
            label="One option a line"
            description="The label alone, or “code; label”"
            autosize
            minRows={4}
            maxRows={12}
            value={pasted}
            data-autofocus
            onChange={(event) => setPasted(event.currentTarget.value)}
          />
          <span>
            <Button
              size="compact-sm"
              disabled={found.length === 0}
              onClick={() => {
                if (onKeep([...options, ...found] as unknown as Json)) setPasted(null);
              }}
            >
              {found.length === 1 ? 'Add 1 option' : `Add ${found.length} options`}
            </Button>{' '}
            <Button size="compact-sm" variant="subtle" onClick={() => setPasted(null)}>
              Not now
            </Button>
          </span>
        </>
      )}
    </section>
  );
}

/** An input in a row: keeps on leaving it, or Enter. */
function Kept({
  label,
  value,
  isCode = false,
  onKeep,
}: {
  readonly label: string;
  readonly value: string;
  readonly isCode?: boolean;
  readonly onKeep: (text: string) => void;
}) {
  return (
    <TextInput
      key={value}
      size="xs"
      aria-label={label}
      defaultValue={value}
      {...(isCode ? { classNames: { input: 'mono' } } : {})}
      onBlur={(event) => event.currentTarget.value !== value && onKeep(event.currentTarget.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
      }}
    />
  );
}
