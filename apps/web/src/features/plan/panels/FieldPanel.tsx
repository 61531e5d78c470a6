import { Button, Textarea, UnstyledButton } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import {
  checkExpression,
  type Diagnostic,
  describeDiagnostic,
  expressionOf,
  type Field,
  type FieldType,
  findField,
  findSubField,
  type Json,
  joinPath,
  parseExpression,
  type Scope,
  type SubField,
  splitFieldPath,
  splitPath,
  type Type,
  typeOfField,
} from '@ypomet/core';
import { useState } from 'react';
import { useDraft } from '../../drafts/draft-context.tsx';
import { workflowsQuery } from '../../drafts/queries.ts';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import { neededBy, partOfField, TYPE_NAMES, typeChoices } from './field-types.ts';
import { OptionsEditor } from './OptionsEditor.tsx';
import classes from './Panel.module.css';
import { PartActions, UsedBy } from './PartActions.tsx';
import { ChoiceProperty, ChoicesProperty, CountProperty, SwitchProperty, TextProperty, useChange } from './properties.tsx';

type Props = { readonly field: string; readonly onSelect: (selection: Selection) => void };

/** Who is here: the analyst, saying what a field is: its type, its limits, who may read it, and what it is made from. */
export function FieldPanel({ field: path, onSelect }: Props) {
  const { store, definition, compiled } = useDraft();
  const others = useOtherWorkflows();
  const part = partOfField(path);
  const change = useChange(part);
  const { field: table, sub } = splitFieldPath(path);
  const field = findField(definition, path) ?? findSubField(definition, path)?.field;
  if (!field) return <p>This field is gone.</p>;
  const scope = (sub !== null && compiled.forms.layout.rowScopes.get(table)) || compiled.forms.layout.scope;
  const selectKey = (key: string): void => onSelect({ kind: 'field', field: sub === null ? key : `${table}.${key}` });
  const rename = (key: string): boolean => {
    const isRenamed = store.edit({ type: 'rename-key', part, key });
    if (isRenamed) selectKey(key);
    return isRenamed;
  };
  return (
    <>
      <p className={inspector.where}>{sub === null ? 'Field' : `Column of ${findField(definition, table)?.name ?? table}`}</p>
      <h2 className={inspector.title}>{field.name}</h2>
      <div className={classes.panel} key={path}>
        <TextProperty label="Name" value={field.name} onKeep={(name) => change({ name })} />
        <div className={classes.pair}>
          <ChoiceProperty
            label="Type"
            value={field.type}
            choices={typeChoices(sub !== null)}
            onKeep={(type) =>
              type &&
              change({
                type,
                ...neededBy(
                  type as FieldType,
                  others.map(({ key }) => key),
                ),
              })
            }
          />
          <TextProperty label="Key in expressions" value={field.key} isCode onKeep={rename} />
        </div>
        {'section' in field && (
          <ChoiceProperty
            label="Section"
            value={field.section}
            choices={definition.sections.map(({ key, name }) => ({ value: key, label: name }))}
            onKeep={(section) => section && change({ section })}
          />
        )}
        <TextProperty label="Help for who fills it in" value={field.help} lines={2} onKeep={(help) => change({ help })} />
        <Limits
          field={field}
          change={change}
          onCode={(code, next) =>
            store.edit({ type: 'rename-key', part: joinPath(...(splitPath(part) ?? []), 'options', code), key: next })
          }
          onSelect={onSelect}
        />
        {'expression' in field && (
          <ComputedBy
            text={expressionOf(field)}
            scope={scope}
            expected={typeOfField(field, store.editing.findWorkflow)}
            onKeep={(expression) => change({ expression })}
          />
        )}
        {'confidentialTo' in field && (
          <ChoicesProperty
            label="Only these roles may read it"
            value={field.confidentialTo}
            choices={definition.roles.map(({ key, name }) => ({ value: key, label: name }))}
            none="all who see the record"
            onKeep={(confidentialTo) => change({ confidentialTo: [...confidentialTo] })}
          />
        )}
        {'discloses' in field && expressionOf(field) !== null && (
          <SwitchProperty
            label="Whoever may read it may read what it comes to"
            value={field.discloses}
            onKeep={(discloses) => change({ discloses })}
          />
        )}
      </div>
      <UsedBy part={part} />
      <PartActions
        part={part}
        earlier="Move up"
        later="Move down"
        onCopied={selectKey}
        onGone={() => onSelect({ kind: 'nothing' })}
      />
    </>
  );
}

/** The other workflows, to whose records a reference can lead. */
function useOtherWorkflows(): readonly { readonly key: string; readonly name: string }[] {
  const { store } = useDraft();
  return useQuery(workflowsQuery).data?.filter(({ key }) => key !== store.key) ?? [];
}

type Change = ReturnType<typeof useChange>;

/** What a value of the field's type is held to. */
function Limits({
  field,
  change,
  onCode,
  onSelect,
}: {
  readonly field: Field | SubField;
  readonly change: Change;
  readonly onCode: (code: string, next: string) => boolean;
  readonly onSelect: Props['onSelect'];
}) {
  const { definition } = useDraft();
  const others = useOtherWorkflows();
  const text = (label: string, property: string, value: string | null, isCode = false) => (
    <TextProperty
      label={label}
      value={value ?? ''}
      isCode={isCode}
      placeholder="none"
      onKeep={(next) => change({ [property]: next === '' ? null : next })}
    />
  );
  switch (field.type) {
    case 'text':
      return (
        <>
          <Lengths field={field} change={change} />
          {text('Pattern it must match', 'pattern', field.pattern, true)}
          {field.pattern !== null && (
            <TextProperty
              label="What to say when it doesn’t"
              value={field.patternMessage}
              onKeep={(patternMessage) => change({ patternMessage })}
            />
          )}
        </>
      );
    case 'long-text':
      return <Lengths field={field} change={change} />;
    case 'number':
    case 'money':
      return (
        <>
          <div className={classes.pair}>
            {field.type === 'money' ? (
              <TextProperty label="Currency" value={field.currency} isCode onKeep={(currency) => change({ currency })} />
            ) : (
              <TextProperty label="Unit" value={field.unit} placeholder="none" onKeep={(unit) => change({ unit })} />
            )}
            <CountProperty label="Decimal places" value={field.scale} onKeep={(scale) => change({ scale: scale ?? 0 })} />
          </div>
          <div className={classes.pair}>
            {text('At least', 'min', field.min)}
            {text('At most', 'max', field.max)}
          </div>
        </>
      );
    case 'date':
      return (
        <div className={classes.pair}>
          {text('Not before', 'min', field.min)}
          {text('Not after', 'max', field.max)}
        </div>
      );
    case 'choice':
    case 'multi-choice':
      return <OptionsEditor options={field.options} onKeep={(options) => change({ options })} onCode={onCode} />;
    case 'member':
      return (
        <ChoiceProperty
          label="Of the role"
          value={field.role}
          choices={definition.roles.map(({ key, name }) => ({ value: key, label: name }))}
          none="any member"
          onKeep={(role) => change({ role })}
        />
      );
    case 'file':
      return (
        <div className={classes.pair}>
          <CountProperty label="Files at most" value={field.maxCount} onKeep={(count) => change({ maxCount: count ?? 10 })} />
          <CountProperty
            label="Bytes of a file at most"
            value={field.maxBytes}
            onKeep={(count) => change({ maxBytes: count ?? 20_000_000 })}
          />
        </div>
      );
    case 'reference':
      return (
        <ChoiceProperty
          label="To a record of"
          value={field.workflow}
          choices={[
            ...others.map(({ key, name }) => ({ value: key, label: name })),
            ...(others.some(({ key }) => key === field.workflow) ? [] : [{ value: field.workflow, label: field.workflow }]),
          ]}
          onKeep={(workflow) => workflow && change({ workflow })}
        />
      );
    case 'table':
      return (
        <>
          <div className={classes.pair}>
            <CountProperty label="Rows at least" value={field.minRows} onKeep={(minRows) => change({ minRows })} />
            <CountProperty label="Rows at most" value={field.maxRows} onKeep={(maxRows) => change({ maxRows })} />
          </div>
          <section aria-label="Columns">
            {field.fields.map((own) => (
              <div key={own.key} className={classes.row}>
                <UnstyledButton
                  className={inspector.link}
                  onClick={() => onSelect({ kind: 'field', field: `${field.key}.${own.key}` })}
                >
                  {own.name}
                </UnstyledButton>
                <span className={inspector.soft}>{TYPE_NAMES[own.type]}</span>
              </div>
            ))}
            <Button
              size="compact-sm"
              variant="default"
              onClick={() => onSelect({ kind: 'add-fields', to: { kind: 'table', table: field.key } })}
            >
              Add columns
            </Button>
          </section>
        </>
      );
    case 'note':
      return <TextProperty label="Text" value={field.text} lines={3} onKeep={(next) => change({ text: next })} />;
    case 'yes-no':
    case 'time':
    case 'date-time':
    case 'sign-off':
      return null;
    default:
      return field satisfies never;
  }
}

function Lengths({
  field,
  change,
}: {
  readonly field: { readonly minLength: number | null; readonly maxLength: number | null };
  readonly change: Change;
}) {
  return (
    <div className={classes.pair}>
      <CountProperty label="Characters at least" value={field.minLength} onKeep={(minLength) => change({ minLength })} />
      <CountProperty label="Characters at most" value={field.maxLength} onKeep={(maxLength) => change({ maxLength })} />
    </div>
  );
}

function faultsOf(text: string, scope: Scope, expected: Type): readonly Diagnostic[] {
  const parsed = parseExpression(text);
  return parsed.ok ? checkExpression(parsed.value, scope, expected).diagnostics : parsed.diagnostics;
}

/** The expression that a field is computed by; none where it is entered. What isn't sound yet isn't kept. */
function ComputedBy({
  text,
  scope,
  expected,
  onKeep,
}: {
  readonly text: string | null;
  readonly scope: Scope;
  readonly expected: Type;
  readonly onKeep: (expression: Json) => boolean;
}) {
  const [typed, setTyped] = useState(text ?? '');
  const [kept, setKept] = useState(text);
  if (kept !== text) {
    setKept(text);
    setTyped(text ?? '');
  }
  const [fault] = typed.trim() === '' ? [] : faultsOf(typed, scope, expected);
  const finish = (): void => {
    const next = typed.trim() === '' ? null : typed;
    if (!fault && next !== text) onKeep(next);
  };
  return (
    <Textarea
      size="xs"
      label="Computed by"
      description={
        text === null ? 'Nothing: it is entered.' : 'It is read-only, and computed again whenever what it reads changes.'
      }
      autosize
      minRows={1}
      maxRows={8}
      classNames={{ input: 'mono' }}
      value={typed}
      error={fault ? describeDiagnostic(fault) : undefined}
      onChange={(event) => setTyped(event.currentTarget.value)}
      onBlur={finish}
    />
  );
}
