import { Button, UnstyledButton } from '@mantine/core';
import type { Field, SubField } from '@ypomet/core';
import { useDraft } from '../../drafts/draft-context.tsx';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import { TYPE_NAMES, useOtherWorkflows } from './field-types.ts';
import { OptionsEditor } from './OptionsEditor.tsx';
import classes from './Panel.module.css';
import {
  ChoiceProperty,
  CountProperty,
  DayProperty,
  NumberProperty,
  SwitchProperty,
  TextProperty,
  type useChange,
} from './properties.tsx';

const MEGABYTE = 1_000_000;

type Change = ReturnType<typeof useChange>;

/** What a value of the field's type is held to. */
export function FieldLimits({
  field,
  change,
  onCode,
  onSelect,
}: {
  readonly field: Field | SubField;
  readonly change: Change;
  readonly onCode: (code: string, next: string) => boolean;
  readonly onSelect: (selection: Selection) => void;
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
            <NumberProperty label="At least" value={field.min} onKeep={(min) => change({ min })} />
            <NumberProperty label="At most" value={field.max} onKeep={(max) => change({ max })} />
          </div>
          {'total' in field && (
            <SwitchProperty label="Sum below the column" value={field.total} onKeep={(total) => change({ total })} />
          )}
        </>
      );
    case 'date':
      return (
        <div className={classes.pair}>
          <DayProperty label="Not before" value={field.min} onKeep={(min) => change({ min })} />
          <DayProperty label="Not after" value={field.max} onKeep={(max) => change({ max })} />
        </div>
      );
    case 'choice':
    case 'multi-choice':
      return (
        <>
          {field.type === 'choice' && (
            <ChoiceProperty
              label="Shown as"
              value={field.layout}
              choices={[
                { value: 'list', label: 'a list to choose from' },
                { value: 'row', label: 'buttons beside each other (up to six options)' },
                { value: 'column', label: 'buttons below each other (up to six options)' },
              ]}
              onKeep={(layout) => layout && change({ layout })}
            />
          )}
          <OptionsEditor options={field.options} onKeep={(options) => change({ options })} onCode={onCode} />
        </>
      );
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
        <>
          <div className={classes.pair}>
            <CountProperty
              label="Files at most"
              value={field.maxCount}
              min={1}
              onKeep={(count) => change({ maxCount: count ?? 10 })}
            />
            <NumberProperty
              label="MB of a file at most"
              value={String(field.maxBytes / MEGABYTE)}
              onKeep={(size) => change({ maxBytes: size === null ? 20 * MEGABYTE : Math.round(Number(size) * MEGABYTE) })}
            />
          </div>
          <TextProperty
            label="Kinds of files it takes"
            note="Media types or endings, such as application/pdf, image/*, .csv"
            placeholder="all"
            isCode
            value={field.kinds.join(', ')}
            onKeep={(kinds) =>
              change({
                kinds: kinds
                  .toLowerCase()
                  .split(/[\s,;]+/)
                  .filter((kind) => kind !== ''),
              })
            }
          />
        </>
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
          <ChoiceProperty
            label="Rows are shown"
            value={field.layout}
            choices={[
              { value: 'table', label: 'as lines of a table' },
              { value: 'cards', label: 'each as a card' },
            ]}
            onKeep={(layout) => layout && change({ layout })}
          />
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
      return (
        <ChoiceProperty
          label="Shown as"
          value={field.layout}
          choices={[
            { value: 'row', label: 'buttons beside each other' },
            { value: 'column', label: 'buttons below each other' },
          ]}
          onKeep={(layout) => layout && change({ layout })}
        />
      );
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
